import type { Matrix3, Vector3 } from "../colour/matrix.ts";
import type { NoiseModel } from "./noise-model.ts";
import type { Calibration } from "./camera-matrix.ts";

/** What is known of a capture beyond its pixels; stored with the negative and printed by `yelm info`. */
export interface CaptureInfo {
  readonly kind: "raw" | "tiff" | "png" | "jpeg";
  /** Upright size, pixels. */
  readonly width: number;
  readonly height: number;
  /** Quarter turns clockwise that make it upright. */
  readonly quarterTurns: number;
  /** True when it is stored mirrored left to right; it is mirrored before it is turned. */
  readonly mirrored?: boolean;
  readonly make: string;
  readonly model: string;
  readonly lens: string;
  readonly iso: number | null;
  readonly shutterSeconds: number | null;
  readonly fNumber: number | null;
  readonly focalLengthMm: number | null;
  readonly takenAt: string | null;
  /** Who made it, whose it is and what it shows, where the file says so. */
  readonly artist?: string;
  readonly copyright?: string;
  readonly caption?: string;
  /** Bayer pattern as stored, before turning; null when there is none. */
  readonly cfa: string | null;
  /** Black level of the four sites of the pattern, and saturation, sensor codes. */
  readonly black: readonly number[] | null;
  readonly white: number | null;
  /** Camera response to white as shot, largest 1. */
  readonly neutral: Vector3 | null;
  readonly calibrations: readonly Calibration[];
  /** Noise of the sensor's sites; null for what is no mosaic, and when it could not be measured. */
  readonly noise: NoiseModel | null;
  /** Share of the sites of red, green and blue that are saturated; null for what is no mosaic. */
  readonly clipped: Vector3 | null;
  /** Stops from sensor white to where the last channel saturates; highlights are measured up to there. */
  readonly headroomStops: number;
  /** Bits of each channel as the file stores them, of what is no raw file. */
  readonly bits?: 8 | 16;
  /** The file's linear colours to the working space, of what is no raw file; those of Rec.709 unless said. */
  readonly toWorking?: Matrix3;
  /** True when the file stores colour at half the resolution of light, as most JPEGs do, or shows that it once did. */
  readonly halvedColour?: boolean;
  /** True when a JPEG rounds colour so coarsely that its blocks may show. */
  readonly coarseColour?: boolean;
  /** True when the noise of finished colours was smoothed on their way into tiles; an older negative's is not until somebody asks for it. */
  readonly smoothed?: boolean;
  /** True when the file holds no colour, so that weights have nothing to weigh. */
  readonly grey: boolean;
  /** Who demosaiced: ours, or the unpacker when there is no Bayer pattern. */
  readonly demosaic: "directional" | "unpacker" | "none";
}
