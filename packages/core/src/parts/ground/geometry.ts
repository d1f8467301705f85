import type { Affine } from "../../maths/affine.ts";
import type { Size } from "../../maths/rect.ts";
import type { Crop, Ground } from "./schema.ts";
import { lensMap, type LensMap } from "./lens.ts";

/** The picture after straightening and cropping, at full size. */
export interface Frame extends Size {
  /**
   * Continuous frame coordinates (pixel corners at whole numbers) → the flat picture: the negative after the lens was
   * corrected, in full-size pixels of its own size. Light moves lie on it. Without corrections it is the negative itself.
   */
  readonly toFlat: Affine;
  /** The flat picture → the negative; null when they are the same. */
  readonly lens: LensMap | null;
  /** True when frame and negative pixels coincide, so that nothing is resampled. */
  readonly identity: boolean;
}

/** The frame that a recipe's geometry cuts from a negative. */
export function frameOf(negative: Size, ground: Ground): Frame {
  const longEdge = Math.max(negative.width, negative.height);
  const lens = lensMap(negative, ground.lens);
  const crop = ground.crop ?? wholeCrop(negative, ground);
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
  if (ground.angleDegrees === 0 && !lens) {
    // Without a slant the pixel grids can coincide: place the crop on whole pixels.
    cx = Math.round(cx);
    cy = Math.round(cy);
  }
  return {
    width,
    height,
    toFlat: { ax: cos, bx: -sin, cx, ay: sin, by: cos, cy },
    lens,
    identity: !lens && !turned && cx === 0 && cy === 0 && width === negative.width && height === negative.height,
  };
}

const CROP_STEPS = 24;
const EDGE_SAMPLES = 16;

/** The largest centred crop of the (turned) negative's own ratio that shows nothing from outside the negative. */
export function wholeCrop(
  negative: Size,
  { angleDegrees, quarterTurns, lens }: Pick<Ground, "angleDegrees" | "quarterTurns" | "lens">,
): Crop {
  const longEdge = Math.max(negative.width, negative.height);
  const swap = quarterTurns % 2 === 1;
  const width = swap ? negative.height : negative.width;
  const height = swap ? negative.width : negative.height;
  const cos = exactCos(angleDegrees);
  const sin = exactCos(angleDegrees - 90);
  const map = lensMap(negative, lens);
  const straight = Math.min(
    width / (width * Math.abs(cos) + height * Math.abs(sin)),
    height / (width * Math.abs(sin) + height * Math.abs(cos)),
  );
  const scale = map
    ? largestInside(map, negative, { width, height, angle: -(angleDegrees + 90 * quarterTurns) })
    : straight;
  return { centreX: 0, centreY: 0, width: (scale * width) / longEdge, height: (scale * height) / longEdge };
}

/** By halving: the largest share of a turned rectangle whose border lies inside the negative. */
function largestInside(map: LensMap, negative: Size, turned: Size & { readonly angle: number }): number {
  const cos = exactCos(turned.angle);
  const sin = exactCos(turned.angle - 90);
  const inside = (scale: number) => {
    for (let i = 0; i < 4 * EDGE_SAMPLES; i++) {
      const t = (2 * (i % EDGE_SAMPLES)) / EDGE_SAMPLES - 1;
      const [u, v] = [[t, -1], [1, t], [-t, 1], [-1, -t]][Math.floor(i / EDGE_SAMPLES)]; // prettier-ignore
      const x = (u * scale * turned.width) / 2;
      const y = (v * scale * turned.height) / 2;
      const [nx, ny] = map.toNegative(cos * x - sin * y + negative.width / 2, sin * x + cos * y + negative.height / 2);
      if (!(nx >= 0 && ny >= 0 && nx <= negative.width && ny <= negative.height)) return false;
    }
    return true;
  };
  let low = 0.02;
  let high = 2;
  for (let i = 0; i < CROP_STEPS; i++) {
    const middle = (low + high) / 2;
    if (inside(middle)) low = middle;
    else high = middle;
  }
  return low;
}

/** Cosine of degrees, exact at multiples of 90. */
function exactCos(degrees: number): number {
  const turn = ((degrees % 360) + 360) % 360;
  if (turn === 90 || turn === 270) return 0;
  if (turn === 0) return 1;
  if (turn === 180) return -1;
  return Math.cos((turn * Math.PI) / 180);
}
