import { REC2020 } from "../../colour/rgb-space.ts";
import type { Size } from "../../maths/rect.ts";

/** Cells to each side that a cell's colour is held against: as far as a block of halved chroma goes on. */
const APART = 2;
/** Votes of a cell, sixteen at most, from which its colour is told: of noisy pixels there are few. */
const TOLD = 0.1;
/** Bins of luminance, one a stop, from 2^-11 on. */
const BINS = 12;
const LOWEST = -11;
/** Cells along a place that is looked at as one, and the share of them that must be told. */
const PLACE = 4;
const MOSTLY = 0.8;
/** Variance of four pixels side by side whose values rise by one from cell to cell: an even passage is no noise. */
const RAMP = 1.25 / 16;
/** Share of a bin's places that are taken for flat, and how many times what is found in the last of them the noise is. */
const FLAT_SHARE = 0.05;
const NOISE_OF_FLAT = 1.6;
/** Places of a bin from which it is told by itself. */
const ENOUGH = 12;
/** How strongly a fit is held for its noise: stains in smooth places are seen sooner than a share of an edge's light. Tried on photographs and truth. */
const HELD = 20;
const MOST_HELD = 0.05;
const [LR, LG, LB] = REC2020.luminance;

/**
 * How firmly the fit of each cell is to be held because its colours are noise, of a sensor or of a file's compression: votes times a multiple of
 * the variance of red, green and blue over luminance. The variance is told by luminance, from the places that are most even in themselves and
 * against what is about them.
 * @param sums - of every cell, `stride` a row: Σ v · (RR, RG, RB, GG, GB, BB, R, G, B, 1), v = vote / luminance², ten planes.
 * @param out - a plane of the same layout.
 */
export function holdForNoise(sums: Float32Array, stride: number, { width, height }: Size, out: Float32Array): void {
  const plane = sums.length / 10;
  const ratios = new Float32Array(3 * plane);
  const inside = new Float32Array(plane);
  const bin = new Int8Array(plane).fill(-1);
  out.fill(0);
  const [RR, RG, RB, GG, GB, BB, R, G, B, ONE] = Array.from({ length: 10 }, (_, k) => sums.subarray(k * plane, (k + 1) * plane)); // prettier-ignore
  for (let y = 0; y < height; y++)
    for (let i = y * stride; i < y * stride + width; i++) {
      // Σ v · luminance · (R, G, B), and Σ v · luminance²: as many as there are votes.
      const withRed = LR * RR[i] + LG * RG[i] + LB * RB[i];
      const withGreen = LR * RG[i] + LG * GG[i] + LB * GB[i];
      const withBlue = LR * RB[i] + LG * GB[i] + LB * BB[i];
      const votes = LR * withRed + LG * withGreen + LB * withBlue;
      const light = LR * R[i] + LG * G[i] + LB * B[i];
      out[i] = votes;
      if (votes < TOLD || !(light > 0)) continue;
      const r = R[i] / light;
      const g = G[i] / light;
      const b = B[i] / light;
      // Σ v · |(R, G, B) − luminance · (r, g, b)|².
      const along = r * withRed + g * withGreen + b * withBlue;
      const apart = RR[i] + GG[i] + BB[i] - 2 * along + votes * (r * r + g * g + b * b);
      inside[i] = Math.max(0, apart / (3 * votes));
      ratios[i] = r;
      ratios[plane + i] = g;
      ratios[2 * plane + i] = b;
      bin[i] = Math.min(BINS - 1, Math.max(0, Math.round(Math.log2(light / ONE[i]) - LOWEST)));
    }
  const held = flatOf(unevenness(ratios, inside, bin, stride, { width, height })).map((value) =>
    Math.min(MOST_HELD, HELD * NOISE_OF_FLAT * value),
  );
  for (let i = 0; i < plane; i++) out[i] *= bin[i] < 0 ? 0 : held[bin[i]];
}

/** How uneven colour is at each place, in itself and against what is about it, by bin. */
function unevenness(
  ratios: Float32Array,
  inside: Float32Array,
  bin: Int8Array,
  stride: number,
  { width, height }: Size,
): number[][] {
  const plane = bin.length;
  const down = APART * stride;
  const found = Array.from({ length: BINS }, (): number[] => []);
  for (let top = APART; top + PLACE + APART <= height; top += PLACE)
    for (let left = APART; left + PLACE + APART <= width; left += PLACE) {
      let sum = 0;
      let told = 0;
      for (let y = top; y < top + PLACE; y++)
        for (let i = y * stride + left; i < y * stride + left + PLACE; i++) {
          // −1 has all bits.
          if ((bin[i] | bin[i - APART] | bin[i + APART] | bin[i - down] | bin[i + down]) < 0) continue;
          told++;
          const ramp = slopeSquared(ratios, plane, i, APART) + slopeSquared(ratios, plane, i, down);
          sum += Math.max(0, inside[i] - RAMP * ramp);
          sum += (fromMiddle(ratios, plane, i, APART) + fromMiddle(ratios, plane, i, down)) / 2;
        }
      const middle = bin[(top + PLACE / 2) * stride + left + PLACE / 2];
      if (told > MOSTLY * PLACE ** 2 && middle >= 0) found[middle].push(sum / told);
    }
  return found;
}

/** What the colour of a cell is off the mean of two on both sides of it: the variance of one channel, if it is noise. */
function fromMiddle(ratios: Float32Array, plane: number, cell: number, step: number): number {
  let sum = 0;
  for (let i = cell; i < ratios.length; i += plane) {
    const off = ratios[i] - (ratios[i - step] + ratios[i + step]) / 2;
    sum += off * off;
  }
  return sum / 4.5;
}

/** How much the colour of cells about one changes from cell to cell: squared, of one channel. */
function slopeSquared(ratios: Float32Array, plane: number, cell: number, step: number): number {
  let sum = 0;
  for (let i = cell; i < ratios.length; i += plane) {
    const change = (ratios[i + step] - ratios[i - step]) / (2 * APART);
    sum += change * change;
  }
  return sum / 3;
}

/** What is found in the flat places of each bin; of one with few places, in those of the nearest darker, else lighter one that has enough; 0 if none has. */
function flatOf(found: readonly number[][]): number[] {
  const own = found.map((values) =>
    values.length < ENOUGH ? null : Float64Array.from(values).sort()[Math.floor(FLAT_SHARE * values.length)],
  );
  const order = (bin: number) => Array.from({ length: BINS }, (_, far) => [bin - far, bin + far]).flat();
  return own.map((_, bin) => order(bin).map((other) => own[other]).find((one) => one !== null && one !== undefined) ?? 0); // prettier-ignore
}
