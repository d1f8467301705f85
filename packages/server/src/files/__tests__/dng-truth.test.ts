import { describe, expect, test } from "@jest/globals";
import { cameraToWorking, type CaptureInfo, type KernelHeap } from "@yelm/core";
import { openKernels } from "../kernels.ts";
import { developRaw } from "../linear-picture.ts";
import { unpackRaw } from "../raw.ts";
import { shape, tiff, type TiffField } from "./own-tiff.ts";

const [WIDTH, HEIGHT] = [48, 32];
const CM1 = [0.9, -0.26, -0.1, -0.31, 1.14, 0.2, -0.02, 0.12, 0.58];
const CM2 = [0.82, -0.21, -0.08, -0.36, 1.21, 0.18, -0.05, 0.17, 0.62];
const WHITE = 16000;

/** A DNG whose first directory is the mosaic. `code` gives the stored value at a place. */
function dng(fields: TiffField[], code: (x: number, y: number) => number, [width, height] = [WIDTH, HEIGHT]): Buffer {
  const codes = Uint16Array.from({ length: width * height }, (_, i) =>
    Math.round(code(i % width, Math.floor(i / width))),
  );
  const own = new Map<number, TiffField>(
    [
      ...shape(width, height, 1, 16),
      [262, 3, [32803]],
      [271, 2, [...Buffer.from("Halden\0")]],
      [272, 2, [...Buffer.from("Halden Test\0")]],
      [274, 3, [1]],
      [33421, 3, [2, 2]],
      [33422, 1, [0, 1, 1, 2]],
      [50706, 1, [1, 4, 0, 0]],
      [50708, 2, [...Buffer.from("Halden Test\0")]],
      [50717, 4, [WHITE]],
      [50721, 10, CM1],
      [50722, 10, CM2],
      [50728, 5, [0.5, 1, 0.8]],
      [50778, 3, [17]],
      [50779, 3, [21]],
      ...fields,
    ].map((field) => [field[0] as number, field as TiffField]),
  );
  return tiff(
    [...own.values()].filter(([, , values]) => values.length > 0),
    Buffer.from(codes.buffer),
  );
}

let heap: KernelHeap;
/** Linear working light of every pixel, and what was found out. */
async function develop(bytes: Uint8Array): Promise<{ info: CaptureInfo; at: (x: number, y: number) => number[] }> {
  heap ??= await openKernels();
  let planes: Float32Array = new Float32Array(0);
  const opened = await unpackRaw(bytes);
  const info = await developRaw(heap, opened, (place, halves) => {
    if (place.level > 0) return;
    const mark = heap.mark();
    const to = heap.allocate(4 * halves.length);
    heap.kernels.halfToFloat(heap.place(halves), to, halves.length);
    planes = heap.floats(to, halves.length).slice();
    heap.release(mark);
  });
  const n = info.width * info.height;
  return { info, at: (x, y) => [0, 1, 2].map((c) => planes[c * n + y * info.width + x]) };
}

/** A flat field: light of the three colours as shares of the way from black to white. */
const flat = (light: readonly number[], black: (x: number, y: number) => number) => (x: number, y: number) => {
  const level = black(x, y);
  const channel = (x & 1) + (y & 1);
  return level + light[channel] * (WHITE - level);
};
const FIELD = [0.2, 0.4, 0.3];
const near = (found: readonly number[], truth: readonly number[], tolerance: number) =>
  found.forEach((v, c) => expect(Math.abs(v - truth[c])).toBeLessThan(tolerance));
/** Working light of a flat field, from the matrices as the reader states them. */
const truthOf = ({ calibrations, neutral }: CaptureInfo) => {
  const matrix = cameraToWorking(calibrations, neutral!);
  const top = Math.max(...neutral!);
  const balanced = FIELD.map((v, c) => (v * top) / neutral![c]);
  return [0, 1, 2].map((row) => balanced.reduce((sum, v, c) => sum + matrix[3 * row + c] * v, 0));
};
const times = (a: readonly number[], b: readonly number[]) =>
  Array.from({ length: 9 }, (_, i) =>
    [0, 1, 2].reduce((sum, k) => sum + a[3 * Math.floor(i / 3) + k] * b[3 * k + (i % 3)], 0),
  );

