import { beforeAll, describe, expect, test } from "@jest/globals";
import { luminanceToLightness } from "../../../colour/lab.ts";
import { openHeap } from "../../../kernels/__tests__/open-heap.ts";
import type { KernelHeap } from "../../../kernels/heap.ts";
import { grainFilter, grainNoise } from "../grain.ts";
import type { Grain } from "../schema.ts";
import { defaultRecipe } from "../../../recipe/defaults.ts";
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

/** Density of a flat print of density 1, with grain, on pixels of a given side on film. */
function density(grain: Grain, pixelUm: number, side = SIDE): Float32Array {
  const mark = heap.mark();
  const filter = grainFilter(grain, pixelUm);
  const noise = grainNoise(heap, filter, grain.seed, side, side, 0, 0);
  const out = Float32Array.from(heap.floats(noise, side * side), (v) => 1 + filter.sigma * v);
  heap.release(mark);
  return out;
}

function deviation(values: ArrayLike<number>): number {
  let [sum, squares] = [0, 0];
  for (let i = 0; i < values.length; i++) {
    sum += values[i];
    squares += values[i] ** 2;
  }
  const mean = sum / values.length;
  return Math.sqrt(squares / values.length - mean ** 2);
}

/** Mean density under round apertures, 48 µm wide, laid over a picture whose pixels are far smaller. */
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
      found.push(sum / weight);
    }
  return found;
}

describe("grain", () => {
  test.each([2, 6, 12, 20])("is as strong through 48 µm as stated, with clumps of %d µm", (crystalUm) => {
    const found = throughAperture(density(grainOf(20, crystalUm), 2.5), 2.5);
    // 650 apertures and more: their deviation is known to 3 %.
    expect(Math.abs((1000 * deviation(found)) / 20 - 1)).toBeLessThan(0.07);
  });

  test.each([
    [6, 3, 4],
    [12, 4, 4],
    [20, 5, 8],
    [4, 8, 2],
  ])(
    "clumps of %d µm on pixels of %d µm, scaled down %d times, are those of large pixels",
    (crystalUm, pixelUm, times) => {
      const fine = density(grainOf(15, crystalUm), pixelUm);
      const small = SIDE / times;
      const scaled = Float32Array.from({ length: small * small }, (_, i) => {
        const [x, y] = [(i % small) * times, Math.floor(i / small) * times];
        let sum = 0;
        for (let dy = 0; dy < times; dy++) for (let dx = 0; dx < times; dx++) sum += fine[(y + dy) * SIDE + x + dx];
        return sum / times ** 2;
      });
      const rendered = density(grainOf(15, crystalUm), pixelUm * times, small);
      expect(Math.abs(deviation(scaled) / deviation(rendered) - 1)).toBeLessThan(0.04);
      const neighbours = (picture: Float32Array) => {
        let sum = 0;
        for (let i = 0; i + 1 < picture.length; i++) sum += (picture[i] - 1) * (picture[i + 1] - 1);
        return sum / picture.length / deviation(picture) ** 2;
      };
      expect(Math.abs(neighbours(scaled) - neighbours(rendered))).toBeLessThan(0.03);
    },
  );

  test.each([
    [20, 0.5],
    [60, 0.5],
    [60, 1],
  ])("of granularity %d leaves a print of density %d as light as it was", (granularity, printDensity) => {
    const grain = grainOf(granularity, 8);
    const filter = grainFilter(grain, 6);
    const mark = heap.mark();
    const noise = grainNoise(heap, filter, grain.seed, SIDE, SIDE, 0, 0);
    const print = heap.place(new Float32Array(SIDE * SIDE).fill(10 ** -printDensity));
    heap.kernels.addGrain(print, noise, SIDE * SIDE, filter.sigma);
    const mean = heap.floats(print, SIDE * SIDE).reduce((sum, v) => sum + v, 0) / SIDE ** 2;
    heap.release(mark);
    expect(Math.abs(luminanceToLightness(mean) - luminanceToLightness(10 ** -printDensity))).toBeLessThan(0.15);
  });
});

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
