/** A piece of light, width·height values. */
export interface LightPiece {
  readonly light: Float32Array;
  readonly width: number;
  readonly height: number;
}

/** Least step of light that counts as an edge, as a share of its lighter side. */
const LEAST_STEP = 0.35;
/** Pixels to each side of an edge that are looked at. */
const REACH = 5;
/** How level both sides have to be, as a share of the step. */
const LEVEL = 0.12;
/** Edges of which the sharpest share tells the blur: the others are out of focus. */
const SHARPEST = 0.2;
const LEAST_EDGES = 30;
/** Narrower than this is what a pixel itself makes of an edge. */
const LEAST_BLUR = 0.3;

/**
 * The capture's blur from the picture's own edges: rows and columns that go from one level to another in one step; the step of an
 * edge blurred by a Gaussian of σ has a steepest slope of 1 / (σ·√(2π)).
 * @returns standard deviation in pixels of what is sharpest, the pixels' own aperture in it; null when there are too few clear edges.
 */
export function edgeBlur(pieces: readonly LightPiece[]): number | null {
  const blurs: number[] = [];
  for (const { light, width, height } of pieces) {
    const along = (count: number, lines: number, step: number, apart: number) => {
      for (let line = 0; line < lines; line++)
        for (let i = REACH; i < count - REACH - 1; i++) {
          const blur = blurAt((k) => light[line * apart + (i + k) * step]);
          if (blur !== null) blurs.push(blur);
        }
    };
    along(width, height, 1, width);
    along(height, width, width, 1);
  }
  if (blurs.length < LEAST_EDGES) return null;
  blurs.sort((p, q) => p - q);
  const median = blurs[Math.floor((SHARPEST / 2) * blurs.length)];
  return Math.round(100 * Math.max(LEAST_BLUR, median)) / 100;
}

/** The blur of an edge whose steepest slope lies between pixels 0 and 1; null when there is none. */
function blurAt(at: (k: number) => number): number | null {
  const slope = at(1) - at(0);
  const steep = Math.abs(slope);
  // The steepest of its neighbourhood, so that every edge counts once.
  if (!(steep > Math.abs(at(0) - at(-1))) || !(steep >= Math.abs(at(2) - at(1)))) return null;
  const [low, high] = [side(at, -REACH, -REACH + 2), side(at, REACH - 1, REACH + 1)];
  const step = Math.abs(high.mean - low.mean);
  if (step < LEAST_STEP * Math.max(high.mean, low.mean)) return null;
  if (Math.max(low.range, high.range) > LEVEL * step) return null;
  // A slope over one whole pixel is less steep than the edge's steepest point: the variance of that is taken off.
  const spread = step / (steep * Math.sqrt(2 * Math.PI));
  const blur = Math.sqrt(Math.max(0, spread * spread - 1 / 12));
  return blur < REACH / 2 ? blur : null;
}

function side(at: (k: number) => number, from: number, to: number): { readonly mean: number; readonly range: number } {
  let [sum, least, most] = [0, Infinity, -Infinity];
  for (let k = from; k <= to; k++) {
    const v = at(k);
    sum += v;
    least = Math.min(least, v);
    most = Math.max(most, v);
  }
  return { mean: sum / (to - from + 1), range: most - least };
}
