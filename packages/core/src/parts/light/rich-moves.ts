import { SLOT_EDGE } from "../../kernels/heap.ts";
import type { Block, Need, Stage, StageContext } from "../../graph/stage.ts";
import type { Rect } from "../../maths/rect.ts";
import { addCoarse, reaches, withMask } from "../../shapes/kept-mask.ts";
import { matteNeed, regionNeeds } from "../../shapes/matte.ts";
import { BAND_BYTES, bands, drawCoarse, drawLine } from "../shape/coarse-line.ts";
import { guidedBase } from "../shape/guided-base.ts";
import { EVERYWHERE, LEAST } from "../shape/haze-stage.ts";
import { onOverview } from "../shape/overview.ts";
import { scattered, SOFT_SPREAD } from "../shape/scatter-stage.ts";
import { MATTE_STAGES } from "./matte-stage.ts";
import type { LightPrint, PreparedRichMove } from "./print.ts";
import { TONE_TABLE } from "./tone-table.ts";

type Rich = PreparedRichMove;

/** What a move reads of the picture. */
const READS = {
  base: ({ byTone, zoneLimit, limits }: Rich) => byTone !== null || zoneLimit !== null || limits.edges !== 0,
  fine: ({ space }: Rich) => space.fine !== space.local,
  middle: ({ space }: Rich) => space.local !== 0,
  soft: ({ space }: Rich) => space.softness !== 0,
  haze: ({ space }: Rich) => space.haze !== 0,
} as const;
const some = (reads: (move: Rich) => boolean) => (print: LightPrint) => print.richMoves.some(reads);

/** Base of the light that is weighed by tone. */
const toneBase = guidedBase<LightPrint>("light-base", "scatter", 0.004, 3, some(READS.base));
const fineBase = guidedBase<LightPrint>("light-fine", "scatter", 0.0012, 1, some(READS.fine));
const middleBase = guidedBase<LightPrint>("light-middle", "scatter", 0.008, 5, some(READS.middle));
const softened = scattered<LightPrint>("light-soft", "scatter", () => SOFT_SPREAD, some(READS.soft));

/** The moves that look at the picture and act somewhere in a rectangle. */
function movesIn(print: LightPrint, level: number, rect: Rect): Rich[] {
  return print.richMoves.filter((move) => move.invert || reaches(print, move, level, rect));
}

/** What these moves read to act on a rectangle. */
function needsOf(print: LightPrint, level: number, rect: Rect): Need<LightPrint>[] {
  const moves = movesIn(print, level, rect);
  if (moves.length === 0) return [];
  const any = (reads: (move: Rich) => boolean, need: () => Need<LightPrint>[]) => (moves.some(reads) ? need() : []);
  return [
    { stage: "scatter", level, rect },
    ...any(READS.base, () => [toneBase.need(print, level, rect)]),
    ...any(READS.fine, () => [fineBase.need(print, level, rect)]),
    ...any(READS.middle, () => [middleBase.need(print, level, rect)]),
    ...any(READS.soft, () => [softened.need(print, level, rect)]),
    ...any(READS.haze, () => [{ stage: "stops", level, rect }, onOverview("haze-map", print, level, rect)]),
    ...moves.flatMap((move) => [
      ...regionNeeds(print, move.shape, level, rect),
      ...(move.limits.follow > 0 ? [matteNeed(print, move.shape, "likeness", level, rect)] : []),
      ...(move.share ? shareNeeds(move.share, level, rect) : []),
    ]),
  ];
}

function shareNeeds({ lifted, plain }: NonNullable<Rich["share"]>, level: number, rect: Rect): Need<LightPrint>[] {
  return [lifted, plain].map((print) => ({ stage: "stops", level, rect, print: print as LightPrint }));
}

type Context = StageContext<LightPrint>;

/**
 * What moves do that look at the picture, stops; kept apart from the others, so that a stroke of those costs no more beside them.
 * Texture keeps its contrast unless it is asked for.
 */
