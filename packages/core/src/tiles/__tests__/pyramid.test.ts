import { beforeAll, describe, expect, test } from "@jest/globals";
import type { KernelHeap } from "../../kernels/heap.ts";
import { openHeap } from "../../kernels/__tests__/open-heap.ts";
import { hasTile, levelCount, levelSize, tileSize, tileSpan, type TilePlace } from "../tiles.ts";
import { orientMosaic } from "../../raw/orient.ts";
import type { Mosaic } from "../../raw/mosaic.ts";
import { REC2020 } from "../../colour/rgb-space.ts";
import { PyramidBuilder } from "../pyramid.ts";

let heap: KernelHeap;
beforeAll(async () => {
  heap = await openHeap(0);
});

function floats(halves: Uint16Array): Float32Array {
  const n = (halves.length + 3) & ~3;
  const mark = heap.mark();
  const src = heap.place(Uint16Array.from({ length: n }, (_, i) => halves[i] ?? 0));
  const out = heap.allocate(4 * n);
  heap.kernels.halfToFloat(src, out, n);
  const found = heap.floats(out, halves.length).slice();
  heap.release(mark);
  return found;
}

describe.each([
  [1300, 700],
  [513, 512],
  [1, 1],
  [511, 1030],
])("a pyramid of %d × %d", (width, height) => {
  const size = { width, height };
  const value = (x: number, y: number, c: number) => 0.1 + 0.2 * c + (x % 64) / 256 + (y % 32) / 128;

  test("every tile comes once, each level is the mean of the one before, whatever the bands it is fed in", () => {
    const tiles = new Map<string, Float32Array>();
    const builder = new PyramidBuilder(heap, size, (place, halves) => {
      const name = `${place.level}/${place.column}/${place.row}`;
      expect(tiles.has(name)).toBe(false);
      expect(hasTile(size, place)).toBe(true);
      const { width: w, height: h } = tileSize(size, place);
      expect(halves).toHaveLength(3 * w * h);
      tiles.set(name, floats(halves));
    });
    for (let top = 0, rows = 1; top < height; top += rows, rows = Math.min(height - top, (rows * 2) % 97 || 5)) {
      const planes = new Float32Array(3 * width * rows);
      for (let c = 0; c < 3; c++)
        for (let y = 0; y < rows; y++)
          for (let x = 0; x < width; x++) planes[(c * rows + y) * width + x] = value(x, top + y, c);
      builder.push(planes, rows);
    }
    const pixel = (level: number, x: number, y: number, c: number) => {
      const place: TilePlace = { level, column: Math.floor(x / 512), row: Math.floor(y / 512) };
      const { width: w, height: h } = tileSize(size, place);
      return tiles.get(`${level}/${place.column}/${place.row}`)![c * w * h + (y % 512) * w + (x % 512)];
    };
    const levels = levelCount(size);
    expect([...tiles.keys()].filter((name) => name.startsWith(`${levels - 1}/`))).toHaveLength(1);
    for (const [x, y] of [
      [0, 0],
      [width - 1, height - 1],
      [width >> 1, height >> 1],
    ])
      for (let c = 0; c < 3; c++) expect(pixel(0, x, y, c)).toBeCloseTo(value(x, y, c), 3);
    for (let level = 1; level < levels; level++) {
      const above = levelSize(size, level - 1);
      const here = levelSize(size, level);
      for (const [x, y] of [
        [0, 0],
        [here.width - 1, here.height - 1],
        [here.width >> 1, here.height >> 1],
      ]) {
        const [right, low] = [Math.min(above.width - 1, 2 * x + 1), Math.min(above.height - 1, 2 * y + 1)];
        const mean = [pixel(level - 1, 2 * x, 2 * y, 1), pixel(level - 1, right, 2 * y, 1), pixel(level - 1, 2 * x, low, 1), pixel(level - 1, right, low, 1)].reduce((a, b) => a + b) / 4; // prettier-ignore
        expect(Math.abs(pixel(level, x, y, 1) - mean)).toBeLessThan(1e-3);
      }
    }
  });

  test("places in a level's file follow each other without gap or overlap", () => {
    for (let level = 0; level < levelCount(size); level++) {
      const whole = levelSize(size, level);
      let end = 0;
      for (let row = 0; row * 512 < whole.height; row++)
        for (let column = 0; column * 512 < whole.width; column++) {
          const { offset, bytes } = tileSpan(size, { level, column, row });
          expect(offset).toBe(end);
          end += bytes;
        }
      expect(end).toBe(6 * whole.width * whole.height);
    }
  });
});

