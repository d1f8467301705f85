import type { Block, Need, Stage } from "../../graph/stage.ts";
import { SLOT_EDGE, type KernelHeap } from "../../kernels/heap.ts";
import { stopsToLight } from "../../colour/stops.ts";
import { levelSize } from "../../tiles/tiles.ts";
import { channelOf } from "../weigh/channel-print.ts";
import type { WeighPrint } from "../weigh/print.ts";
import { BAND_BYTES, bands, drawLine, localLine } from "./coarse-line.ts";
import { onOverview, wholeFrame } from "./overview.ts";

/** Half window of the dark channel, long edges. */
const PATCH = 0.012;
/** Half window in which the share of light follows the picture's edges, long edges, and what it does not follow, stops². */
const FOLLOW = 0.02;
const RIDGE = 0.3 ** 2;
/** Some haze is left: without any, distance would not be seen (He, Sun, Tang 2009). */
const TAKEN = 0.95;
/** Least share of light that is taken to come through; less would show nothing but noise. */
export const LEAST = 0.15;
/** Share of the pixels that look haziest of all, from which the airlight is read. */
const HAZIEST = 0.001;
/** The airlight is taken to be at least this share of what nearly all light of the picture lies below. */
const LEAST_AIR = 0.7;
const NEARLY_ALL = 0.99;
/** Light that is told from none. */
const LEAST_GREY = 1e-4;
/** Haze that is laid in where everything is near, share. */
export const EVERYWHERE = 0.1;

/** A print whose haze may also be cleared or laid in by parts, which asks for the map without the stage. */
type HazePrint = WeighPrint & { readonly clearsHaze?: boolean };

const isActive = ({ recipe }: WeighPrint) => recipe.shape.haze !== 0;

/** What haze does to the colours as shot: read before any weighing, so that weights and families do not move it. */
const isSeen = (print: HazePrint) => isActive(print) || print.clearsHaze === true;

const coloursAt = (print: HazePrint, level: number): Need<HazePrint>[] =>
  [0, 1, 2].map((c) => ({ stage: "frame", level, rect: wholeFrame(print, level), print: channelOf(print, c) }));

/** A block's values without gaps, on the heap's stack. */
function compact(heap: KernelHeap, { pointer, stride, width, height }: Block): number {
  const to = heap.allocate(4 * (width * height + 4));
  heap.kernels.copyRect(pointer, stride, to, width, width, height);
  return to;
}

/**
 * How much of each place's own light comes through the haze, from the dark channel of the colours (He, Sun, Tang 2009): somewhere in
 * every patch some colour is dark, unless haze lies before it. It is opened, not eroded alone, so that no skyline keeps a seam as wide as a
 * patch. Made for the whole frame on its overview; the second plane says with
 * what weight a place's light counts for the airlight.
 */
const hazeVeilStage: Stage<HazePrint> = {
  name: "haze-veil",
  grid: "frame",
  planes: 2,
  costNs: 400,
  after: "stops",
  reads: () => PATCH,
  isActive: isSeen,
  needs: coloursAt,
  compute({ heap, print, read }, level, rect, [passed, airs]) {
    const { kernels } = heap;
    const { width, height } = rect;
    const n = width * height;
    const colours = coloursAt(print, level).map((need) => compact(heap, read(need)[0]));
    const radius = Math.max(1, Math.round(PATCH * longEdgeOn(print, level)));
    const darkest = (times: readonly number[]) => {
      const least = heap.allocate(4 * (n + 4));
      const [red, green, blue] = colours;
      kernels.leastOfThree(red, green, blue, least, (n + 3) & ~3, times[0], times[1], times[2]);
      return eroded(heap, least, width, height, radius);
    };
    // Views of the heap die when it grows: taken only once all of it is there.
    const plainDark = darkest([1, 1, 1]);
    const air = airlightOf(
      colours.map((at) => heap.floats(at, n)),
      heap.floats(plainDark, n),
    );
    const veil = darkest(air.colour.map((v) => 1 / v));
    const shares = heap.floats(veil, n);
    shares.forEach((dark, i) => (shares[i] = 1 - TAKEN * Math.min(1, Math.max(0, dark))));
    // A patch on the border of something dark says nothing of what is beyond it: haze reaches up to there again.
    kernels.copyRect(eroded(heap, veil, width, height, radius), width, passed, SLOT_EDGE, width, height);
    const weights = heap.floats(airs, SLOT_EDGE * height).fill(0);
    for (const i of air.places) weights[Math.floor(i / width) * SLOT_EDGE + (i % width)] = air.gain / air.places.length;
  },
};

