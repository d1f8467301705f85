import type { Size } from "../../maths/rect.ts";
import type { KernelHeap } from "../../kernels/heap.ts";
import { PyramidBuilder } from "../../tiles/pyramid.ts";
import { hasTile, type LinearTiles, type TilePlace } from "../../tiles/tiles.ts";

/** A pyramid in memory, built from a formula for linear working colour at continuous places (0–1 of the long edge). */
export function tilesOf(
  heap: KernelHeap,
  size: Size,
  colour: (x: number, y: number) => readonly number[],
): LinearTiles {
  const tiles = new Map<string, Uint16Array>();
  const key = ({ level, column, row }: TilePlace) => `${level}/${column}/${row}`;
  const builder = new PyramidBuilder(heap, size, (place, halves) => void tiles.set(key(place), halves));
  const edge = Math.max(size.width, size.height);
  for (let y = 0; y < size.height; y++) {
    const row = new Float32Array(3 * size.width);
    for (let x = 0; x < size.width; x++) {
      const rgb = colour((x + 0.5) / edge, (y + 0.5) / edge);
      for (let c = 0; c < 3; c++) row[c * size.width + x] = rgb[c];
    }
    builder.push(row, 1);
  }
  return {
    size,
    tile(place) {
      const found = tiles.get(key(place));
      if (!found || !hasTile(size, place)) throw new Error(`Expected a tile at ${key(place)}.`);
      return found;
    },
  };
}

/** A picture with edges, fine texture, gradients, colour and highlights. */
export function busyScene(x: number, y: number): readonly number[] {
  const texture = 1 + 0.25 * Math.sin(240 * x + 40 * y) * Math.sin(310 * y);
  const base = 0.16 * 2 ** (2.2 * Math.sin(7 * x) * Math.cos(5 * y)) * texture;
  const sky = y < 0.2 + 0.03 * Math.sin(20 * x);
  if (sky) return [0.35 + 0.2 * y, 0.5, 0.85];
  if (Math.hypot(x - 0.7, y - 0.45) < 0.08) return [1.6, 1.4, 0.9];
  return [base * (1 + 0.5 * Math.sin(9 * x)), base, base * (1 - 0.4 * Math.cos(11 * y))];
}
