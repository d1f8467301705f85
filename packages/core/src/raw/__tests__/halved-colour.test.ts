import { beforeAll, expect, test } from "@jest/globals";
import { openHeap, seeded } from "../../kernels/__tests__/open-heap.ts";
import type { KernelHeap } from "../../kernels/heap.ts";
import { halvedCellsOf, rebuildHalvedColour } from "../halved-colour.ts";

const [WIDTH, HEIGHT] = [80, 60];
let heap: KernelHeap;
beforeAll(async () => {
  heap = await openHeap(20);
});
const brightness = (c: ArrayLike<number>, i: number) => 0.299 * c[i] + 0.587 * c[i + 1] + 0.114 * c[i + 2];

/** A slanted edge of two colours, with its colour differences averaged over 2 × `down` pixels as a halved file has them. */
function halved(left: readonly number[], right: readonly number[], down: 1 | 2 = 2) {
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
      const rows = down === 2 ? [y & ~1, (y & ~1) + 1] : [y];
      const cell = rows.flatMap((v) => [0, 1].map((u) => 3 * (v * WIDTH + (x & ~1) + u)));
      const light = brightness(truth, i);
      const mean = (of: (at: number) => number) => cell.reduce((sum, at) => sum + of(at), 0) / cell.length;
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
  rebuildHalvedColour(heap, codes, WIDTH, HEIGHT);
  expect(colourError(codes, truth)).toBeLessThan(0.75 * colourError(before, truth));
  for (let i = 0; i < codes.length; i += 3) expect(Math.abs(brightness(codes, i) - brightness(before, i))).toBeLessThan(1.6); // prettier-ignore
});

test("away from edges nothing changes by more than a code or two, and small pictures are left alone", () => {
  const { codes } = halved([190, 60, 50], [60, 110, 190]);
  const before = codes.slice();
  rebuildHalvedColour(heap, codes, WIDTH, HEIGHT);
  for (let y = 0; y < HEIGHT; y++)
    for (let c = 0; c < 3; c++) expect(Math.abs(codes[3 * (y * WIDTH + 4) + c] - before[3 * (y * WIDTH + 4) + c])).toBeLessThan(6); // prettier-ignore
  const tiny = Uint8Array.from({ length: 3 * 6 * 6 }, (_, i) => (37 * i) % 256);
  const kept = tiny.slice();
  rebuildHalvedColour(heap, tiny, 6, 6);
  expect(tiny).toEqual(kept);
});

/** A piece of interleaved codes. */
function cut(codes: Uint8Array, left: number, top: number): Uint8Array {
  const rows = Array.from({ length: HEIGHT - top }, (_, y) =>
    codes.slice(3 * ((y + top) * WIDTH + left), 3 * (y + top + 1) * WIDTH),
  );
  return Uint8Array.from(rows.flatMap((row) => [...row]));
}

test.each([
  [0, 0],
  [1, 0],
  [0, 1],
  [1, 1],
] as const)("halved colour is told by the pixels alone, and rebuilt, cut at (%i, %i)", (left, top) => {
  const { truth, codes } = halved([190, 60, 50], [60, 110, 190]);
  const [width, height] = [WIDTH - left, HEIGHT - top];
  const piece = cut(codes, left, top);
  const cells = halvedCellsOf(piece, width, height);
  expect(cells).toEqual({ left, top });
  rebuildHalvedColour(heap, piece, width, height, cells!);
  // Put back where it was cut from, it is nearer to the truth.
  const whole = codes.slice();
  for (let y = 0; y < height; y++)
    whole.set(piece.subarray(3 * y * width, 3 * (y + 1) * width), 3 * ((y + top) * WIDTH + left));
  expect(colourError(whole, truth)).toBeLessThan(0.75 * colourError(codes, truth));
});

test("colour that is as fine as light is told from it, noisy, soft or halved across alone", () => {
  const { truth } = halved([190, 60, 50], [60, 110, 190]);
  const random = seeded(3);
  const noisy = Uint8Array.from(truth, (v) => Math.round(v + 12 * (random() - 0.5)));
  expect(halvedCellsOf(noisy, WIDTH, HEIGHT)).toBeNull();
  expect(halvedCellsOf(Uint8Array.from(truth, Math.round), WIDTH, HEIGHT)).toBeNull();
  const across = halved([190, 60, 50], [60, 110, 190], 1).codes;
  expect(halvedCellsOf(across, WIDTH, HEIGHT)).toBeNull();
  // A picture enlarged by doubling its pixels.
  const half = (i: number) => 3 * ((Math.floor(i / WIDTH) >> 1) * WIDTH + ((i % WIDTH) >> 1));
  const doubled = Uint8Array.from(noisy, (_, i) => noisy[half(Math.floor(i / 3)) + (i % 3)]);
  expect(halvedCellsOf(doubled, WIDTH, HEIGHT)).toBeNull();
  expect(halvedCellsOf(new Uint8Array(3 * WIDTH * HEIGHT).fill(90), WIDTH, HEIGHT)).toBeNull();
});

test("a very wide picture, worked on a few rows at a time, is rebuilt as its middle is by itself", () => {
  const { codes } = halved([190, 60, 50], [60, 110, 190]);
  const times = 2000;
  const wide = new Uint8Array(times * codes.length);
  for (let y = 0; y < HEIGHT; y++)
    for (let k = 0; k < times; k++)
      wide.set(codes.subarray(3 * y * WIDTH, 3 * (y + 1) * WIDTH), 3 * WIDTH * (y * times + k));
  rebuildHalvedColour(heap, wide, times * WIDTH, HEIGHT);
  const three = new Uint8Array(3 * codes.length);
  for (let y = 0; y < HEIGHT; y++)
    for (let k = 0; k < 3; k++) three.set(codes.subarray(3 * y * WIDTH, 3 * (y + 1) * WIDTH), 3 * WIDTH * (3 * y + k));
  rebuildHalvedColour(heap, three, 3 * WIDTH, HEIGHT);
  let most = 0;
  for (let y = 0; y < HEIGHT; y++)
    for (let x = 0; x < 3 * WIDTH; x++) {
      const [one, other] = [3 * WIDTH * (y * times + 1000) + x, 3 * WIDTH * (3 * y + 1) + x];
      most = Math.max(most, Math.abs(wide[one] - three[other]));
    }
  expect(most).toBeLessThanOrEqual(1);
});