const richStage: Stage<LightPrint> = {
  name: "light-rich",
  grid: "frame",
  planes: 1,
  costNs: 60,
  after: null,
  reads: (print, level, rect) => [
    print.frame.toFlat,
    movesIn(print, level, rect).map(({ key, richKey, invert }) => [key, richKey, invert]),
  ],
  isActive: ({ richMoves }) => richMoves.length > 0,
  needs: needsOf,
  compute(context, level, rect, [out]) {
    context.heap.floats(out, SLOT_EDGE * rect.height).fill(0);
    addRichMoves(context, level, rect, out);
  },
};

/** The plane of {@link richStage} as a need; none where none of these moves acts. */
export function richNeed(print: LightPrint, level: number, rect: Rect): Need<LightPrint> | null {
  return movesIn(print, level, rect).length > 0 ? { stage: richStage.name, level, rect } : null;
}

export const RICH_STAGES = [
  toneBase.stage,
  fineBase.stage,
  middleBase.stage,
  softened.stage,
  ...MATTE_STAGES,
  richStage,
];

function addRichMoves(context: Context, level: number, rect: Rect, out: number): void {
  const { heap, print, read } = context;
  const moves = movesIn(print, level, rect);
  if (moves.length === 0) return;
  const { kernels } = heap;
  const n = SLOT_EDGE * rect.height;
  const [stops] = read({ stage: "scatter", level, rect });
  const base = moves.some(READS.base) ? toneBase.need(print, level, rect) : null;
  const line = base && read(base);
  const plane = () => heap.allocate(4 * n + 64);
  const tones = base && plane();
  if (base && line && tones)
    for (const band of bands(rect)) drawLine(heap, line, base.level, stops, level, band, rowOf(tones, rect, band));
  for (const move of moves)
    withMask(context, move, level, rect, (kept) => {
      const mark = heap.mark();
      const mask = plane();
      heap.floats(mask, n).fill(0);
      if (kept.halvings > 0) addCoarse(heap, mask, rect, kept);
      else kernels.copyRect(kept.pointer, SLOT_EDGE, mask, SLOT_EDGE, rect.width, rect.height);
      limit(context, move, level, rect, mask, base && line && { need: base, slope: line[0] });
      const byTable = (table: Float32Array, to: number, tone: number, toneStride: number) =>
        kernels.addByTone(
          to, SLOT_EDGE, mask, SLOT_EDGE, tone, toneStride, rect.width, rect.height, heap.place(table),
          TONE_TABLE.lowest, TONE_TABLE.perStop, TONE_TABLE.count, 0,
        ); // prettier-ignore
      if (move.byTone && tones) byTable(move.byTone, out, tones, SLOT_EDGE);
      if (move.zoneLimit && tones) byTable(move.zoneLimit, mask, tones, SLOT_EDGE);
      if (move.grade) byTable(move.grade, out, stops.pointer, stops.stride);
      if (Object.values(move.space).some((strength) => strength !== 0))
        addInSpace(context, move, level, rect, mask, out);
      heap.release(mark);
    });
}

const rowOf = (plane: number, rect: Rect, band: Rect) => plane + 4 * (band.y - rect.y) * SLOT_EDGE;

