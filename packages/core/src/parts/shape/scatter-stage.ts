import type { GraphPrint, Need, Stage } from "../../graph/stage.ts";
import { SLOT_EDGE } from "../../kernels/heap.ts";
import { gaussianTaps } from "../../maths/gaussian.ts";
import type { Rect } from "../../maths/rect.ts";
import { levelCount } from "../../tiles/tiles.ts";
import { BAND_BYTES, bands, drawCoarse } from "./coarse-line.ts";
import { aroundOnLevel, shifted } from "./guided-base.ts";
import type { Shape } from "./schema.ts";

type ScatterPrint = GraphPrint & { readonly recipe: { readonly shape: Pick<Shape, "scatter"> } };

/** Spread of what softness scatters, long edges. */
const NARROW = 0.0018;
/** Share of glow in its core, and how much wider the skirt about it is: a lens's veil has a sharp top and long skirts. */
const CORE = 0.7;
const SKIRT = 3;
/** Light is smoothed on the level where the spread is at most this wide, pixels. */
const WIDEST_PX = 4;

/** Share of the light that is scattered at full strength: the sharp picture stays on top. */
const GLOW_SHARE = 0.5;
const SOFT_SHARE = 0.6;

const glowOf = ({ recipe: { shape } }: ScatterPrint) => shape.scatter.glow;
const softnessOf = ({ recipe: { shape } }: ScatterPrint) => shape.scatter.softness;

/** Shares of the whole light; glow scatters what softness has left and made alike. */
function sharesOf(print: ScatterPrint): { readonly glow: number; readonly softness: number } {
  const glow = GLOW_SHARE * glowOf(print);
  return { glow, softness: (1 - glow) * SOFT_SHARE * softnessOf(print) };
}

/** Light smoothed by a Gaussian of `spread` long edges, on the level that fits it. */
function smoothed(
  name: string,
  spread: (print: ScatterPrint) => number,
  isActive: (print: ScatterPrint) => boolean,
): { readonly stage: Stage<ScatterPrint>; need(print: ScatterPrint, level: number, rect: Rect): Need<ScatterPrint> } {
  const tapsAt = (print: ScatterPrint, level: number) =>
    gaussianTaps((spread(print) * Math.max(print.negative.width, print.negative.height)) / 2 ** level);
  const surroundings = (print: ScatterPrint, level: number, { x, y, width, height }: Rect): Need<ScatterPrint> => {
    const reach = (tapsAt(print, level).length - 1) / 2;
    const rect = { x: x - reach, y: y - reach, width: width + 2 * reach, height: height + 2 * reach };
    return { stage: "local", level, rect: shifted(rect) };
  };
  const levelFor = (print: ScatterPrint, level: number) => {
    let at = level;
    while (
      spread(print) * Math.max(print.negative.width, print.negative.height) > WIDEST_PX * 2 ** at &&
      at < levelCount(print.negative) - 1
    )
      at++;
    return at;
  };
  return {
    stage: {
      name,
      grid: "frame",
      planes: 1,
      costNs: 25,
      after: "local",
      reads: (print) => spread(print),
      isActive,
      needs: (print, level, rect) => [surroundings(print, level, rect)],
      compute({ heap, print, read }, level, rect, [out]) {
        const { kernels } = heap;
        const taps = tapsAt(print, level);
        const reach = (taps.length - 1) / 2;
        const [stops] = read(surroundings(print, level, rect));
        const light = heap.allocate(4 * stops.stride * stops.height + 16);
        kernels.lightOfStops(stops.pointer, 0, stops.stride, light, stops.stride, stops.width, stops.height);
        const width = (rect.width + 2 * reach + 7) & ~3;
        const height = rect.height + 2 * reach;
        const [padded, rows] = [heap.allocate(4 * width * height), heap.allocate(4 * width * height)];
        kernels.padPlane(
          light, stops.stride, stops.width, stops.height, rect.x - reach - stops.x, rect.y - reach - stops.y, padded, width, height,
        ); // prettier-ignore
        const weights = heap.place(taps);
        const inner = (rect.width + 3) & ~3;
        kernels.convolveRows(padded, width, rows, inner, height, weights, taps.length);
        kernels.convolveColumns(rows, padded, inner, rect.height, weights, taps.length);
        kernels.copyRect(padded, inner, out, SLOT_EDGE, rect.width, rect.height);
      },
    },
    need: (print, level, rect) => {
      const at = levelFor(print, level);
      return { stage: name, level: at, rect: aroundOnLevel(rect, level, at) };
    },
  };
}

const core = smoothed("glow-core", ({ recipe }) => recipe.shape.scatter.reach, (print) => glowOf(print) > 0); // prettier-ignore
const skirt = smoothed("glow-skirt", ({ recipe }) => SKIRT * recipe.shape.scatter.reach, (print) => glowOf(print) > 0); // prettier-ignore
const narrow = smoothed("soft-light", () => NARROW, (print) => softnessOf(print) > 0); // prettier-ignore

/** Glow and softness: light that is scattered, in linear light, none of it lost. */
const scatterStage: Stage<ScatterPrint> = {
  name: "scatter",
  grid: "frame",
  planes: 1,
  costNs: 8,
  after: "local",
  reads: ({ recipe }) => recipe.shape.scatter,
  isActive: (print) => glowOf(print) > 0 || softnessOf(print) > 0,
  needs: (print, level, rect) => [
    { stage: "local", level, rect },
    ...(glowOf(print) > 0 ? [core.need(print, level, rect), skirt.need(print, level, rect)] : []),
    ...(softnessOf(print) > 0 ? [narrow.need(print, level, rect)] : []),
  ],
  compute({ heap, print, read }, level, rect, [out]) {
    const { kernels } = heap;
    const [stops] = read({ stage: "local", level, rect });
    const { glow, softness } = sharesOf(print);
    const layers = [
      ...(glow > 0 ? [[core, CORE * glow] as const, [skirt, (1 - CORE) * glow] as const] : []),
      ...(softness > 0 ? [[narrow, softness] as const] : []),
    ].map(([of, share]) => {
      const need = of.need(print, level, rect);
      return { need, share, block: read(need)[0], plane: heap.allocate(BAND_BYTES) };
    });
    // All scattered light in one plane: shares of their sum.
    const total = layers.reduce((sum, { share }) => sum + share, 0);
    for (const band of bands(rect)) {
      for (const { need, block, plane } of layers) drawCoarse(heap, block, need.level, level, band, plane);
      const [{ plane: sum, share: first }, ...others] = layers;
      const n = SLOT_EDGE * band.height;
      kernels.mixPlanes(sum, sum, n, first / total, 0);
      for (const { plane, share } of others) kernels.mixPlanes(sum, plane, n, 1, share / total);
      const row = band.y - rect.y;
      kernels.scatterLight(
        stops.pointer + 4 * row * stops.stride, stops.stride, sum, SLOT_EDGE, out + 4 * row * SLOT_EDGE, SLOT_EDGE,
        band.width, band.height, total,
      ); // prettier-ignore
    }
  },
};

export const SCATTER_STAGES = [core.stage, skirt.stage, narrow.stage, scatterStage];
