import { beforeAll, describe, expect, test } from "@jest/globals";
import { openHeap } from "../../kernels/__tests__/open-heap.ts";
import type { KernelHeap } from "../../kernels/heap.ts";
import { BetweenTiles } from "../between-tiles.ts";
import { PyramidBuilder } from "../pyramid.ts";
import { levelSize, tileKey, tileSize, type LinearTiles, type TilePlace } from "../tiles.ts";
import { isOwnScale, ownLevel, placesIn } from "../view.ts";

const SIZE = { width: 1700, height: 1150 };
let heap: KernelHeap;
let even: LinearTiles;
let bright: LinearTiles;
/** Tiles of the bright one that were read. */
const asked = new Set<string>();
beforeAll(async () => {
  heap = await openHeap(0);
  even = pyramidOf((x, y) => [x / 4000, y / 4000, (x + y) / 8000]);
  bright = pyramidOf(
    (x, y) => (Math.hypot(x - 900, y - 560) < 150 ? [1.5, 1.5, 1.5] : [0.2, 0.2, 0.2]),
    (place) => asked.add(tileKey(place)),
  );
});

/** A pyramid of a formula of full-size pixel centres; told which of its tiles are read. */
function pyramidOf(
  colour: (x: number, y: number) => readonly number[],
  read: (place: TilePlace) => void = () => undefined,
): LinearTiles {
  const tiles = new Map<string, Uint16Array>();
  const builder = new PyramidBuilder(heap, SIZE, (place, halves) => void tiles.set(tileKey(place), halves));
  for (let y = 0; y < SIZE.height; y++) {
    const row = new Float32Array(3 * SIZE.width);
    for (let x = 0; x < SIZE.width; x++) {
      const found = colour(x + 0.5, y + 0.5);
      for (let c = 0; c < 3; c++) row[c * SIZE.width + x] = found[c];
    }
    builder.push(row, 1);
  }
  return {
    size: SIZE,
    tile(place) {
      read(place);
      const found = tiles.get(tileKey(place));
      if (!found) throw new Error(`Expected a tile at ${tileKey(place)}.`);
      return found;
    },
  };
}

function floats(halves: Uint16Array): Float32Array {
  const mark = heap.mark();
  const out = heap.allocate(4 * halves.length + 16);
  heap.kernels.halfToFloat(heap.place(halves), out, (halves.length + 3) & ~3);
  const found = heap.floats(out, halves.length).slice();
  heap.release(mark);
  return found;
}

describe.each([0.31, 0.5000001, 0.73, 0.99])("a level of %d of full size", (scale) => {
  const level = ownLevel(scale, 4);
  const places = placesIn({ x: 0, y: 0, ...levelSize(SIZE, level) }, level);

  test("shows light that rises evenly where it lies, over the borders of its tiles", () => {
    const tiles = new BetweenTiles(heap, even);
    let worst = 0;
    for (const place of places) {
      const { width, height } = tileSize(SIZE, place);
      const values = floats(tiles.tile(place));
      expect(values.length).toBe(3 * width * height);
      for (let y = 0; y < height; y++)
        for (let x = 0; x < width; x++) {
          const [px, py] = [(512 * place.column + x + 0.5) / scale, (512 * place.row + y + 0.5) / scale];
          // At the picture's border it is repeated.
          if (Math.min(px, py, SIZE.width - px, SIZE.height - py) < 10) continue;
          const at = y * width + x;
          const off = [values[at] - px / 4000, values[at + width * height] - py / 4000];
          off.push(values[at + 2 * width * height] - (px + py) / 8000);
          for (const each of off) worst = Math.max(worst, Math.abs(each));
        }
    }
    // Half floats are off by 2^-12 of a value below one half.
    expect(worst).toBeLessThan(2.5e-4);
  });

  test("is made of the tiles that are named, and keeps light beyond white apart", () => {
    const tiles = new BetweenTiles(heap, bright);
    let beyond = 0;
    for (const place of places) {
      asked.clear();
      const values = tiles.tile(place);
      expect([...asked].sort()).toEqual(tiles.sources(place).map(tileKey).sort());
      const { width, height } = tileSize(SIZE, place);
      const all = floats(values);
      for (let i = 3 * width * height; i < all.length; i++) beyond += all[i];
      expect(tiles.tile(place)).toBe(values);
    }
    // Half a white's light over a disc, counted in this level's pixels.
    expect(beyond / (0.5 * Math.PI * (150 * scale) ** 2)).toBeCloseTo(1, 1);
  });
});

test("a whole level is the pyramid's own", () => {
  const tiles = new BetweenTiles(heap, even);
  const place = { level: 1, column: 0, row: 0 };
  expect(tiles.tile(place)).toBe(even.tile(place));
  expect(tiles.sources(place)).toEqual([place]);
  expect([0.25, 0.25 * (1 + 1e-12), 0.3].map((scale) => Number.isInteger(ownLevel(scale, 6)))).toEqual([
    true,
    true,
    false,
  ]);
  expect([1.7, 0.001].map((scale) => ownLevel(scale, 6))).toEqual([0, 5]);
  expect(isOwnScale({ scale: 0.3, level: ownLevel(0.3, 6) })).toBe(true);
});
