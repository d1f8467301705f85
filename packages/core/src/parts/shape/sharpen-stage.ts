import type { Need, Stage } from "../../graph/stage.ts";
import { SLOT_EDGE } from "../../kernels/heap.ts";
import { gaussianTaps } from "../../maths/gaussian.ts";
import { smoothstep } from "../../maths/smoothstep.ts";
import { grown, type Rect } from "../../maths/rect.ts";
import type { NoisyPrint } from "../ground/print.ts";
import type { Shape } from "./schema.ts";

type SharpenPrint = NoisyPrint & { readonly recipe: { readonly shape: Pick<Shape, "sharpening"> } };

/** What noise is taken for when it is not known: a share of the light. */
const UNKNOWN_NOISE = 0.008;
/** Deviations of noise up to which the range of detail over 3 × 3 pixels goes unsharpened, at no sparing and what full sparing adds. */
const RANGE_FROM = 2.5;
const RANGE_SPARED = 5;
/** Share of the local range by which a sharpened value may lie beyond it. */
const BEYOND = 0.05;
/** A blur smaller than this on a level leaves nothing to undo, pixels. */
const LEAST_PX = 0.25;

/**
 * Undoes the capture's own blur: two steps of Van Cittert's deconvolution by a Gaussian, where edges stand out of the noise,
 * without ringing. Coarse levels have no blur to undo.
 */
export const sharpenStage: Stage<SharpenPrint> = {
  name: "sharpen",
  grid: "negative",
  planes: 1,
  costNs: 20,
  after: "weigh",
  reads: ({ recipe, lightNoise }) => [recipe.shape.sharpening, lightNoise],
  isActive: ({ recipe }, level) => recipe.shape.sharpening.amount > 0 && radiusAt(recipe, level) >= LEAST_PX,
  needs: (print, level, rect) => [surroundings(print, level, rect)],
  compute({ heap, print, read }, level, rect, [out]) {
    const { kernels } = heap;
    const taps = tapsAt(print, level);
    const reach = (taps.length - 1) / 2;
    const [source] = read(surroundings(print, level, rect));
    const { amount } = print.recipe.shape.sharpening;
    const weights = heap.place(taps);
    // One pixel more than the two blurs need, for the range about each pixel.
    const margin = 2 * reach + 1;
    const width = (rect.width + 2 * margin + 3) & ~3;
    const height = rect.height + 2 * margin;
    const plane = () => heap.allocate(4 * (width + 4) * height);
    const [light, rows, once, twice] = [plane(), plane(), plane(), plane()];
    kernels.padPlane(
      source.pointer, source.stride, source.width, source.height, rect.x - margin - source.x, rect.y - margin - source.y,
      light, width, height,
    ); // prettier-ignore
    // Every blur takes `reach` off each side.
    const inner = (rect.width + 2 * reach + 2 + 3) & ~3;
    kernels.convolveRows(light, width, rows, inner, height, weights, taps.length);
    kernels.convolveColumns(rows, once, inner, height - 2 * reach, weights, taps.length);
    const least = (rect.width + 2 + 3) & ~3;
    kernels.convolveRows(once, inner, rows, least, height - 2 * reach, weights, taps.length);
    kernels.convolveColumns(rows, twice, least, height - 4 * reach, weights, taps.length);
    const { slope, offset, relative, from, to } = sparingOf(print, level);
    kernels.sharpenLight(
      light + 4 * (margin * width + margin), width, once + 4 * ((reach + 1) * inner + reach + 1), inner, twice + 4 * (least + 1), least,
      out, SLOT_EDGE, rect.width, rect.height, amount, slope, offset, relative, from, to, BEYOND,
    ); // prettier-ignore
  },
};

/** What noise the light of a level has, and between which multiples of it the range of 3 × 3 pixels begins to count as an edge. */
function sparingOf({ recipe, lightNoise }: SharpenPrint, level: number) {
  const share = 4 ** -level;
  const from = RANGE_FROM + RANGE_SPARED * recipe.shape.sharpening.sparing;
  return {
    slope: (lightNoise?.slope ?? 0) * share,
    offset: (lightNoise?.offset ?? 0) * share,
    relative: lightNoise ? 0 : UNKNOWN_NOISE,
    from,
    to: 1.8 * from,
  };
}

/**
 * How much of each pixel of a piece of light is spared by sharpening, 1 being all of it: the kernel's mask, for showing.
 * @param light - width·height values of a level, before sharpening.
 */
export function sparedShares(
  print: SharpenPrint,
  level: number,
  light: Float32Array,
  width: number,
  height: number,
): Float32Array {
  const { slope, offset, relative, from, to } = sparingOf(print, level);
  const taps = tapsAt(print, level);
  const once = smoothed(smoothed(light, width, height, taps, 1, 0), width, height, taps, 0, 1);
  const detail = light.map((own, i) => own - once[i]);
  return light.map((own, i) => {
    const [x, y] = [i % width, Math.floor(i / width)];
    let [least, most] = [Infinity, -Infinity];
    for (let dy = -1; dy <= 1; dy++)
      for (let dx = -1; dx <= 1; dx++) {
        const v = detail[inside(y + dy, height) * width + inside(x + dx, width)];
        if (v < least) least = v;
        if (v > most) most = v;
      }
    const lit = Math.max(0, own);
    const noise = Math.sqrt(Math.max(1e-12, slope * lit + offset + (relative * lit) ** 2));
    return 1 - smoothstep((most - least) / noise, from, to);
  });
}

const inside = (at: number, length: number): number => Math.min(length - 1, Math.max(0, at));

/** Values convolved along rows (1, 0) or columns (0, 1), the border repeated. */
function smoothed(
  values: Float32Array,
  width: number,
  height: number,
  taps: Float32Array,
  alongX: number,
  alongY: number,
): Float32Array {
  const reach = (taps.length - 1) / 2;
  return values.map((_, i) => {
    const [x, y] = [i % width, Math.floor(i / width)];
    let sum = 0;
    for (let k = -reach; k <= reach; k++)
      sum += taps[k + reach] * values[inside(y + k * alongY, height) * width + inside(x + k * alongX, width)];
    return sum;
  });
}

function radiusAt({ shape }: SharpenPrint["recipe"], level: number): number {
  return shape.sharpening.radius / 2 ** level;
}

function tapsAt({ recipe }: SharpenPrint, level: number): Float32Array {
  const radius = radiusAt(recipe, level);
  return radius < LEAST_PX ? Float32Array.of(1) : gaussianTaps(radius);
}

function surroundings(print: SharpenPrint, level: number, rect: Rect): Need<SharpenPrint> {
  const reach = (tapsAt(print, level).length - 1) / 2;
  return { stage: "weigh", level, rect: grown(rect, 2 * reach + 1) };
}
