import { PlacesOfColour } from "../colour/colour-noise.ts";
import type { CellNoise } from "./chroma-smoothing.ts";

/** Pixels along a place: two blocks of a JPEG's halved colour. */
const PLACE = 32;
/** Rows that are looked at together. */
export const STRIPE_ROWS = PLACE;
/** Lighter than this in all channels is white, which has no noise left. */
const WHITE = 0.98;
/** Least variance by light: below it there is nothing to smooth. Rounding to 8 bits has some fifty times that. */
const LEAST = 1e-7;
/** Most of it: a picture that is uneven everywhere is not all noise. */
const MOST = 5e-4;
const NONE = [0, 0, 0];
/** Share of places, by how noisy their light is, whose noise is taken for the picture's. */
const SHARE = 0.5;

/**
 * The colour noise of a picture that a file has as finished colours: what its sensor, its maker's treatment and its compression left. Told as variance in
 * proportion to a channel's light ({@link PlacesOfColour}).
 */
export class FileNoise {
  readonly #width: number;
  readonly #places = new PlacesOfColour();

  /** @param width - pixels across. */
  constructor(width: number) {
    this.#width = width;
  }

  /**
   * Looks at {@link STRIPE_ROWS} rows.
   * @param planes - linear working red, green and blue, one after the other; 1.0 = white.
   */
  add(planes: Float32Array): void {
    const width = this.#width;
    const n = width * STRIPE_ROWS;
    const [red, green, blue] = [0, 1, 2].map((c) => planes.subarray(c * n, (c + 1) * n));
    for (let left = 0; left + PLACE <= width; left += PLACE) {
      let rr = 0, rg = 0, rb = 0, gg = 0, gb = 0, bb = 0, r = 0, g = 0, b = 0; // prettier-ignore
      for (let y = 0; y < PLACE; y++)
        for (let i = y * width + left; i < y * width + left + PLACE; i++) {
          const p = red[i], q = green[i], s = blue[i]; // prettier-ignore
          rr += p * p;
          rg += p * q;
          rb += p * s;
          gg += q * q;
          gb += q * s;
          bb += s * s; // prettier-ignore
          r += p;
          g += q;
          b += s; // prettier-ignore
        }
      if (Math.min(r, g, b) < WHITE * PLACE ** 2) this.#places.add([rr, rg, rb, gg, gb, bb, r, g, b, PLACE ** 2]);
    }
  }

  /**
   * What was found; null when colours are clean, or nowhere to be told.
   * @param rounded - variance by light that the file's own rounding leaves at edges, where nobody can tell it from their colours.
   */
  cellNoise(rounded = 0): CellNoise | null {
    const told = this.#places
      .noise()
      .filter((one) => one !== null)
      .sort((p, q) => p.slope - q.slope);
    let left = SHARE * told.reduce((sum, { places }) => sum + places, 0);
    const slope = Math.max(rounded, told.find(({ places }) => (left -= places) <= 0)?.slope ?? 0);
    if (slope < LEAST) return null;
    const own = Math.min(MOST, slope);
    return [[own, 0, 0], [0, own, 0], [0, 0, own], NONE, NONE, NONE].flatMap((byLight) => [0, ...byLight]);
  }
}
