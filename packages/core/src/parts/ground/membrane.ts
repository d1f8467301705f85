import type { Rect } from "../../maths/rect.ts";

/** A surface over the pixels of a rectangle. */
export type Membrane = (x: number, y: number) => number;

/** Cells along the longer side on which the surface is solved; it is smooth, so more would show nothing. */
const CELLS = 72;
const SWEEPS = 160;
const OVER_RELAXATION = 1.85;
const ENOUGH = 1e-4;

/**
 * The harmonic surface (Δu = 0) inside a region that takes the values of `edge` around it: the correction of gradient-domain
 * cloning. Solved on cells by successive over-relaxation; a side that is the border of `area` with nothing beyond lets the
 * surface end level.
 * @param area - pixels of the region and of a ring about it.
 * @param edge - value at a pixel outside the region.
 * @param inside - whether a pixel belongs to the region.
 */
export function membrane(
  area: Rect,
  edge: (x: number, y: number) => number,
  inside: (x: number, y: number) => boolean,
): Membrane {
  const cell = Math.max(1, Math.ceil(Math.max(area.width, area.height) / CELLS));
  const columns = Math.ceil(area.width / cell);
  const rows = Math.ceil(area.height / cell);
  const value = new Float64Array(columns * rows);
  const free = new Uint8Array(columns * rows);
  let sum = 0;
  let known = 0;
  for (let row = 0; row < rows; row++)
    for (let column = 0; column < columns; column++) {
      let total = 0;
      let count = 0;
      for (let y = area.y + row * cell; y < Math.min(area.y + area.height, area.y + (row + 1) * cell); y++)
        for (let x = area.x + column * cell; x < Math.min(area.x + area.width, area.x + (column + 1) * cell); x++) {
          if (inside(x, y)) continue;
          total += edge(x, y);
          count++;
        }
      const i = row * columns + column;
      if (count === 0) {
        free[i] = 1;
        continue;
      }
      value[i] = total / count;
      sum += value[i];
      known++;
    }
  const start = known > 0 ? sum / known : 0;
  free.forEach((isFree, i) => {
    if (isFree) value[i] = start;
  });
  relax(value, free, columns, rows);
  return (x, y) => {
    const u = Math.min(columns - 1, Math.max(0, (x - area.x + 0.5) / cell - 0.5));
    const v = Math.min(rows - 1, Math.max(0, (y - area.y + 0.5) / cell - 0.5));
    const x0 = Math.min(columns - 1, Math.floor(u));
    const y0 = Math.min(rows - 1, Math.floor(v));
    const x1 = Math.min(columns - 1, x0 + 1);
    const y1 = Math.min(rows - 1, y0 + 1);
    const top = value[y0 * columns + x0] * (1 - u + x0) + value[y0 * columns + x1] * (u - x0);
    const low = value[y1 * columns + x0] * (1 - u + x0) + value[y1 * columns + x1] * (u - x0);
    return top * (1 - v + y0) + low * (v - y0);
  };
}

function relax(value: Float64Array, free: Uint8Array, columns: number, rows: number): void {
  const scale = value.reduce((most, v) => Math.max(most, Math.abs(v)), 1e-9);
  for (let sweep = 0; sweep < SWEEPS; sweep++) {
    let moved = 0;
    for (let row = 0; row < rows; row++)
      for (let column = 0; column < columns; column++) {
        const i = row * columns + column;
        if (free[i] === 0) continue;
        let total = 0;
        let count = 0;
        const add = (there: boolean, from: number) => {
          if (!there) return;
          total += value[from];
          count++;
        };
        add(column > 0, i - 1);
        add(column < columns - 1, i + 1);
        add(row > 0, i - columns);
        add(row < rows - 1, i + columns);
        const change = count > 0 ? OVER_RELAXATION * (total / count - value[i]) : 0;
        value[i] += change;
        moved = Math.max(moved, Math.abs(change));
      }
    if (moved < ENOUGH * scale) return;
  }
}
