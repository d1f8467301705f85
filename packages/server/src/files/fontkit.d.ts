/** What is used of the library; it comes without types. */
declare module "fontkit" {
  export interface GlyphPath {
    scale(x: number, y: number): GlyphPath;
    translate(x: number, y: number): GlyphPath;
    toSVG(): string;
  }
  export interface Font {
    readonly unitsPerEm: number;
    readonly capHeight: number;
    hasGlyphForCodePoint(code: number): boolean;
    layout(text: string): {
      readonly glyphs: readonly { readonly path: GlyphPath }[];
      readonly positions: readonly { readonly xAdvance: number; readonly xOffset: number }[];
    };
  }
  export function create(buffer: Buffer): unknown;
}
