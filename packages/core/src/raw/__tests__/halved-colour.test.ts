import { beforeAll, expect, test } from "@jest/globals";
import { openHeap, seeded } from "../../kernels/__tests__/open-heap.ts";
import type { KernelHeap } from "../../kernels/heap.ts";
import { halvedCellsOf, rebuildHalvedColour } from "../halved-colour.ts";

const [WIDTH, HEIGHT] = [240, 180];
const FILLED = { across: false, down: false } as const;
const FOUR = { width: 2, height: 2, left: 0, top: 0, sloped: FILLED } as const;
let heap: KernelHeap;
beforeAll(async () => {
  heap = await openHeap(20);
});
const brightness = (c: ArrayLike<number>, i: number) => 0.299 * c[i] + 0.587 * c[i + 1] + 0.114 * c[i + 2];

const APART = 40;
/** Pixels from the nearest of curved edges, which lie at all parts of a pixel and of a block; above 0 where it is darker. */
function beyondEdge(x: number, y: number): number {
  const far = x - 20.3 - 11 * Math.sin(y / 7.3);
  const nearest = Math.round(far / APART);
  return (nearest % 2 === 0 ? 1 : -1) * (far - APART * nearest);
}

/** Curved edges between two colours, with their colour differences averaged over 2 × `down` pixels as a halved file has them. */
function halved(left: readonly number[], right: readonly number[], down: 1 | 2 = 2) {
  const random = seeded(7);
  const truth = new Float32Array(3 * WIDTH * HEIGHT);
  for (let y = 0; y < HEIGHT; y++)
    for (let x = 0; x < WIDTH; x++) {
      const share = Math.min(1, Math.max(0, beyondEdge(x, y) / 1.5 + 0.5));
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
      if (Math.abs(beyondEdge(x, y)) > 3) continue;
      const i = 3 * (y * WIDTH + x);
      for (const c of [0, 2]) sum += (codes[i + c] - brightness(codes, i) - truth[i + c] + brightness(truth, i)) ** 2;
      count += 2;
    }
  return Math.sqrt(sum / count);
}

test("colour at an edge turns where brightness does; brightness stays", () => {
  const { truth, codes } = halved([190, 60, 50], [60, 110, 190]);
  const before = codes.slice();
  rebuildHalvedColour(heap, codes, WIDTH, HEIGHT, FOUR);
  expect(colourError(codes, truth)).toBeLessThan(0.75 * colourError(before, truth));
  let most = 0;
  for (let i = 0; i < codes.length; i += 3)
    most = Math.max(most, Math.abs(brightness(codes, i) - brightness(before, i)));
  expect(most).toBeLessThan(1.6);
});

test("away from edges nothing changes by more than a code or two, and small pictures are left alone", () => {
  const { codes } = halved([190, 60, 50], [60, 110, 190]);
  const before = codes.slice();
  rebuildHalvedColour(heap, codes, WIDTH, HEIGHT, FOUR);
  let most = 0;
  for (let i = 0; i < codes.length; i++) {
    const [x, y] = [Math.floor(i / 3) % WIDTH, Math.floor(i / 3 / WIDTH)];
    if (Math.abs(beyondEdge(x, y)) > APART / 2 - 2) most = Math.max(most, Math.abs(codes[i] - before[i]));
  }
  expect(most).toBeLessThan(6);
  const tiny = Uint8Array.from({ length: 3 * 6 * 6 }, (_, i) => (37 * i) % 256);
  const kept = tiny.slice();
  rebuildHalvedColour(heap, tiny, 6, 6, FOUR);
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
  expect(cells).toEqual({ ...FOUR, left, top });
  rebuildHalvedColour(heap, piece, width, height, cells!);
  // Put back where it was cut from, it is nearer to the truth.
  const whole = codes.slice();
  for (let y = 0; y < height; y++)
    whole.set(piece.subarray(3 * y * width, 3 * (y + 1) * width), 3 * ((y + top) * WIDTH + left));
  expect(colourError(whole, truth)).toBeLessThan(0.75 * colourError(codes, truth));
});

