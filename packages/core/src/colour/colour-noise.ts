import { REC2020 } from "./rgb-space.ts";

/** Bins of luminance, one a stop, from 2^-11 on. */
const BINS = 12;
const LOWEST = -11;
/** Share of a bin's places that are taken for flat, and how many times what is found in the last of them the noise is. */
const FLAT_SHARE = 0.05;
const NOISE_OF_FLAT = 1.6;
/** How many times noise may vary more along a line of colours than across it: what varies more is texture, of two materials or of light and shade. */
const TEXTURE = 8;
/** Places of a bin from which it is told by itself. */
const ENOUGH = 12;
/** Channels with less than this share of the luminance are taken to have as much. */
const LEAST_SHARE = 0.05;
const [LR, LG, LB] = REC2020.luminance;

/** The bin of a luminance, 0 to 11; 1.0 is sensor white. */
export const lightBin = (luminance: number): number =>
  Math.min(BINS - 1, Math.max(0, Math.round(Math.log2(luminance) - LOWEST)));

/** The luminance in the middle of a bin. */
export const binLight = (bin: number): number => 2 ** (bin + LOWEST);

/** Weighted sums over the pixels of a place: of RR, RG, RB, GG, GB, BB, R, G, B, and of weights. */
export type ColourSums = ArrayLike<number>;

/**
 * The colour noise of a picture, told from places all over it. Of each place it is asked how far its colours are off any straight line: where one or
 * two materials lie, in light and shade, soft or crisp, or one passes into another, colours lie on one, whatever their texture; noise does not
 * keep to any. Its variance is told in proportion to a channel's own light, as photons and rounding to codes of gamma have it.
 */
export class PlacesOfColour {
  readonly #found = Array.from({ length: BINS }, (): number[] => []);

  /** Looks at a place. */
  add(sums: ColourSums): void {
    const [RR, RG, RB, GG, GB, BB, R, G, B, weight] = Array.from(sums);
    if (!(weight > 0)) return;
    const r = R / weight;
    const g = G / weight;
    const b = B / weight;
    const light = LR * r + LG * g + LB * b;
    if (!(light > 0)) return;
    const rr = RR / weight - r * r, rg = RG / weight - r * g, rb = RB / weight - r * b; // prettier-ignore
    const gg = GG / weight - g * g, gb = GB / weight - g * b, bb = BB / weight - b * b; // prettier-ignore
    // Covariances of luminance with the channels, and of red and blue less luminance.
    const lr = LR * rr + LG * rg + LB * rb;
    const lb = LR * rb + LG * gb + LB * bb;
    const ll = LR * lr + LG * (LR * rg + LG * gg + LB * gb) + LB * lb;
    const [pl, ql] = [lr - ll, lb - ll];
    const rest = ll > 0 ? 1 / ll : 0;
    // Beside what noise of own light would make of them.
    const [p, q] = [(1 - LR) ** 2 * r + LG * LG * g + LB * LB * b, LR * LR * r + LG * LG * g + (1 - LB) ** 2 * b];
    const pp = Math.max(0, rr - 2 * lr + ll - pl * pl * rest) / Math.max(p, LEAST_SHARE * light);
    const qq = Math.max(0, bb - 2 * lb + ll - ql * ql * rest) / Math.max(q, LEAST_SHARE * light);
    const pq = (rb - lr - lb + ll - pl * ql * rest) / Math.max(Math.sqrt(Math.max(0, p * q)), LEAST_SHARE * light);
    const across = (pp + qq - Math.hypot(pp - qq, 2 * pq)) / 2;
    this.#found[lightBin(light)].push(Math.min(pp + qq, TEXTURE * Math.max(0, across)) / 2);
  }

  /** Variance of a channel's noise by its own light, and places that told it, by bin of luminance; null where they are too few. */
  noise(): ({ readonly slope: number; readonly places: number } | null)[] {
    return this.#found.map((values) => {
      if (values.length < ENOUGH) return null;
      const flat = Float64Array.from(values).sort()[Math.floor(FLAT_SHARE * values.length)];
      return { slope: NOISE_OF_FLAT * flat, places: values.length };
    });
  }
}
