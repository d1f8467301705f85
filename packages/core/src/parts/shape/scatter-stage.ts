import type { Block, GraphPrint, Need, Stage } from "../../graph/stage.ts";
import { SLOT_EDGE, type KernelHeap } from "../../kernels/heap.ts";
import { gaussianTaps } from "../../maths/gaussian.ts";
import { grown, type Rect } from "../../maths/rect.ts";
import { levelCount } from "../../tiles/tiles.ts";
import { BAND_BYTES, bands, drawCoarse } from "./coarse-line.ts";
import { aroundOnLevel } from "./guided-base.ts";
import { FORMAT_LONG_EDGE_MM } from "../finish/grain.ts";
import type { Finish } from "../finish/schema.ts";
import type { Shape } from "./schema.ts";

type ScatterPrint = GraphPrint & {
  readonly recipe: {
    readonly shape: Pick<Shape, "scatter">;
    readonly finish: Pick<Finish, "grain" | "halation" | "oldGlass">;
  };
};

/** A Gaussian, by its standard deviation in long edges, and its share of all that is scattered alike. */
interface Spread {
  readonly sigma: number;
  readonly share: number;
}

/** Spread of what softness scatters, long edges. */
const NARROW = 0.0018;
export const SOFT_SPREAD: readonly Spread[] = [{ sigma: NARROW, share: 1 }];
/** Share of glow in its core, and how much wider the skirt about it is: a lens's veil has a sharp top and long skirts. */
const CORE = 0.7;
const SKIRT = 3;
/** Share of the light that is scattered at full strength: the sharp picture stays on top. */
const GLOW_SHARE = 0.5;
const SOFT_SHARE = 0.6;
/** Light is smoothed on the level where its narrowest spread is at most this wide, pixels. */
const WIDEST_PX = 2.5;

/** Light from which halation takes, sensor white being 1, and the share of it that comes back at full strength. */
const HALATION_FROM = 0.35;
const HALATION_SHARE = 0.4;
/** Halation's core and the wider ring that the film's base throws back. */
const HALATION_CORE = 0.6;
const HALATION_RING = 2.2;

/** Share of old glass's scatter in its core, and how much wider the veil about it is. */
const GLASS_CORE = 0.75;
const GLASS_SKIRT = 3;

const isOldGlass = ({ recipe }: ScatterPrint) => recipe.finish.oldGlass.corners > 0;

/** Shares of the whole light; glow scatters what softness has left and made alike. */
function sharesOf({ recipe }: ScatterPrint): {
  readonly glow: number;
  readonly softness: number;
  readonly halation: number;
} {
  const { scatter } = recipe.shape;
  const halation = HALATION_SHARE * recipe.finish.halation.amount;
  const glow = GLOW_SHARE * scatter.glow;
  return { glow, softness: (1 - glow) * SOFT_SHARE * scatter.softness, halation };
}

/**
 * Light of a stage that was scattered by one or more Gaussians (narrowest first), on the level that fits it.
 * @param above - only what is lighter than this is scattered.
 */
export function scattered<P extends GraphPrint>(
  name: string,
  of: string,
  spreads: (print: P) => readonly Spread[],
  isActive: (print: P) => boolean,
  above = 0,
): { readonly stage: Stage<P>; need(print: P, level: number, rect: Rect): Need<P> } {
  const pixels = ({ negative }: P, sigma: number, level: number) =>
    (sigma * Math.max(negative.width, negative.height)) / 2 ** level;
  const surroundings = (print: P, level: number, rect: Rect): Need<P> => {
    const widest = spreads(print).at(-1)!.sigma;
    return { stage: of, level, rect: grown(rect, (gaussianTaps(pixels(print, widest, level)).length - 1) / 2) };
  };
  return {
    stage: {
      name,
      grid: "frame",
      planes: 1,
      costNs: 40,
      after: of,
      reads: (print) => spreads(print),
      isActive,
      needs: (print, level, rect) => [surroundings(print, level, rect)],
      compute({ heap, print, read }, level, rect, [out]) {
        const [stops] = read(surroundings(print, level, rect));
        const light = heap.allocate(4 * stops.stride * stops.height + 16);
        heap.kernels.lightOfStops(stops.pointer, 0, stops.stride, light, stops.stride, stops.width, stops.height);
        if (above > 0) heap.kernels.aboveFloor(light, stops.stride * stops.height, above);
        heap.floats(out, SLOT_EDGE * rect.height).fill(0);
        for (const { sigma, share } of spreads(print)) {
          const taps = gaussianTaps(pixels(print, sigma, level));
          addSmoothed(heap, { ...stops, pointer: light }, rect, taps, share, out);
        }
      },
    },
    need: (print, level, rect) => {
      // A view between two levels reads the same as those next to it.
      let at = Math.ceil(level);
      while (pixels(print, spreads(print)[0].sigma, at) > WIDEST_PX && at < levelCount(print.negative) - 1) at++;
      return { stage: name, level: at, rect: aroundOnLevel(rect, level, at) };
    },
  };
}

/** Adds a share of a block's light, smoothed, to a rectangle of it; borders are repeated. */
function addSmoothed(heap: KernelHeap, light: Block, rect: Rect, taps: Float32Array, share: number, out: number): void {
  const { kernels } = heap;
  const mark = heap.mark();
  const reach = (taps.length - 1) / 2;
  const width = (rect.width + 2 * reach + 7) & ~3;
  const height = rect.height + 2 * reach;
  const [padded, rows] = [heap.allocate(4 * width * height), heap.allocate(4 * width * height)];
  kernels.padPlane(
    light.pointer, light.stride, light.width, light.height, rect.x - reach - light.x, rect.y - reach - light.y, padded, width, height,
  ); // prettier-ignore
  const weights = heap.place(taps);
  const inner = (rect.width + 3) & ~3;
  kernels.convolveRows(padded, width, rows, inner, height, weights, taps.length);
  kernels.convolveColumns(rows, padded, inner, rect.height, weights, taps.length);
  for (let y = 0; y < rect.height; y++)
    kernels.mixPlanes(out + 4 * y * SLOT_EDGE, padded + 4 * y * inner, inner, 1, share);
  heap.release(mark);
}

