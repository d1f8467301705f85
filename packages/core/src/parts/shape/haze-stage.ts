import type { Stage } from "../../graph/stage.ts";
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
/** Haze that is laid in where everything is near, share. */
export const EVERYWHERE = 0.1;

/** A print whose haze may also be cleared or laid in by parts, which asks for the map without the stage. */
type HazePrint = WeighPrint & { readonly clearsHaze?: boolean };

const isActive = ({ recipe }: WeighPrint) => recipe.shape.haze !== 0;

/**
 * How much of each place's own light comes through the haze, from the dark channel of the colours (He, Sun, Tang 2009): somewhere in
 * every patch some colour is dark, unless haze lies before it. Made for the whole frame on its overview and carried to finer
 * pixels by local lines over stops; a third plane holds the airlight's grey.
 */
const hazeMapStage: Stage<HazePrint> = {
  name: "haze-map",
  grid: "frame",
  planes: 3,
  costNs: 450,
  after: "stops",
  reads: () => [PATCH, FOLLOW],
  isActive: (print) => isActive(print) || print.clearsHaze === true,
  needs: (print, level) => {
    const rect = wholeFrame(print, level);
    return [
      { stage: "stops", level, rect },
      ...[0, 1, 2].map((c) => ({ stage: "frame", level, rect, print: channelOf(print, c) })),
    ];
  },
  compute({ heap, print, read }, level, rect, [slope, offset, air]) {
    const { kernels } = heap;
    const { width, height } = rect;
    const n = width * height;
    const plane = () => heap.allocate(4 * (n + 4));
    const compact = (pointer: number, stride: number) => {
      const to = plane();
      kernels.copyRect(pointer, stride, to, width, width, height);
      return to;
    };
    const [source] = read({ stage: "stops", level, rect });
    const stops = compact(source.pointer, source.stride);
    const colours = [0, 1, 2].map((c) => {
      const [block] = read({ stage: "frame", level, rect, print: channelOf(print, c) });
      return compact(block.pointer, block.stride);
    });
    const { width: w, height: h } = levelSize(print.negative, level);
    const longEdge = Math.max(w, h);
    const radius = Math.max(1, Math.round(PATCH * longEdge));
    const darkest = (times: readonly number[]) => {
      const least = plane();
      const [red, green, blue] = colours;
      kernels.leastOfThree(red, green, blue, least, (n + 3) & ~3, times[0], times[1], times[2]);
      return eroded(heap, least, width, height, radius);
    };
    // Views of the heap die when it grows: taken only once all of it is there.
    const plainDark = darkest([1, 1, 1]);
    const { grey, colour } = airlightOf(
      colours.map((at) => heap.floats(at, n)),
      heap.floats(plainDark, n),
      heap.floats(stops, n),
    );
    const passed = darkest(colour.map((v) => 1 / v));
    const values = heap.floats(passed, n);
    values.forEach((dark, i) => (values[i] = 1 - TAKEN * Math.min(1, Math.max(0, dark))));

    const follow = Math.max(2, Math.round(FOLLOW * longEdge));
    localLine(heap, stops, passed, width, height, { radius: follow, passes: 1, ridge: RIDGE }, [slope, offset]);
    heap.floats(air, SLOT_EDGE * height).fill(grey);
  },
};

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

/** The colour and the grey of the light that haze itself sends: of the pixels whose patch is brightest in its darkest colour. */
function airlightOf(
  colours: readonly Float32Array[],
  dark: Float32Array,
  stops: Float32Array,
): { readonly colour: readonly number[]; readonly grey: number } {
  const sorted = dark.slice().sort();
  const haziest = sorted[Math.floor((1 - HAZIEST) * (sorted.length - 1))];
  const places: number[] = [];
  dark.forEach((value, i) => {
    if (value >= haziest) places.push(i);
  });
  const mean = (value: (i: number) => number) => places.reduce((sum, i) => sum + value(i), 0) / places.length;
  // A picture without haze has no place that looks like it: nothing dark is to count as airlight.
  const greens = colours[1].slice().sort();
  const least = LEAST_AIR * greens[Math.floor(NEARLY_ALL * (greens.length - 1))];
  const gain = Math.max(
    1,
    least /
      Math.max(
        1e-4,
        mean((i) => colours[1][i]),
      ),
  );
  return {
    colour: colours.map((values) => Math.max(1e-4, gain * mean((i) => values[i]))),
    grey: Math.max(1e-4, gain * mean((i) => stopsToLight(stops[i]))),
  };
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

export const HAZE_STAGES = [hazeMapStage, hazeStage];