describe("black", () => {
  const plain = (x: number, y: number) => [500, 520, 540, 560][2 * (y & 1) + (x & 1)];
  const four = Array.from({ length: 16 }, (_, i) => 400 + 37 * ((i * 7) % 16));
  const across = Array.from({ length: WIDTH }, (_, x) => 40 * (x % 3));
  const down = Array.from({ length: HEIGHT }, (_, y) => 25 * (y % 5));
  test.each<[string, TiffField[], (x: number, y: number) => number]>([
    ["2×2", [[50713, 3, [2, 2]], [50714, 3, [500, 520, 540, 560]]], plain],
    ["4×4", [[50713, 3, [4, 4]], [50714, 3, four]], (x, y) => four[4 * (y & 3) + (x & 3)]],
    ["one level with deltas across and down", [[50714, 3, [600]], [50715, 10, across], [50716, 10, down]], (x, y) => 600 + across[x] + down[y]],
  ])("%s", async (_, fields, black) => {
    const { info, at } = await develop(dng(fields, flat(FIELD, black)));
    for (const [x, y] of [[5, 5], [17, 12], [30, 21], [44, 28]]) near(at(x, y), truthOf(info), 1e-3); // prettier-ignore
  }); // prettier-ignore

  test.each([[0, 0], [3, 0], [0, 5], [7, 3]])("counted from the active area's own corner, %d right and %d down", async (left, top) => {
    const size = [WIDTH + left, HEIGHT + top] as [number, number];
    const fields: TiffField[] = [
      [50713, 3, [2, 2]],
      [50714, 3, [500, 520, 540, 560]],
      [50829, 4, [top, left, size[1], size[0]]],
    ];
    const inside = flat(FIELD, plain);
    const bytes = dng(fields, (x, y) => (x < left || y < top ? 510 : inside(x - left, y - top)), size);
    const { info, at } = await develop(bytes);
    // A line is given up where the unpacker begins at an even one.
    expect(info.width).toBeGreaterThanOrEqual(WIDTH - 2);
    expect(info.height).toBeGreaterThanOrEqual(HEIGHT - 2);
    for (const [x, y] of [[6, 6], [20, 12], [31, 19]]) near(at(x, y), truthOf(info), 1e-3); // prettier-ignore
  }); // prettier-ignore

  test("of a linear file, for each of its colours", async () => {
    const black = [400, 800, 1200];
    const codes = Uint16Array.from({ length: 3 * WIDTH * HEIGHT }, (_, i) =>
      Math.round(black[i % 3] + FIELD[i % 3] * (WHITE - black[i % 3])),
    );
    const fields = new Map<number, TiffField>(
      [
        ...shape(WIDTH, HEIGHT, 3, 16),
        [262, 3, [34892]],
        [271, 2, [...Buffer.from("Halden\0")]],
        [272, 2, [...Buffer.from("Halden Test\0")]],
        [274, 3, [1]],
        [50706, 1, [1, 4, 0, 0]],
        [50708, 2, [...Buffer.from("Halden Test\0")]],
        [50714, 3, black],
        [50717, 4, [WHITE, WHITE, WHITE]],
        [50721, 10, CM2],
        [50728, 5, [0.5, 1, 0.8]],
        [50778, 3, [21]],
      ].map((field) => [field[0] as number, field as TiffField]),
    );
    const { info, at } = await develop(tiff([...fields.values()], Buffer.from(codes.buffer)));
    near(at(10, 10), truthOf(info), 2e-3);
  });
});