/** A narrow spread that has a share of the light, and one so many times as wide that has the rest. */
const coreAndSkirt = (sigma: number, core: number, wider: number): readonly Spread[] => [
  { sigma, share: core },
  { sigma: wider * sigma, share: 1 - core },
];

const glowLight = scattered<ScatterPrint>(
  "glow-light",
  "local",
  ({ recipe }) => coreAndSkirt(recipe.shape.scatter.reach, CORE, SKIRT),
  (print) => sharesOf(print).glow > 0,
);
const softLight = scattered<ScatterPrint>("soft-light", "local", () => SOFT_SPREAD, (print) => sharesOf(print).softness > 0); // prettier-ignore

const halationLight = scattered<ScatterPrint>(
  "halation-light",
  "local",
  ({ recipe }) => {
    const { grain, halation } = recipe.finish;
    const sigma = halation.radiusUm / (1000 * FORMAT_LONG_EDGE_MM[grain.format]);
    return coreAndSkirt(sigma, HALATION_CORE, HALATION_RING);
  },
  (print) => sharesOf(print).halation > 0,
  HALATION_FROM,
);

const glassLight = scattered<ScatterPrint>(
  "glass-light",
  "local",
  ({ recipe }) => coreAndSkirt(recipe.finish.oldGlass.spread, GLASS_CORE, GLASS_SKIRT),
  isOldGlass,
);

/**
 * Old glass toward the corners, then glow and softness: light that is scattered, in linear light, none of it lost; and halation, which
 * comes back from the film and adds to it.
 */
const scatterStage: Stage<ScatterPrint> = {
  name: "scatter",
  grid: "frame",
  planes: 1,
  costNs: 14,
  after: "local",
  reads: ({ recipe }) => [
    recipe.shape.scatter,
    recipe.finish.halation,
    recipe.finish.halation.amount > 0 && recipe.finish.grain.format,
    recipe.finish.oldGlass,
  ],
  isActive: (print) => isOldGlass(print) || Object.values(sharesOf(print)).some((share) => share > 0),
  needs: (print, level, rect) => [
    { stage: "local", level, rect },
    ...(isOldGlass(print) ? [glassLight.need(print, level, rect)] : []),
    ...layersOf(print).map(({ of }) => of.need(print, level, rect)),
  ],
  compute({ heap, print, read }, level, rect, [out]) {
    const { kernels } = heap;
    const [stops] = read({ stage: "local", level, rect });
    const glass = isOldGlass(print) ? glassLight.need(print, level, rect) : null;
    const glassBlock = glass && read(glass)[0];
    const glassPlane = glass ? heap.allocate(BAND_BYTES) : 0;
    const layers = layersOf(print).map(({ of, share }) => {
      const need = of.need(print, level, rect);
      return { need, share, block: read(need)[0], plane: heap.allocate(BAND_BYTES) };
    });
    const { glow, softness } = sharesOf(print);
    for (const band of bands(rect)) {
      const row = band.y - rect.y;
      const to = out + 4 * row * SLOT_EDGE;
      let [from, stride] = [stops.pointer + 4 * row * stops.stride, stops.stride];
      if (glass && glassBlock) {
        drawCoarse(heap, glassBlock, glass.level, level, band, glassPlane);
        const { corners, start } = print.recipe.finish.oldGlass;
        const { centreX, centreY, corner } = fieldOf(print, level, band);
        kernels.softenCorners(
          from, stride, glassPlane, SLOT_EDGE, to, SLOT_EDGE, band.width, band.height, centreX, centreY, corner, start, corners,
        ); // prettier-ignore
        [from, stride] = [to, SLOT_EDGE];
        if (layers.length === 0) continue;
      }
      for (const { need, block, plane } of layers) drawCoarse(heap, block, need.level, level, band, plane);
      // All that is scattered in one plane.
      const [{ plane: sum }] = layers;
      layers.forEach(({ plane, share }, k) =>
        kernels.mixPlanes(sum, plane, SLOT_EDGE * band.height, k === 0 ? 0 : 1, share),
      );
      kernels.scatterLight(
        from, stride, sum, SLOT_EDGE, to, SLOT_EDGE, band.width, band.height, 1 - glow - softness,
      ); // prettier-ignore
    }
  },
};

/** What is scattered, and its share of the whole light. */
function layersOf(print: ScatterPrint) {
  const { glow, softness, halation } = sharesOf(print);
  return [
    { of: glowLight, share: glow },
    { of: softLight, share: softness },
    { of: halationLight, share: halation },
  ].filter(({ share }) => share > 0);
}

/** Middle of the frame in pixels of a rectangle of a level, at pixel centres, and the way from it to a corner. */
function fieldOf({ frame }: ScatterPrint, level: number, { x, y }: Rect) {
  const [width, height] = [frame.width / 2 ** level, frame.height / 2 ** level];
  return {
    centreX: width / 2 - 0.5 - x,
    centreY: height / 2 - 0.5 - y,
    corner: Math.hypot(width, height) / 2,
  };
}

export const SCATTER_STAGES = [glassLight.stage, glowLight.stage, softLight.stage, halationLight.stage, scatterStage];
