import { expect, test } from "@jest/globals";
import { seeded } from "../../kernels/__tests__/open-heap.ts";
import { rebuildHalvedColour } from "../halved-colour.ts";

const [WIDTH, HEIGHT] = [80, 60];
const brightness = (c: ArrayLike<number>, i: number) => 0.299 * c[i] + 0.587 * c[i + 1] + 0.114 * c[i + 2];

/** A slanted edge of two colours, with its colour differences averaged over 2 × 2 pixels as a halved file has them. */
function halved(left: readonly number[], right: readonly number[]) {
  const random = seeded(7);
  const truth = new Float32Array(3 * WIDTH * HEIGHT);
  for (let y = 0; y < HEIGHT; y++)
    for (let x = 0; x < WIDTH; x++) {
      const share = Math.min(1, Math.max(0, (x - 40.3 - 0.4 * (y - 30)) / 1.5 + 0.5));
      const shade = 1 + 0.04 * (random() - 0.5);
      for (let c = 0; c < 3; c++) truth[3 * (y * WIDTH + x) + c] = shade * (left[c] * (1 - share) + right[c] * share);
    }
  const codes = new Uint8Array(truth.length);
  for (let y = 0; y < HEIGHT; y++)
    for (let x = 0; x < WIDTH; x++) {
      const i = 3 * (y * WIDTH + x);
      const cell = [0, 1].flatMap((v) => [0, 1].map((u) => 3 * (((y & ~1) + v) * WIDTH + (x & ~1) + u)));
      const light = brightness(truth, i);
      const mean = (of: (at: number) => number) => cell.reduce((sum, at) => sum + of(at), 0) / 4;
      const red = mean((at) => truth[at] - brightness(truth, at));
      const blue = mean((at) => truth[at + 2] - brightness(truth, at));
      codes[i] = Math.round(light + red);
      codes[i + 1] = Math.round(light - (0.299 * red + 0.114 * blue) / 0.587);
      codes[i + 2] = Math.round(light + blue);
    }
  return { truth, codes };
}

/** Root mean square error of the colour differences within three pixels of the edge. */
function colourError(codes: ArrayLike<number>, truth: Float32Array): number {
  let sum = 0;
  let count = 0;
  for (let y = 6; y < HEIGHT - 6; y++)
    for (let x = 0; x < WIDTH; x++) {
      if (Math.abs(x - 40.3 - 0.4 * (y - 30)) > 3) continue;
      const i = 3 * (y * WIDTH + x);
      for (const c of [0, 2]) sum += (codes[i + c] - brightness(codes, i) - truth[i + c] + brightness(truth, i)) ** 2;
      count += 2;
    }
  return Math.sqrt(sum / count);
}

test("colour at an edge turns where brightness does; brightness stays", () => {
  const { truth, codes } = halved([190, 60, 50], [60, 110, 190]);
  const before = codes.slice();
  rebuildHalvedColour(codes, WIDTH, HEIGHT);
  expect(colourError(codes, truth)).toBeLessThan(0.75 * colourError(before, truth));
  for (let i = 0; i < codes.length; i += 3) expect(Math.abs(brightness(codes, i) - brightness(before, i))).toBeLessThan(1.6); // prettier-ignore
});

test("away from edges nothing changes by more than a code or two, and small pictures are left alone", () => {
  const { codes } = halved([190, 60, 50], [60, 110, 190]);
  const before = codes.slice();
  rebuildHalvedColour(codes, WIDTH, HEIGHT);
  for (let y = 0; y < HEIGHT; y++)
    for (let c = 0; c < 3; c++) expect(Math.abs(codes[3 * (y * WIDTH + 4) + c] - before[3 * (y * WIDTH + 4) + c])).toBeLessThan(6); // prettier-ignore
  const tiny = Uint8Array.from({ length: 3 * 6 * 6 }, (_, i) => (37 * i) % 256);
  const kept = tiny.slice();
  rebuildHalvedColour(tiny, 6, 6);
  expect(tiny).toEqual(kept);
});
