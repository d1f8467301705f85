import { beforeAll, describe, expect, test } from "@jest/globals";
import { luminanceToLightness } from "../../../colour/lab.ts";
import { openHeap, seeded } from "../../../kernels/__tests__/open-heap.ts";
import type { KernelHeap } from "../../../kernels/heap.ts";
import { densityDeviation, emulsionOf } from "../emulsion.ts";
import { grainFilter, grainNoise } from "../grain.ts";
import type { Grain } from "../schema.ts";
import { defaultRecipe } from "../../../recipe/defaults.ts";
import { thrownGrains } from "../thrown-grains.ts";
import { tonedColour } from "../toning.ts";

let heap: KernelHeap;
beforeAll(async () => {
  heap = await openHeap();
});
const SIDE = 1024;
const grainOf = (granularity: number, crystalUm: number): Grain => ({
  granularity,
  crystalUm,
  format: "small",
  seed: 5,
});

/** Light of a flat print, with grain, on pixels of a given side on film. */
function light(grain: Grain, pixelUm: number, density: number, side = SIDE): Float32Array {
  const mark = heap.mark();
  const filter = grainFilter(grain, pixelUm);
  const noise = grainNoise(heap, filter, grain.seed, side, side, 0, 0);
  const print = heap.place(new Float32Array(side * side).fill(10 ** -density));
  heap.kernels.addGrain(print, side, noise, side, side, side, heap.place(filter.model));
  const out = heap.floats(print, side * side).slice();
  heap.release(mark);
  return out;
}

function moments(values: ArrayLike<number>): { mean: number; deviation: number; skewness: number } {
  const n = values.length;
  let [mean, square, cube] = [0, 0, 0];
  for (let i = 0; i < n; i++) mean += values[i] / n;
  for (let i = 0; i < n; i++) {
    const d = values[i] - mean;
    square += (d * d) / n;
    cube += (d * d * d) / n;
  }
  return { mean, deviation: Math.sqrt(square), skewness: cube / square ** 1.5 };
}

/** Densities through round apertures, 48 µm wide, laid over a picture whose pixels are far smaller. */
function throughAperture(picture: Float32Array, pixelUm: number): number[] {
  const radius = 24 / pixelUm;
  const reach = Math.ceil(radius);
  const found: number[] = [];
  for (let y = reach; y < SIDE - reach; y += 2 * reach)
    for (let x = reach; x < SIDE - reach; x += 2 * reach) {
      let [sum, weight] = [0, 0];
      for (let dy = -reach; dy <= reach; dy++)
        for (let dx = -reach; dx <= reach; dx++) {
          // Pixels on the rim count by how much of them is inside, to a sixteenth.
          let inside = 0;
          for (let s = 0; s < 16; s++)
            if (Math.hypot(dx + ((s & 3) - 1.5) / 4, dy + ((s >> 2) - 1.5) / 4) <= radius) inside++;
          sum += inside * picture[(y + dy) * SIDE + x + dx];
          weight += inside;
        }
      found.push(-Math.log10(sum / weight));
    }
  return found;
}

