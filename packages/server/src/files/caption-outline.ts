import { readFileSync } from "node:fs";
import { createRequire } from "node:module";
import { create, type Font } from "fontkit";
import sharp from "sharp";
import { captionTransform, type CaptionOutline, type MountLayout } from "@yelm/core";
import type { Letters } from "./print-bands.ts";

const require = createRequire(import.meta.url);
/** The face's files, each with a part of all letters. */
const FILES = ["latin", "latin-ext", "vietnamese"].map(
  (part) => `@fontsource-variable/newsreader/files/newsreader-${part}-wght-normal.woff2`,
);
let fonts: Font[] | null = null;

function faces(): Font[] {
  fonts ??= FILES.map((file) => create(readFileSync(require.resolve(file))) as Font);
  return fonts;
}

/** The curves of a line of text in the app's serif. A letter that the face does not have is left as a gap. */
export function captionOutline(text: string): CaptionOutline {
  const [latin] = faces();
  const pieces: string[] = [];
  let x = 0;
  for (const run of runsOf(text)) {
    const { glyphs, positions } = run.font.layout(run.text);
    const unit = 1 / run.font.unitsPerEm;
    glyphs.forEach((glyph, i) => {
      const { xOffset, xAdvance } = positions[i];
      pieces.push(
        glyph.path
          .scale(unit, -unit)
          .translate(x + xOffset * unit, 0)
          .toSVG(),
      );
      x += xAdvance * unit;
    });
  }
  return { path: pieces.join(""), width: x, capHeight: latin.capHeight / latin.unitsPerEm };
}

/** Runs of letters that one file of the face has. */
function runsOf(text: string): { font: Font; text: string }[] {
  const runs: { font: Font; text: string }[] = [];
  for (const letter of text) {
    const font = faces().find((one) => one.hasGlyphForCodePoint(letter.codePointAt(0)!)) ?? faces()[0];
    const last = runs.at(-1);
    if (last?.font === font) last.text += letter;
    else runs.push({ font, text: letter });
  }
  return runs;
}

/** A caption as it lies on a sheet; null where there is none. */
export async function letters(text: string, layout: MountLayout | null): Promise<Letters | null> {
  if (!layout?.caption) return null;
  const outline = captionOutline(text);
  const place = captionTransform(outline, layout);
  if (!place || outline.path === "") return null;
  const { scale, left, baseline } = place;
  const x = Math.floor(left - scale * 0.2);
  const y = Math.floor(baseline - scale * 1.1);
  const width = Math.ceil(scale * (outline.width + 0.4)) + 1;
  const height = Math.ceil(scale * 1.6) + 1;
  const svg = `<svg xmlns="http://www.w3.org/2000/svg" width="${width}" height="${height}"><path fill="#fff" transform="translate(${left - x} ${baseline - y}) scale(${scale})" d="${outline.path}"/></svg>`;
  const coverage = await sharp(Buffer.from(svg)).extractChannel(3).raw().toBuffer();
  return { x, y, width, height, coverage };
}