test("what a decoder drew in straight lines between cells is told as that, and rebuilt crisper for it", () => {
  const { truth, codes: filled } = halved([210, 150, 60], [40, 60, 110]);
  const codes = filled.slice();
  const differences = (i: number) => [0, 2].map((c) => filled[i + c] - brightness(filled, i));
  for (let y = 0; y < HEIGHT; y++)
    for (let x = 0; x < WIDTH; x++) {
      // A quarter from the nearest cell to either side.
      const [u, v] = [x + (x & 1 ? 1 : -1), y + (y & 1 ? 1 : -1)];
      const at = (column: number, row: number) =>
        differences(3 * (Math.min(HEIGHT - 1, Math.max(0, row)) * WIDTH + Math.min(WIDTH - 1, Math.max(0, column))));
      const [own, beside, above, slanted] = [at(x, y), at(u, y), at(x, v), at(u, v)];
      const [red, blue] = own.map((value, c) => (9 * value + 3 * beside[c] + 3 * above[c] + slanted[c]) / 16);
      const i = 3 * (y * WIDTH + x);
      const light = brightness(filled, i);
      codes.set([light + red, light - (0.299 * red + 0.114 * blue) / 0.587, light + blue].map(Math.round), i);
    }
  const cells = halvedCellsOf(codes, WIDTH, HEIGHT)!;
  expect(cells).toEqual({ ...FOUR, sloped: { across: true, down: true } });
  const asFilled = codes.slice();
  rebuildHalvedColour(heap, asFilled, WIDTH, HEIGHT, FOUR);
  rebuildHalvedColour(heap, codes, WIDTH, HEIGHT, cells);
  expect(colourError(codes, truth)).toBeLessThan(0.85 * colourError(asFilled, truth));
});

test("colour halved in one direction alone is told as that, and rebuilt in it", () => {
  const { truth, codes } = halved([190, 60, 50], [60, 110, 190], 1);
  const cells = halvedCellsOf(codes, WIDTH, HEIGHT);
  expect(cells).toEqual({ ...FOUR, height: 1 });
  // The same, turned by a quarter.
  const turn = <T extends Uint8Array | Float32Array>(from: T) => from.map((_, i) => from[3 * ((Math.floor(i / 3) % HEIGHT) * WIDTH + Math.floor(i / 3 / HEIGHT)) + (i % 3)]) as T; // prettier-ignore
  const turned = turn(codes);
  expect(halvedCellsOf(turned, HEIGHT, WIDTH)).toEqual({ ...FOUR, width: 1 });
  const before = colourError(codes, truth);
  rebuildHalvedColour(heap, codes, WIDTH, HEIGHT, cells!);
  expect(colourError(codes, truth)).toBeLessThan(0.85 * before);
  rebuildHalvedColour(heap, turned, HEIGHT, WIDTH, { ...FOUR, width: 1 });
  const differing = turn(codes).reduce((most, v, i) => Math.max(most, Math.abs(v - turned[i])), 0);
  expect(differing).toBeLessThanOrEqual(1);
});

test.each([
  [2, 1, 1],
  [4, 1, 3],
  [2, 2, 1],
] as const)("between cells of %i × %i pixels that begin at %i colour lies in straight lines", (width, height, left) => {
  // Light is even; red over it goes up and down by 3 codes a pixel.
  const over = (x: number) => 10 + 3 * Math.abs((x % 40) - 20);
  const codes = new Uint8Array(3 * WIDTH * HEIGHT);
  for (let i = 0; i < WIDTH * HEIGHT; i++) {
    const first = Math.floor(((i % WIDTH) - left) / width) * width + left;
    const red = over(Math.max(0, first) + (width - 1) / 2);
    codes.set([100 + red, 100 - (0.299 / 0.587) * red, 100].map(Math.round), 3 * i);
  }
  rebuildHalvedColour(heap, codes, WIDTH, HEIGHT, { width, height, left, top: 0, sloped: FILLED });
  let worst = 0;
  for (let x = width; x < WIDTH - width; x++)
    if (Math.abs((x % 20) - 10) < 10 - width)
      worst = Math.max(worst, Math.abs(codes[3 * (90 * WIDTH + x)] - 100 - over(x)));
  expect(worst).toBeLessThanOrEqual(1.5);
});

