import { describe, expect, test } from "@jest/globals";
import { seeded } from "../../kernels/__tests__/open-heap.ts";
import { edgeBlur } from "../edge-blur.ts";
import { histograms } from "../histogram.ts";
import { readKey } from "../key.ts";
import { lightnessToLuminance } from "../../colour/lab.ts";

describe("key", () => {
  const printOf = (zoneOf: (share: number) => number) =>
    Float32Array.from({ length: 4000 }, (_, i) => lightnessToLuminance(10 * zoneOf((i + 0.5) / 4000)));
  test.each([
    ["low", (share: number) => 5 * share ** 2],
    ["normal", (share: number) => 10 * share],
    ["high", (share: number) => 10 - 4 * share ** 2],
  ] as const)("%s, with the zones between which it lies", (key, zoneOf) => {
    const read = readKey(histograms(new Float32Array(0), printOf(zoneOf)));
    expect(read.key).toBe(key);
    const zones = [0.05, 0.5, 0.95].map(zoneOf).sort((p, q) => p - q);
    [read.dark, read.middle, read.light].forEach((zone, i) => expect(Math.abs(zone - zones[i])).toBeLessThan(0.1));
  });
});

describe("the capture's blur from its edges", () => {
  /** Slanted edges of known blur, averaged over each pixel as a sensor does, with noise. */
  const piece = (sigma: number, noise: number, seed: number) => {
    const random = seeded(seed);
    const normal = () => Math.sqrt(-2 * Math.log(1 - random())) * Math.cos(2 * Math.PI * random());
    const [width, height] = [160, 120];
    const step = (d: number) => 0.5 * (1 + erf(d / (Math.SQRT2 * sigma)));
    const light = Float32Array.from({ length: width * height }, (_, i) => {
      const [x, y] = [i % width, Math.floor(i / width)];
      let sum = 0;
      for (let k = 0; k < 8; k++) sum += step(x + (k + 0.5) / 8 - 80.5 - 0.12 * (y - 60)) / 8;
      return 0.1 + 0.5 * sum + noise * normal();
    });
    return { light, width, height };
  };
  test.each([0.4, 0.7, 1.2])("σ %d pixels and the pixel's aperture are found to within a sixth", (sigma) => {
    const found = edgeBlur([piece(sigma, 0.002, 3)]);
    expect(Math.abs(found! / Math.sqrt(sigma ** 2 + 1 / 12) - 1)).toBeLessThan(1 / 6);
  });
  test("edges out of focus beside sharp ones do not count; without edges there is no answer", () => {
    expect(edgeBlur([piece(0.6, 0.002, 1), piece(2, 0.002, 2), piece(2, 0.002, 4)])).toBeLessThan(0.75);
    const flat = { light: new Float32Array(80 * 80).fill(0.2), width: 80, height: 80 };
    expect(edgeBlur([flat])).toBeNull();
  });
});

/** Abramowitz and Stegun 7.1.26, error below 1.5e-7. */
function erf(x: number): number {
  const t = 1 / (1 + 0.3275911 * Math.abs(x));
  const poly = t * (0.254829592 + t * (-0.284496736 + t * (1.421413741 + t * (-1.453152027 + t * 1.061405429))));
  return Math.sign(x) * (1 - poly * Math.exp(-x * x));
}