test("four quarter turns of a mosaic are the mosaic; each keeps every site's colour and black level", () => {
  const data = Uint16Array.from({ length: 8 * 6 }, (_, i) => i);
  const mosaic: Mosaic = {
    data,
    stride: 8,
    left: 0,
    top: 0,
    width: 8,
    height: 6,
    phase: { redX: 1, redY: 0 },
    black: [1, 2, 3, 4],
    white: 100,
  };
  const colourOf = (m: Mosaic, x: number, y: number) => {
    const [redColumn, redRow] = [(x & 1) === m.phase.redX, (y & 1) === m.phase.redY];
    return redColumn && redRow ? "R" : !redColumn && !redRow ? "B" : "G";
  };
  const sites = (m: Mosaic) => {
    const found = new Map<number, string>();
    for (let y = 0; y < m.height; y++)
      for (let x = 0; x < m.width; x++)
        found.set(m.data[(m.top + y) * m.stride + m.left + x], `${colourOf(m, x, y)}${m.black[2 * (y & 1) + (x & 1)]}`);
    return found;
  };
  for (let turns = 0; turns < 4; turns++) expect(sites(orientMosaic(mosaic, turns))).toEqual(sites(mosaic));
  expect(Array.from(orientMosaic(orientMosaic(mosaic, 2), 2).data)).toEqual(Array.from(data));
  expect([orientMosaic(mosaic, 1).width, orientMosaic(mosaic, 1).data[0]]).toEqual([6, 40]);
});

test("light beyond sensor white lies in a plane of its own, and the two are averaged apart", () => {
  const size = { width: 600, height: 8 };
  const tiles = new Map<string, Float32Array>();
  const builder = new PyramidBuilder(heap, size, (place, halves) => {
    tiles.set(`${place.level}/${place.column}`, floats(halves));
  });
  const planes = new Float32Array(3 * 600 * 8).fill(0.25);
  // One pixel of three, redder than white and twice as light; its neighbours are dark.
  for (let c = 0; c < 3; c++) planes[c * 4800] = [2.4, 1.9, 1.8][c];
  builder.push(planes, 8);
  const [r, g, b] = REC2020.luminance;
  const light = 2.4 * r + 1.9 * g + 1.8 * b;
  const first = tiles.get("0/0")!;
  expect(first).toHaveLength(4 * 512 * 8);
  expect(first[3 * 512 * 8]).toBeCloseTo(light - 1, 2);
  expect([0, 1, 2].map((c) => first[c * 512 * 8] + first[3 * 512 * 8]).map((v) => Number(v.toFixed(2)))).toEqual([
    2.4, 1.9, 1.8,
  ]);
  expect(tiles.get("0/1")).toHaveLength(3 * 88 * 8);
  const half = tiles.get("1/0")!;
  expect(half).toHaveLength(4 * 300 * 4);
  expect(half[3 * 300 * 4]).toBeCloseTo((light - 1) / 4, 2);
  expect(half[300 * 4]).toBeCloseTo((1.9 - (light - 1) + 3 * 0.25) / 4, 2);
});

test("the last pixels of a picture whose size is no multiple of four lose nothing to the planes after them", () => {
  const size = { width: 603, height: 5 };
  const n = 603 * 5;
  const tiles = new Map<number, Float32Array>();
  const builder = new PyramidBuilder(heap, size, ({ level, column }, halves) => {
    if (level === 0) tiles.set(column, floats(halves));
  });
  const planes = new Float32Array(3 * n).fill(0.5);
  for (let c = 0; c < 3; c++) planes[c * n + n - 1] = 3;
  builder.push(planes, 5);
  const first = tiles.get(0)!;
  expect(first).toHaveLength(3 * 512 * 5);
  expect(new Set(first)).toEqual(new Set([0.5]));
  const last = tiles.get(1)!;
  expect(Array.from(last.subarray(3 * 91 * 5 - 2))).toEqual([0.5, 1, ...new Array<number>(91 * 5 - 1).fill(0), 2]);
});
