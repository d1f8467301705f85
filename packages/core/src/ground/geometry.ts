import type { Crop, Recipe } from "../recipe/schema.ts";

/** Width and height in pixels. */
export interface Size {
  readonly width: number;
  readonly height: number;
}

/** (x, y) ↦ (ax·x + bx·y + cx, ay·x + by·y + cy). */
export interface Affine {
  readonly ax: number;
  readonly bx: number;
  readonly cx: number;
  readonly ay: number;
  readonly by: number;
  readonly cy: number;
}

/** The picture after straightening and cropping, at full size. */
export interface Frame extends Size {
  /** Continuous frame coordinates (pixel corners at whole numbers) → continuous negative coordinates, full-size pixels. */
  readonly toNegative: Affine;
  /** True when frame and negative pixels coincide, so that nothing is resampled. */
  readonly identity: boolean;
}

/** The frame that a recipe's geometry cuts from a negative. */
export function frameOf(negative: Size, ground: Recipe["ground"]): Frame {
  const longEdge = Math.max(negative.width, negative.height);
  const crop = ground.crop ?? wholeCrop(negative, ground.angleDegrees, ground.quarterTurns);
  const width = Math.max(1, Math.round(crop.width * longEdge));
  const height = Math.max(1, Math.round(crop.height * longEdge));
  const angle = -(ground.angleDegrees + 90 * ground.quarterTurns);
  const cos = exactCos(angle);
  const sin = exactCos(angle - 90);
  // A frame point, from the frame's centre, lies at crop centre + offset in the turned system; turn it back.
  const turned = ground.angleDegrees !== 0 || ground.quarterTurns !== 0;
  const left = crop.centreX * longEdge - width / 2;
  const top = crop.centreY * longEdge - height / 2;
  let cx = cos * left - sin * top + negative.width / 2;
  let cy = sin * left + cos * top + negative.height / 2;
  if (ground.angleDegrees === 0) {
    // Without a slant the pixel grids can coincide: place the crop on whole pixels.
    cx = Math.round(cx);
    cy = Math.round(cy);
  }
  return {
    width,
    height,
    toNegative: { ax: cos, bx: -sin, cx, ay: sin, by: cos, cy },
    identity: !turned && cx === 0 && cy === 0 && width === negative.width && height === negative.height,
  };
}

/** The largest centred crop of the (turned) negative's own ratio that stays inside it when slanted. */
export function wholeCrop(negative: Size, angleDegrees: number, quarterTurns: number): Crop {
  const longEdge = Math.max(negative.width, negative.height);
  const swap = quarterTurns % 2 === 1;
  const width = swap ? negative.height : negative.width;
  const height = swap ? negative.width : negative.height;
  const cos = Math.abs(exactCos(angleDegrees));
  const sin = Math.abs(exactCos(angleDegrees - 90));
  const scale = Math.min(width / (width * cos + height * sin), height / (width * sin + height * cos));
  return { centreX: 0, centreY: 0, width: (scale * width) / longEdge, height: (scale * height) / longEdge };
}

/** Cosine of degrees, exact at multiples of 90. */
function exactCos(degrees: number): number {
  const turn = ((degrees % 360) + 360) % 360;
  if (turn === 90 || turn === 270) return 0;
  if (turn === 0) return 1;
  if (turn === 180) return -1;
  return Math.cos((turn * Math.PI) / 180);
}

/** Applies a map to a point. */
export function applyAffine(map: Affine, x: number, y: number): [number, number] {
  return [map.ax * x + map.bx * y + map.cx, map.ay * x + map.by * y + map.cy];
}

/** The inverse map. */
export function invertAffine({ ax, bx, cx, ay, by, cy }: Affine): Affine {
  const s = 1 / (ax * by - bx * ay);
  return {
    ax: by * s,
    bx: -bx * s,
    cx: (bx * cy - by * cx) * s,
    ay: -ay * s,
    by: ax * s,
    cy: (ay * cx - ax * cy) * s,
  };
}
