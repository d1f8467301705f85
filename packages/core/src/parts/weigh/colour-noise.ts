import { binLight, lightBin, PlacesOfColour } from "../../colour/colour-noise.ts";
import { REC2020 } from "../../colour/rgb-space.ts";
import type { Size } from "../../maths/rect.ts";

/** Votes of a cell, sixteen at most, from which its colour is told: of noisy pixels there are few. */
const TOLD = 0.1;
/** Cells along a place that is looked at as one, from one to the next, and the share of them that must be told. */
const PLACE = 8;
const STEP = 4;
const MOSTLY = 0.8;
const SUMS = 10;
/** How strongly a fit is held for its noise: stains in smooth places are seen sooner than a share of an edge's light. Tried on photographs and truth. */
const HELD = 20;
const MOST_HELD = 0.05;
const [LR, LG, LB] = REC2020.luminance;

/**
 * How firmly the fit of each cell is to be held because its colours are noise, of a sensor or of a file's compression: votes times a multiple of
 * the variance of red, green and blue over luminance, which is told by luminance ({@link PlacesOfColour}).
 * @param sums - of every cell, `stride` a row: Σ v · (RR, RG, RB, GG, GB, BB, R, G, B, 1), v = vote / luminance², ten planes.
 * @param out - a plane of the same layout.
 */
export function holdForNoise(sums: Float32Array, stride: number, { width, height }: Size, out: Float32Array): void {
  const plane = sums.length / SUMS;
  const [RR, RG, RB, GG, GB, BB, R, G, B, ONE] = Array.from({ length: SUMS }, (_, k) => sums.subarray(k * plane, (k + 1) * plane)); // prettier-ignore
  const bin = new Int8Array(plane).fill(-1);
  out.fill(0);
  for (let y = 0; y < height; y++)
    for (let i = y * stride; i < y * stride + width; i++) {
      // Σ v · luminance²: as many as there are votes.
      const votes =
        LR * LR * RR[i] + LG * LG * GG[i] + LB * LB * BB[i] + 2 * (LR * LG * RG[i] + LR * LB * RB[i] + LG * LB * GB[i]);
      const light = LR * R[i] + LG * G[i] + LB * B[i];
      if (votes < TOLD || !(light > 0)) continue;
      out[i] = votes;
      bin[i] = lightBin(light / ONE[i]);
    }
  const held = filled(noiseOf(sums, bin, stride, { width, height })).map((value) => Math.min(MOST_HELD, HELD * value));
  for (let i = 0; i < plane; i++) out[i] *= bin[i] < 0 ? 0 : held[bin[i]];
}

/** The variance of noise over luminance² by bin, told from places of cells. */
function noiseOf(sums: Float32Array, bin: Int8Array, stride: number, { width, height }: Size): (number | null)[] {
  const places = new PlacesOfColour();
  const pooled = new Float64Array(SUMS);
  for (let top = 0; top + PLACE <= height; top += STEP)
    for (let left = 0; left + PLACE <= width; left += STEP) {
      let told = 0;
      pooled.fill(0);
      for (let y = top; y < top + PLACE; y++)
        for (let i = y * stride + left; i < y * stride + left + PLACE; i++) {
          if (bin[i] < 0) continue;
          told++;
          for (let k = 0, at = i; k < SUMS; k++, at += bin.length) pooled[k] += sums[at];
        }
      if (told > MOSTLY * PLACE ** 2) places.add(pooled);
    }
  return places.noise().map((one, i) => one && one.slope / binLight(i));
}

/** Where a bin has none, that of the nearest darker, else lighter one that has; 0 if none has. */
function filled(values: readonly (number | null)[]): number[] {
  const order = (bin: number) => values.flatMap((_, far) => [bin - far, bin + far]);
  return values.map((_, bin) => order(bin).map((other) => values[other]).find((one) => one !== null && one !== undefined) ?? 0); // prettier-ignore
}