describe("colour", () => {
  const stated = async (...fields: TiffField[]) =>
    (
      await develop(
        dng(
          fields,
          flat([0.35, 0.3, 0.1], () => 0),
        ),
      )
    ).at(20, 16);
  const AB = [1.2, 1, 0.9];
  const CC1 = [1.05, 0.02, 0, 0.01, 0.97, 0.01, 0, -0.02, 1.1];
  const CC2 = [0.94, 0.01, 0.02, 0, 1.02, 0, 0.03, 0, 0.93];
  const diagonal = [AB[0], 0, 0, 0, AB[1], 0, 0, 0, AB[2]];

  test("a body's own calibration and analogue balance are part of its matrices", async () => {
    const whole = await stated(
      [50721, 10, times(times(diagonal, CC1), CM1)],
      [50722, 10, times(times(diagonal, CC2), CM2)],
    );
    const inParts = await stated([50723, 10, CC1], [50724, 10, CC2], [50727, 5, AB]);
    near(inParts, whole, 1e-3);
    const without = await stated();
    expect(Math.max(...whole.map((v, c) => Math.abs(v - without[c])))).toBeGreaterThan(0.01);
  });

  test("a calibration that belongs to another body's profile is left out", async () => {
    const text = (value: string) => [...Buffer.from(`${value}\0`)];
    const other = await stated([50723, 10, CC1], [50724, 10, CC2], [50931, 2, text("mine")], [50932, 2, text("yours")]);
    near(other, await stated(), 1e-4);
  });

  test("a white stated by its chromaticity is the neutral that the matrices give it", async () => {
    const [x, y] = [0.3457, 0.3585];
    // Halfway between the calibrations in inverse temperature would be another matrix: here both are one.
    const xyz = [x / y, 1, (1 - x - y) / y];
    const camera = [0, 1, 2].map((row) => xyz.reduce((sum, v, c) => sum + CM2[3 * row + c] * v, 0));
    const neutral = camera.map((v) => v / Math.max(...camera));
    const same: TiffField[] = [[50721, 10, CM2]];
    near(await stated(...same, [50728, 5, []], [50729, 5, [x, y]]), await stated(...same, [50728, 5, neutral]), 1e-3);
  });
});

test.each([1, 2, 3, 4, 5, 6, 7, 8])("orientation %d stands as it was taken", async (orientation) => {
  // A bright corner: where it must come to lie for each orientation of EXIF 2.32, 4.6.4.
  const corner = { 1: [0, 0], 2: [1, 0], 3: [1, 1], 4: [0, 1], 5: [0, 0], 6: [1, 0], 7: [1, 1], 8: [0, 1] }[
    orientation
  ]!;
  // Brighter along the stored rows than along the stored columns.
  const bright = (x: number, y: number) => (x < 20 && y < 8 ? 2 : 1);
  const bytes = dng([[274, 3, [orientation]]], (x, y) =>
    flat(
      FIELD.map((v) => (v * bright(x, y)) / 2.5),
      () => 0,
    )(x, y),
  );
  const { info, at } = await develop(bytes);
  const turned = orientation > 4;
  expect([info.width, info.height]).toEqual(turned ? [HEIGHT, WIDTH] : [WIDTH, HEIGHT]);
  const [far, near] = turned ? [4, 14] : [14, 4];
  const place = (x: number, y: number) =>
    at(corner[0] ? info.width - 1 - x : x, corner[1] ? info.height - 1 - y : y)[1];
  expect(place(far, near) / place(info.width - 5, info.height - 5)).toBeCloseTo(2, 1);
  // The patch is longer one way than the other.
  expect(place(near + 8, far) / place(info.width - 5, info.height - 5)).toBeCloseTo(1, 1);
  near0(at(6, 6), at(7, 7));
});

/** Neighbours in a flat part have one colour: the pattern's phase survived the turning. */
function near0(a: readonly number[], b: readonly number[]): void {
  near(a, b, 2e-3);
}

test("sensor data that were damaged inside a file that opens are noticed", async () => {
  const { drawChart, shoot } = await import("@yelm/camera");
  const whole = await shoot(drawChart("patches", 1200, 900), { seed: 41 });
  await expect(unpackRaw(whole)).resolves.toBeDefined();
  for (const share of [0.4, 0.6, 0.8]) {
    const cut = Uint8Array.from(whole);
    cut.fill(0, Math.floor(share * cut.length), Math.floor(share * cut.length) + 5000);
    await expect(unpackRaw(cut)).rejects.toThrow("damaged");
  }
});