/** The veil carried to finer pixels by local lines over stops; a third plane holds the airlight's grey. */
const hazeMapStage: Stage<HazePrint> = {
  name: "haze-map",
  grid: "frame",
  planes: 3,
  costNs: 90,
  after: "stops",
  reads: () => FOLLOW,
  isActive: isSeen,
  needs: (print, level) => ["stops", "haze-veil"].map((stage) => ({ stage, level, rect: wholeFrame(print, level) })),
  compute({ heap, print, read }, level, rect, [slope, offset, air]) {
    const { width, height } = rect;
    const n = width * height;
    const [source] = read({ stage: "stops", level, rect });
    const [passed, airs] = read({ stage: "haze-veil", level, rect });
    const [stops, values, weights] = [source, passed, airs].map((block) => compact(heap, block));
    const [lights, counts] = [stops, weights].map((at) => heap.floats(at, n));
    let grey = 0;
    counts.forEach((weight, i) => {
      if (weight > 0) grey += weight * stopsToLight(lights[i]);
    });
    const follow = Math.max(2, Math.round(FOLLOW * longEdgeOn(print, level)));
    localLine(heap, stops, values, width, height, { radius: follow, passes: 1, ridge: RIDGE }, [slope, offset]);
    heap.floats(air, SLOT_EDGE * height).fill(Math.max(LEAST_GREY, grey));
  },
};

function longEdgeOn({ negative }: HazePrint, level: number): number {
  const { width, height } = levelSize(negative, level);
  return Math.max(width, height);
}

/** Haze taken out of the light, or laid into it. */
const hazeStage: Stage<WeighPrint> = {
  name: "haze",
  grid: "frame",
  planes: 1,
  costNs: 10,
  after: "stops",
  reads: ({ recipe }) => recipe.shape.haze,
  isActive,
  needs: (print, level, rect) => [{ stage: "stops", level, rect }, onOverview("haze-map", print, level, rect)],
  compute({ heap, print, read }, level, rect, [out]) {
    const [stops] = read({ stage: "stops", level, rect });
    const need = onOverview("haze-map", print, level, rect);
    const [slope, offset, air] = read(need);
    const [airlight] = heap.floats(air.pointer, 1);
    const passed = heap.allocate(BAND_BYTES);
    for (const band of bands(rect)) {
      drawLine(heap, [slope, offset], need.level, stops, level, band, passed);
      const row = band.y - rect.y;
      heap.kernels.clearHaze(
        stops.pointer + 4 * row * stops.stride, stops.stride, passed, SLOT_EDGE, out + 4 * row * SLOT_EDGE, SLOT_EDGE,
        band.width, band.height, airlight, print.recipe.shape.haze, LEAST, EVERYWHERE,
      ); // prettier-ignore
    }
  },
};

/**
 * The colour of the light that haze itself sends: of the places whose patch is brightest in its darkest colour, `gain` times as
 * much as they send.
 */
function airlightOf(
  colours: readonly Float32Array[],
  dark: Float32Array,
): { readonly colour: readonly number[]; readonly gain: number; readonly places: readonly number[] } {
  const sorted = dark.slice().sort();
  const haziest = sorted[Math.floor((1 - HAZIEST) * (sorted.length - 1))];
  const places: number[] = [];
  dark.forEach((value, i) => {
    if (value >= haziest) places.push(i);
  });
  const [red, green, blue] = colours.map((values) => places.reduce((sum, i) => sum + values[i], 0) / places.length);
  // A picture without haze has no place that looks like it: nothing dark is to count as airlight.
  const greens = colours[1].slice().sort();
  const least = LEAST_AIR * greens[Math.floor(NEARLY_ALL * (greens.length - 1))];
  const gain = Math.max(1, least / Math.max(LEAST_GREY, green));
  return { colour: [red, green, blue].map((value) => Math.max(LEAST_GREY, gain * value)), gain, places };
}

/** The least of a plane in a square window about each pixel, borders repeated. */
function eroded(heap: KernelHeap, plane: number, width: number, height: number, radius: number): number {
  const { kernels } = heap;
  const across = (width + 3) & ~3;
  const [w, h] = [across + 2 * radius + 4, height + 2 * radius];
  const [padded, rows, out] = [w * h, across * h, across * height].map((size) => heap.allocate(4 * size + 16));
  kernels.padPlane(plane, width, width, height, -radius, -radius, padded, w, h);
  kernels.erode(padded, w, rows, across, h, 4, 2 * radius + 1);
  kernels.erode(rows, across, out, across, height, 4 * across, 2 * radius + 1);
  kernels.copyRect(out, across, plane, width, width, height);
  return plane;
}

export const HAZE_STAGES = [hazeVeilStage, hazeMapStage, hazeStage];
