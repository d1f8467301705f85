import { describe, expect, test } from "@jest/globals";
import { regionBorder } from "../region-border.ts";

const SIZE = { width: 90, height: 60 };
const cellsWhere = (inside: (x: number, y: number) => boolean) =>
  Uint8Array.from({ length: SIZE.width * SIZE.height }, (_, i) =>
    inside((i % SIZE.width) + 0.5, Math.floor(i / SIZE.width) + 0.5) ? 1 : 0,
  );
const pointsOf = (path: string) => [...path.matchAll(/[ML](\S+) ([\d.]+)/g)].map(([, x, y]) => [Number(x), Number(y)]);

describe("the border of a region", () => {
  test("goes around a disc within half a cell, without its stairs, and around its hole", () => {
    const away = (x: number, y: number) => Math.hypot(x - 50, y - 30);
    const path = regionBorder({ ...SIZE, cells: cellsWhere((x, y) => away(x, y) < 20 && away(x, y) > 8) });
    expect(path.match(/M/g)).toHaveLength(2);
    const off = pointsOf(path).map(([x, y]) => Math.min(Math.abs(away(x, y) - 20), Math.abs(away(x, y) - 8)));
    expect(off.length).toBeGreaterThan(100);
    expect(Math.max(...off)).toBeLessThan(0.75);
  });
  test("keeps what is one cell wide, is closed at the picture's edge, and is empty where nothing is inside", () => {
    const line = regionBorder({ ...SIZE, cells: cellsWhere((x) => Math.floor(x) === 40) });
    expect(Math.max(...pointsOf(line).map(([x]) => Math.abs(x - 40.5)))).toBeLessThan(1);
    expect(Math.max(...pointsOf(line).map(([, y]) => y))).toBeGreaterThan(SIZE.height - 1);
    expect(line.endsWith("Z")).toBe(true);
    expect(regionBorder({ ...SIZE, cells: cellsWhere(() => false) })).toBe("");
  });
});
