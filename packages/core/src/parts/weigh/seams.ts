/** The light of a picture before an area was laid over, of the area's own conversion, and of both together. */
export interface SeamPicture {
  readonly width: number;
  readonly height: number;
  readonly base: Float32Array;
  readonly own: Float32Array;
  readonly mixed: Float32Array;
}

/** Where the edge of an area shows most. */
export interface Seam {
  /** How fast the light changes there because of the area, stops for each hundredth of the long edge. */
  readonly stopsPerPercent: number;
  /** Place, 0–1 from the left and from the top. */
  readonly x: number;
  readonly y: number;
}

/** A change faster than this is seen as an edge on something smooth. */
export const VISIBLE_SEAM = 0.09;
/** Pictures that change faster than this by themselves hide a seam, stops a pixel. */
const SMOOTH_STOPS = 0.05;
const DARKEST = 1e-4;
/** Changes slower than this are none, stops for each hundredth. */
const LEAST = 0.002;

/**
 * Looks for the visible edge of an area: places where both conversions are smooth by themselves but the passage between them
 * is steep.
 * @returns the steepest; null where nothing changes.
 */
export function findSeam({ width, height, base, own, mixed }: SeamPicture): Seam | null {
  const stops = (light: Float32Array) => Float32Array.from(light, (v) => Math.log2(Math.max(DARKEST, v)));
  const [below, above, both] = [base, own, mixed].map(stops);
  const share = 100 / Math.max(width, height);
  const rough = [below, above].map((values) => roughness(values, width, height));
  let steepest: Seam | null = null;
  for (let y = 1; y < height - 1; y++)
    for (let x = 1; x < width - 1; x++) {
      const at = y * width + x;
      const around = [at - width - 1, at - width, at - 1, at];
      if (rough.some((values) => around.some((i) => values[i] > SMOOTH_STOPS))) continue;
      const change = (i: number) => both[i] - below[i];
      const across = change(at + 1) - change(at - 1);
      const down = change(at + width) - change(at - width);
      const steep = Math.hypot(across, down) / 2 / share;
      if (steep > (steepest?.stopsPerPercent ?? LEAST))
        steepest = { stopsPerPercent: steep, x: (x + 0.5) / width, y: (y + 0.5) / height };
    }
  return steepest;
}

/** Largest step to the right and below, stops. */
function roughness(values: Float32Array, width: number, height: number): Float32Array {
  return values.map((value, i) => {
    const right = i % width < width - 1 ? Math.abs(values[i + 1] - value) : 0;
    const below = i < width * (height - 1) ? Math.abs(values[i + width] - value) : 0;
    return Math.max(right, below);
  });
}
