import type { Scene } from "./scene.ts";

export const CHARTS = ["patches", "wedge", "edge", "zone-plate", "resolution", "detail", "cloth", "flat"] as const;
export type Chart = (typeof CHARTS)[number];

/** Linear Rec.709 of the patch chart, 6 columns by 4 rows; the last row is a grey scale. */
export const PATCHES: readonly (readonly [number, number, number])[] = [
  [0.18, 0.09, 0.06], [0.55, 0.3, 0.22], [0.12, 0.2, 0.34], [0.1, 0.15, 0.06], [0.23, 0.22, 0.43], [0.13, 0.5, 0.4],
  [0.7, 0.2, 0.03], [0.08, 0.11, 0.37], [0.53, 0.09, 0.12], [0.11, 0.05, 0.14], [0.34, 0.5, 0.05], [0.75, 0.36, 0.03],
  [0.04, 0.06, 0.28], [0.07, 0.3, 0.07], [0.43, 0.03, 0.05], [0.82, 0.56, 0.02], [0.49, 0.09, 0.3], [0.02, 0.23, 0.37],
  [0.9, 0.9, 0.9], [0.59, 0.59, 0.59], [0.36, 0.36, 0.36], [0.18, 0.18, 0.18], [0.09, 0.09, 0.09], [0.03, 0.03, 0.03],
]; // prettier-ignore

/** Linear Rec.709 of the cloth chart, from left to right: strong colours, and a grey. */
export const DYES: readonly (readonly [number, number, number])[] = [
  [0.5, 0.02, 0.03], [0.04, 0.3, 0.05], [0.02, 0.05, 0.4], [0.5, 0.42, 0.03], [0.4, 0.05, 0.35], [0.5, 0.5, 0.5],
]; // prettier-ignore

/** Light and shade on the cloth chart's weave, 0.06 to 0.94. */
export function weave(x: number, y: number): number {
  return 0.5 + 0.22 * Math.sin(1.1 * x + 2 * Math.sin(y / 9)) + 0.22 * Math.sin(1.2 * y + 3 * Math.sin(x / 13));
}

/** Draws a chart of known light. `level` is the light of the flat chart. */
export function drawChart(chart: Chart, width: number, height: number, level = 0.18): Scene {
  const rgb = new Float32Array(3 * width * height);
  const paint = colourAt(chart, width, height, level);
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) {
      const colour = paint(x, y);
      for (let c = 0; c < 3; c++) rgb[3 * (y * width + x) + c] = colour[c];
    }
  return { width, height, rgb };
}

function colourAt(
  chart: Chart,
  width: number,
  height: number,
  level: number,
): (x: number, y: number) => readonly number[] {
  const grey = (v: number) => [v, v, v];
  switch (chart) {
    case "patches":
      return (x, y) => PATCHES[6 * Math.floor((4 * y) / height) + Math.floor((6 * x) / width)];
    case "wedge":
      // 21 steps of half a stop down from 0.9.
      return (x) => grey(0.9 * 2 ** (-0.5 * Math.floor((21 * x) / width)));
    case "edge": {
      // ISO 12233: a knife edge 5° off the vertical, contrast 4:1, drawn by area.
      const slope = Math.tan((5 * Math.PI) / 180);
      return (x, y) => {
        const edge = width / 2 + slope * (y - height / 2) - x;
        return grey(0.1 + 0.3 * Math.min(1, Math.max(0, edge)));
      };
    }
    case "zone-plate":
      return (x, y) => {
        const r2 = (x - width / 2) ** 2 + (y - height / 2) ** 2;
        return grey(0.35 + 0.3 * Math.cos((Math.PI * r2) / Math.max(width, height)));
      };
    case "resolution":
      // A star of 72 pairs: at radius r pixels they are 2πr / 72 pixels wide, down to the finest in the middle.
      return (x, y) => {
        const angle = Math.atan2(y - height / 2, x - width / 2);
        return grey(0.35 + 0.3 * Math.sign(Math.sin(72 * angle)));
      };
    case "detail":
      return (x, y) => {
        // Waves of many sizes and colours: busy, never repeating, and cheap at 100 MP.
        const a = Math.sin(0.031 * x + 0.017 * y) * Math.sin(0.013 * x - 0.029 * y);
        const b = Math.sin(0.41 * x + 0.2 * Math.sin(0.05 * y)) * Math.sin(0.37 * y);
        const base = 0.22 * 2 ** (1.6 * a);
        return [base * (1 + 0.35 * b), base * (1 + 0.2 * a * b), base * (1 - 0.3 * b + 0.2 * a)];
      };
    case "cloth":
      return (x, y) => DYES[Math.floor((DYES.length * x) / width)].map((v) => v * weave(x, y));
    case "flat":
      return () => grey(level);
  }
}