/** A picture as a JPEG of whole colour decodes: blocks of 8 × 8 of which colour keeps its slowest waves alone. */
function inBlocks(truth: Float32Array, waves: number): Uint8Array {
  const out = new Uint8Array(truth.length);
  const basis = (k: number, x: number) => (k === 0 ? Math.SQRT1_2 : Math.cos(((2 * x + 1) * k * Math.PI) / 16)) / 2;
  for (let top = 0; top + 8 <= HEIGHT; top += 8)
    for (let left = 0; left < WIDTH; left += 8) {
      const at = (x: number, y: number) => 3 * ((top + y) * WIDTH + left + x);
      const each = Array.from({ length: 64 }, (_, i) => [i % 8, i >> 3] as const);
      const kept = [0, 2].map((c) => {
        const back = new Float64Array(64);
        for (let v = 0; v < waves; v++)
          for (let u = 0; u + v < waves; u++) {
            const sum = each.reduce((all, [x, y]) => all + (truth[at(x, y) + c] - brightness(truth, at(x, y))) * basis(u, x) * basis(v, y), 0); // prettier-ignore
            each.forEach(([x, y], i) => (back[i] += Math.round(sum / 6) * 6 * basis(u, x) * basis(v, y)));
          }
        return back;
      });
      each.forEach(([x, y], i) => {
        const light = brightness(truth, at(x, y));
        const [red, blue] = kept.map((plane) => plane[i]);
        out.set([light + red, light - (0.299 * red + 0.114 * blue) / 0.587, light + blue].map((v) => Math.round(Math.min(255, Math.max(0, v)))), at(x, y)); // prettier-ignore
      });
    }
  return out;
}

test("colour that is as fine as light is told from it: noisy, soft, in a JPEG's blocks, enlarged", () => {
  const { truth } = halved([190, 60, 50], [60, 110, 190]);
  const random = seeded(3);
  const noisy = Uint8Array.from(truth, (v) => Math.round(v + 12 * (random() - 0.5)));
  expect(halvedCellsOf(noisy, WIDTH, HEIGHT)).toBeNull();
  expect(halvedCellsOf(Uint8Array.from(truth, Math.round), WIDTH, HEIGHT)).toBeNull();
  for (const waves of [3, 4, 6]) expect(halvedCellsOf(inBlocks(truth, waves), WIDTH, HEIGHT - 4)).toBeNull();
  // A picture enlarged by doubling its pixels, and by straight lines between them.
  const of = (from: ArrayLike<number>, x: number, y: number, c: number) => from[3 * (Math.min(HEIGHT - 1, y) * WIDTH + Math.min(WIDTH - 1, x)) + c]; // prettier-ignore
  const places = Array.from({ length: noisy.length }, (_, i) => [Math.floor(i / 3) % WIDTH, Math.floor(i / 3 / WIDTH), i % 3] as const); // prettier-ignore
  const doubled = Uint8Array.from(places, ([x, y, c]) => of(noisy, x >> 1, y >> 1, c));
  expect(halvedCellsOf(doubled, WIDTH, HEIGHT)).toBeNull();
  const lines = Uint8Array.from(places, ([x, y, c]) => {
    const [u, v] = [(x + 1) >> 1, (y + 1) >> 1];
    const [s, t] = [x & 1 ? 0.75 : 0.25, y & 1 ? 0.75 : 0.25];
    const across = (row: number) => s * of(noisy, u, row, c) + (1 - s) * of(noisy, Math.max(0, u - 1), row, c);
    return Math.round(t * across(v) + (1 - t) * across(Math.max(0, v - 1)));
  });
  expect(halvedCellsOf(lines, WIDTH, HEIGHT)).toBeNull();
  expect(halvedCellsOf(new Uint8Array(3 * WIDTH * HEIGHT).fill(90), WIDTH, HEIGHT)).toBeNull();
});

test("a very wide picture, worked on a few rows at a time, is rebuilt as its middle is by itself", () => {
  const { codes } = halved([190, 60, 50], [60, 110, 190]);
  const times = 700;
  const wide = new Uint8Array(times * codes.length);
  for (let y = 0; y < HEIGHT; y++)
    for (let k = 0; k < times; k++)
      wide.set(codes.subarray(3 * y * WIDTH, 3 * (y + 1) * WIDTH), 3 * WIDTH * (y * times + k));
  rebuildHalvedColour(heap, wide, times * WIDTH, HEIGHT, FOUR);
  const three = new Uint8Array(3 * codes.length);
  for (let y = 0; y < HEIGHT; y++)
    for (let k = 0; k < 3; k++) three.set(codes.subarray(3 * y * WIDTH, 3 * (y + 1) * WIDTH), 3 * WIDTH * (3 * y + k));
  rebuildHalvedColour(heap, three, 3 * WIDTH, HEIGHT, FOUR);
  let most = 0;
  for (let y = 0; y < HEIGHT; y++)
    for (let x = 0; x < 3 * WIDTH; x++) {
      const [one, other] = [3 * WIDTH * (y * times + 350) + x, 3 * WIDTH * (3 * y + 1) + x];
      most = Math.max(most, Math.abs(wide[one] - three[other]));
    }
  expect(most).toBeLessThanOrEqual(1);
});