/** Takes from a mask (stride SLOT_EDGE) what lies outside its move's side and limits. */
function limit(
  { heap, print, read }: Context,
  { invert, limits, shape, share }: Rich,
  level: number,
  rect: Rect,
  mask: number,
  base: { readonly need: Need<LightPrint>; readonly slope: Block } | null,
): void {
  const mark = heap.mark();
  const { width, height } = rect;
  /** Multiplies by a factor of another plane's value. */
  const times = (from: number, stride: number, top: number, rows: number, factor: (v: number) => number) => {
    const values = heap.floats(from, stride * (rows - 1) + width);
    const own = heap.floats(mask + 4 * top * SLOT_EDGE, SLOT_EDGE * rows);
    for (let y = 0; y < rows; y++)
      for (let x = 0; x < width; x++) own[y * SLOT_EDGE + x] *= factor(values[y * stride + x]);
  };
  if (invert) {
    const own = heap.floats(mask, SLOT_EDGE * height);
    for (let i = 0; i < own.length; i++) own[i] = 1 - own[i];
  }
  if (limits.follow > 0) {
    const [like] = read(matteNeed(print, shape, "likeness", level, rect));
    times(like.pointer, like.stride, 0, height, (v) => 1 - limits.follow + limits.follow * v);
  }
  if (limits.edges !== 0 && base) {
    // Where light varies much within the window, the base's slope is near 1; on even ground it is near 0.
    const near = heap.allocate(BAND_BYTES);
    const strength = Math.abs(limits.edges);
    for (const band of bands(rect)) {
      drawCoarse(heap, base.slope, base.need.level, level, band, near);
      times(near, SLOT_EDGE, band.y - rect.y, band.height, (v) =>
        limits.edges > 0 ? 1 - strength + strength * v : 1 - strength * v,
      );
    }
  }
  if (share) {
    const [lifted, plain] = shareNeeds(share, level, rect).map((need) => read(need)[0]);
    const belongs = heap.allocate(4 * SLOT_EDGE * height + 64);
    heap.kernels.copyRect(lifted.pointer, lifted.stride, belongs, SLOT_EDGE, width, height);
    const values = heap.floats(belongs, SLOT_EDGE * height);
    const others = heap.floats(plain.pointer, plain.stride * (height - 1) + width);
    for (let y = 0; y < height; y++)
      for (let x = 0; x < width; x++) {
        // Light is 1 + share of what it was: 2^d − 1 within 0.002.
        const d = Math.min(1, Math.max(0, values[y * SLOT_EDGE + x] - others[y * plain.stride + x]));
        values[y * SLOT_EDGE + x] = d * (0.6565 + 0.3435 * d);
      }
    times(belongs, SLOT_EDGE, 0, height, (v) => v);
  }
  heap.release(mark);
}

/** Adds a move's contrast in space, softness and haze. */
function addInSpace(
  { heap, print, read }: Context,
  move: Rich,
  level: number,
  rect: Rect,
  mask: number,
  out: number,
): void {
  const { kernels } = heap;
  const { space } = move;
  const [stops] = read({ stage: "scatter", level, rect });
  const has = (reads: (of: Rich) => boolean) => reads(move);
  const fine = has(READS.fine) ? fineBase.need(print, level, rect) : null;
  const middle = has(READS.middle) ? middleBase.need(print, level, rect) : null;
  const soft = has(READS.soft) ? softened.need(print, level, rect) : null;
  const map = has(READS.haze) ? onOverview("haze-map", print, level, rect) : null;
  const blocks = {
    fine: fine && read(fine),
    middle: middle && read(middle),
    soft: soft && read(soft),
    map: map && read(map),
  };
  const before = map && read({ stage: "stops", level, rect })[0];
  const airlight = blocks.map ? heap.floats(blocks.map[2].pointer, 1)[0] : 0;
  const room = () => heap.allocate(BAND_BYTES);
  const planes = { fine: fine ? room() : 0, middle: middle ? room() : 0, soft: soft ? room() : 0, clear: map ? room() : 0, passed: map ? room() : 0 }; // prettier-ignore
  for (const band of bands(rect)) {
    const { width, height } = band;
    const row = band.y - rect.y;
    const light = stops.pointer + 4 * row * stops.stride;
    if (fine) drawLine(heap, blocks.fine!, fine.level, stops, level, band, planes.fine);
    if (middle) drawLine(heap, blocks.middle!, middle.level, stops, level, band, planes.middle);
    if (soft) {
      drawCoarse(heap, blocks.soft![0], soft.level, level, band, planes.soft);
      const values = planes.soft;
      kernels.stopsOfLight(values, SLOT_EDGE, values, SLOT_EDGE, width, height);
    }
    if (map && before) {
      drawLine(heap, blocks.map!.slice(0, 2), map.level, before, level, band, planes.passed);
      kernels.clearHaze(
        light, stops.stride, planes.passed, SLOT_EDGE, planes.clear, SLOT_EDGE, width, height, airlight,
        Math.min(1, Math.max(-1, space.haze)), LEAST, EVERYWHERE,
      ); // prettier-ignore
    }
    kernels.addEffects(
      rowOf(out, rect, band), SLOT_EDGE, rowOf(mask, rect, band), SLOT_EDGE, light, stops.stride,
      planes.fine, planes.middle, planes.soft, planes.clear, SLOT_EDGE, width, height,
      space.fine, space.local, Math.min(1, space.softness), 1,
    ); // prettier-ignore
  }
}