describe("grain", () => {
  // Fine and faint, coarse and faint, fine and nearly opaque.
  test.each([
    [8, 4, 0.3],
    [22, 9, 1],
    [38, 12, 1.8],
    [50, 3, 1],
  ])(
    "of granularity %d and %d µm is as strong through 48 µm at D %d as its emulsion",
    (granularity, crystalUm, density) => {
      const grain = grainOf(granularity, crystalUm);
      const stated = densityDeviation(emulsionOf(grain), density);
      if (density === 1) expect(Math.abs((1000 * stated) / granularity - 1)).toBeLessThan(1e-3);
      const found = moments(throughAperture(light(grain, 3, density), 3));
      // Some 4000 apertures: their deviation is known to 1.2 %.
      expect(Math.abs(found.deviation / stated - 1)).toBeLessThan(0.06);
    },
  );

  test("is that of grains thrown one by one: variance, skewness, likeness of neighbours", () => {
    const pixel = 4;
    for (const [granularity, crystalUm, density] of [
      [45, 6, 0.2],
      [45, 6, 1],
    ]) {
      const grain = grainOf(granularity, crystalUm);
      const cells = thrownGrains(emulsionOf(grain), Math.LN10 * density, 4 * 300, 1, seeded(3));
      const thrown = scaledDown(cells, 4 * 300, pixel);
      const fast = light(grain, pixel, density, 300);
      const [a, b] = [moments(thrown), moments(fast)];
      expect(Math.abs(Math.log10(b.mean) + density)).toBeLessThan(0.01);
      expect(Math.abs((b.deviation / b.mean / (a.deviation / a.mean)) ** 2 - 1)).toBeLessThan(0.12);
      expect(Math.sign(b.skewness)).toBe(Math.sign(a.skewness));
      for (const step of [1, 2])
        expect(Math.abs(likeness(fast, 300, step) - likeness(thrown, 300, step))).toBeLessThan(0.09);
    }
  });

  test.each([
    [6, 3, 4],
    [12, 4, 4],
    [20, 5, 8],
    [4, 8, 2],
  ])(
    "crystals of %d µm on pixels of %d µm, scaled down %d times, are those of large pixels",
    (crystalUm, pixelUm, times) => {
      const small = SIDE / times;
      const scaled = scaledDown(light(grainOf(15, crystalUm), pixelUm, 1), SIDE, times);
      const rendered = light(grainOf(15, crystalUm), pixelUm * times, 1, small);
      expect(Math.abs(moments(scaled).deviation / moments(rendered).deviation - 1)).toBeLessThan(0.04);
      expect(Math.abs(likeness(scaled, small, 1) - likeness(rendered, small, 1))).toBeLessThan(0.03);
    },
  );

  test("is dark specks in the lights and light ones in the darks", () => {
    const grain = grainOf(55, 3);
    expect(moments(light(grain, 4, 0.05)).skewness).toBeLessThan(-0.2);
    expect(moments(light(grain, 4, 1.5)).skewness).toBeGreaterThan(0.2);
  });

  test.each([
    [20, 0.5],
    [60, 0.5],
    [60, 1],
    [60, 2],
  ])("of granularity %d leaves a print of density %d as dense as it was", (granularity, density) => {
    const { mean } = moments(light(grainOf(granularity, 8), 6, density));
    expect(Math.abs(Math.log10(mean) + density)).toBeLessThan(0.01);
    expect(Math.abs(luminanceToLightness(mean) - luminanceToLightness(10 ** -density))).toBeLessThan(0.15);
  });

  test("finer crystals than the granularity allows lie in clumps", () => {
    const { diameterUm, opacity } = emulsionOf(grainOf(60, 0.5));
    expect(diameterUm).toBeGreaterThan(1);
    expect(opacity).toBeGreaterThan(0.99);
  });
});

/** A picture of `side` pixels scaled down by a whole number. */
function scaledDown(picture: ArrayLike<number>, side: number, times: number): Float32Array {
  const small = side / times;
  return Float32Array.from({ length: small * small }, (_, i) => {
    const [x, y] = [(i % small) * times, Math.floor(i / small) * times];
    let sum = 0;
    for (let dy = 0; dy < times; dy++) for (let dx = 0; dx < times; dx++) sum += picture[(y + dy) * side + x + dx];
    return sum / times ** 2;
  });
}

/** Correlation of pixels a step apart. */
function likeness(picture: ArrayLike<number>, side: number, step: number): number {
  const { mean, deviation } = moments(picture);
  let [sum, count] = [0, 0];
  for (let i = 0; i < side * side; i++)
    if ((i % side) + step < side) {
      sum += (picture[i] - mean) * (picture[i + step] - mean);
      count++;
    }
  return sum / count / deviation ** 2;
}

test.each(["sepia", "copper", "selenium", "coffee", "blue"] as const)(
  "%s changes without a step from black to white, also where the screen shows less of it",
  (toner) => {
    const chroma = (y: number) => {
      const rgb = tonedColour(y, { ...defaultRecipe().finish.toning, toner, strength: 1 });
      return (Math.max(...rgb) - Math.min(...rgb)) / Math.max(1e-9, ...rgb);
    };
    const steps = Array.from({ length: 600 }, (_, i) => chroma((0.005 + (0.99 * i) / 600) ** 3));
    // The ends rise from nothing, by the nature of a share; a step in the middle is one.
    for (let i = 60; i + 1 < steps.length; i++) expect(Math.abs(steps[i + 1] - steps[i])).toBeLessThan(0.02);
  },
);
