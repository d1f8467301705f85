// The inner module of libraw-wasm, which ships no types for it.
declare module "libraw-wasm/dist/libraw.js" {
  export interface RawMetadata {
    readonly raw_width: number;
    readonly raw_height: number;
    readonly iwidth: number;
    readonly iheight: number;
    readonly flip: number;
    readonly camera_make?: string;
    readonly camera_model?: string;
    readonly iso_speed?: number;
    readonly shutter?: number;
    readonly aperture?: number;
    readonly focal_len?: number;
    readonly timestamp: number;
    readonly filters: number;
    readonly lens?: { readonly Lens?: string };
    readonly color_data: {
      readonly black: number;
      readonly maximum: number;
      readonly cam_mul: number[];
      readonly cam_xyz: number[][];
      readonly rgb_cam: number[][];
      readonly dng_color?: { readonly illuminant: number; readonly colormatrix: number[][] }[];
      readonly dng_levels?: { readonly asshotneutral?: number[] };
    };
  }
  export interface LibRawInstance {
    open(bytes: Uint8Array, options: Record<string, unknown>): void;
    rawImageData():
      | {
          data: Uint16Array;
          raw_width: number;
          raw_height: number;
          width: number;
          height: number;
          left_margin: number;
          top_margin: number;
        }
      | undefined;
    imageData(): { data: Uint16Array; width: number; height: number; colors: number } | undefined;
    metadata(full: boolean): RawMetadata;
    delete(): void;
  }
  export interface LibRawModule {
    readonly LibRaw: new () => LibRawInstance;
  }
  export default function createLibRaw(options: Record<string, unknown>): Promise<LibRawModule>;
}
