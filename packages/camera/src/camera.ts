import { invert3, multiply3, REC709, transform3, type Matrix3, type Vector3 } from "@yelm/core";

/** Corner of the Bayer pattern, row by row. */
export const PATTERNS = ["RGGB", "GRBG", "GBRG", "BGGR"] as const;
export type Pattern = (typeof PATTERNS)[number];

/** A camera body: how light becomes electrons and codes. */
export interface CameraModel {
  readonly make: string;
  readonly model: string;
  readonly lens: string;
  readonly focalLengthMm: number;
  /** XYZ (D65 scale) → camera RGB; what the file states for illuminant D65. */
  readonly xyzToCamera: Matrix3;
  /** The file's second calibration, for illuminant A. */
  readonly xyzToCameraA: Matrix3;
  readonly baseIso: number;
  /** Electrons at saturation and base ISO. */
  readonly fullWell: number;
  /** Read noise in electrons at base ISO; falls towards `readNoiseFloor` as gain rises. */
  readonly readNoise: number;
  readonly readNoiseFloor: number;
  readonly blackLevel: number;
  /** What the four sites of a 2×2 cell add to the black level, row by row. */
  readonly blackOffsets: readonly [number, number, number, number];
  readonly bits: 12 | 14;
  /** Share of sites that are stuck bright. */
  readonly hotPixels: number;
}

/** The camera that took the demo negatives: a response of our own, with broad overlapping channels. */
export const HALDEN_ONE: CameraModel = {
  make: "Halden Optical",
  model: "Halden One",
  lens: "Halden 40 mm f/2",
  focalLengthMm: 40,
  xyzToCamera: [0.82, -0.21, -0.08, -0.36, 1.21, 0.18, -0.05, 0.17, 0.62],
  xyzToCameraA: [0.9, -0.26, -0.1, -0.31, 1.14, 0.2, -0.02, 0.12, 0.58],
  baseIso: 100,
  fullWell: 52000,
  readNoise: 4.2,
  readNoiseFloor: 1.6,
  blackLevel: 512,
  blackOffsets: [0, 0, 0, 0],
  bits: 14,
  hotPixels: 2e-6,
};

/** A camera whose channels are linear Rec.2020 itself; its files check the colour path. */
export function referenceCamera(rec2020FromXyz: Matrix3): CameraModel {
  return { ...HALDEN_ONE, model: "Halden Reference", xyzToCamera: rec2020FromXyz, xyzToCameraA: rec2020FromXyz };
}

/** Linear Rec.709 → camera RGB. */
export function sceneToCamera(camera: CameraModel): Matrix3 {
  return multiply3(camera.xyzToCamera, REC709.toXyz);
}

/** Camera response to a scene colour that counts as white, scaled so that the largest channel is 1. */
export function neutralOf(camera: CameraModel, white: Vector3 = [1, 1, 1]): Vector3 {
  const response = transform3(sceneToCamera(camera), white);
  const top = Math.max(...response);
  return [response[0] / top, response[1] / top, response[2] / top];
}

/** Read noise in electrons at an ISO setting: part of it lies behind the amplifier and shrinks with gain. */
export function readNoiseElectrons({ readNoise, readNoiseFloor, baseIso }: CameraModel, iso: number): number {
  const behind = Math.sqrt(Math.max(0, readNoise ** 2 - readNoiseFloor ** 2)) * (baseIso / iso);
  return Math.hypot(readNoiseFloor, behind);
}

/** Camera RGB → XYZ, for tests against ground truth. */
export function cameraToXyz(camera: CameraModel): Matrix3 {
  return invert3(camera.xyzToCamera);
}
