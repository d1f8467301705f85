import type { Vector3 } from "../colour/matrix.ts";
import { SRGB_TRANSFER, type Transfer } from "../colour/transfer.ts";
import type { Frame } from "../parts/ground/geometry.ts";
import type { KernelHeap } from "../kernels/heap.ts";
import { defaultRecipe } from "../recipe/defaults.ts";
import type { Recipe } from "../recipe/schema.ts";
import { isFinishedAlike, viewPart } from "./changed-part.ts";
import { scalePlane, sourceRoom } from "../kernels/scaling.ts";
import { cubicWeights, type AxisWeights } from "../maths/cubic-weights.ts";
import { SHARED, shareRecipe, type Shared } from "./finish-share.ts";
import { Finisher } from "./finisher.ts";
import { StageGraph, type StageWatch } from "../graph/graph.ts";
import { PIPELINE } from "./pipeline.ts";
import { PLAIN_FACTS, type NegativeFacts } from "../parts/ground/facts.ts";
import { COLOUR_MATRIX, colourTable, Preparer, type PreparedPrint } from "./prepare.ts";
import type { Block } from "../graph/stage.ts";
import { boxFilter } from "../parts/shape/coarse-line.ts";
import { maskGrid } from "../shapes/prepared.ts";
import { drawMask, type MaskShape } from "../shapes/shapes.ts";
import { BetweenTiles } from "../tiles/between-tiles.ts";
import { levelSize, TILE_SIZE, tileKey, type LinearTiles, type TilePlace } from "../tiles/tiles.ts";
import { isOwnScale, type View } from "../tiles/view.ts";
import type { Rect } from "../maths/rect.ts";

const CHANNELS: readonly Vector3[] = [
  [1, 0, 0],
  [0, 1, 0],
  [0, 0, 1],
];
/** Kept weights of axes. */
const MOST_AXES = 512;

/**
 * Computes prints of one negative. The stage graph gives light and stops tile by tile; here they are developed, scaled to
 * the view, and finished. Everything is a function of negative, recipe and view; what is kept only saves time.
 * Not re-entrant.
 */
export class Engine {
  readonly #heap: KernelHeap;
  readonly #tiles: BetweenTiles;
  readonly #facts: NegativeFacts;
  readonly #graph: StageGraph<PreparedPrint>;
  readonly #preparer = new Preparer();
  readonly #finisher: Finisher;
  readonly #prints = new WeakMap<Recipe, PreparedPrint>();
  readonly #shares = new WeakMap<PreparedPrint, Readonly<Record<Shared, PreparedPrint | null>>>();
  readonly #axes = new Map<string, AxisWeights>();
  #colourTable?: Float32Array;

  /**
   * @param heap - with slots: at least 16, better some 6 for each tile of a view.
   * @param facts - what is known of the negative.
   */
  constructor(heap: KernelHeap, tiles: LinearTiles, facts: NegativeFacts = PLAIN_FACTS) {
    this.#heap = heap;
    this.#facts = facts;
    this.#tiles = new BetweenTiles(heap, tiles);
    this.#graph = new StageGraph(heap, this.#tiles, PIPELINE);
    this.#finisher = new Finisher(heap, this.#graph, this.#preparer, {
      developed: (print, view) => this.#developed(print, view, print.toneTable),
      densities: (print, view) => (isOwnScale(view) ? this.#developed(print, view, print.densityTable) : null),
      share: (print, of, view) => this.#share(print, of, view),
    });
  }

  /** Has every tile that a stage computes told to somebody who measures. */
  watch(watch: StageWatch | null): void {
    this.#graph.watch = watch;
  }

  /** Makes a recipe ready. It is not to be changed afterwards: one and the same recipe is the same print. */
  prepare(recipe: Recipe): PreparedPrint {
    let print = this.#prints.get(recipe);
    if (!print) this.#prints.set(recipe, (print = this.#preparer.prepare(recipe, this.#tiles.size, this.#facts)));
    return print;
  }

  /** The tiles of the negative that the next render of this view will read. */
  tilesFor(print: PreparedPrint, view: View): TilePlace[] {
    const source = this.#sourceOf(print.frame, view);
    const places = this.#graph.tilesFor(print, this.#lightStages(print), view.level, source);
    for (const of of SHARED) {
      const shared = this.#sharesOf(print)[of];
      if (shared) places.push(...this.#graph.tilesFor(shared, ["light"], view.level, source));
    }
    return this.#sourcesOf(places);
  }

  /** The tiles that {@link renderColourRgba} and {@link renderWorking} will read. */
  tilesForColour(print: PreparedPrint, view: View): TilePlace[] {
    const [channel] = this.#channels(print);
    return this.#sourcesOf(this.#graph.tilesFor(channel, ["frame"], view.level, this.#sourceOf(print.frame, view)));
  }

  /** The pyramid's tiles that tiles of any level are made from. */
  #sourcesOf(places: readonly TilePlace[]): TilePlace[] {
    const sources = places.flatMap((place) => this.#tiles.sources(place));
    return [...new Map(sources.map((place) => [tileKey(place), place])).values()];
  }

  /**
   * The part of a view, in its pixels of the scaled picture, outside of which two prints of one frame look the same to the bit. Never
   * too small; the whole view as soon as anything but the light of some places differs.
   */
  changedPart(before: PreparedPrint, after: PreparedPrint, view: View): Rect {
    const whole = { x: view.x, y: view.y, width: view.width, height: view.height };
    const stages = this.#lightStages(after);
    if (before === after) return { ...whole, width: 0, height: 0 };
    if (!isFinishedAlike(before, after) || stages.join() !== this.#lightStages(before).join()) return whole;
    const source = this.#sourceOf(after.frame, view);
    const parts = this.#graph.changedParts(before, after, stages, view.level, source);
    for (const of of SHARED) {
      const [old, now] = [before, after].map((print) => this.#sharesOf(print)[of]);
      if (Boolean(old) !== Boolean(now)) return whole;
      if (old && now) parts.push(...this.#graph.changedParts(old, now, ["light"], view.level, source));
    }
    return viewPart(after, view, parts);
  }

  /**
   * The print as it is shown: dithered 8-bit sRGB, RGBA, width·height·4 bytes.
   * @param out - at least that long; made when it is not given.
   */
  renderRgba(print: PreparedPrint, view: View, out?: Uint8Array): Uint8Array {
    return this.renderCoded(print, view, SRGB_TRANSFER, "srgb", out);
  }

  /** Like {@link renderRgba}, in another encoding, which is known by its name. */
  renderCoded(print: PreparedPrint, view: View, transfer: Transfer, name: string, into?: Uint8Array): Uint8Array {
    return this.#withinMark(() => {
      const { pointer, stride } = this.#finisher.codes8(print, view, transfer, name);
      return this.#cropRows(pointer, stride, view, into);
    });
  }

  /**
   * The print as it is written: rounded 16-bit codes, one channel where the print is neutral, else three interleaved.
   * @param into - rows of the whole picture's width, the view's first row at the top.
   */
  renderCoded16(print: PreparedPrint, view: View, transfer: Transfer, name: string, into: Uint16Array): void {
    this.#withinMark(() => this.#finisher.codes16(print, view, transfer, name, into));
  }

  /** The negative's own colours under the recipe's exposure and geometry: 8-bit sRGB, RGBA. */
  renderColourRgba(print: PreparedPrint, view: View, into?: Uint8Array): Uint8Array {
    return this.#withinMark(() => {
      const planes = this.#channels(print).map((channel) => this.#lit(channel, view));
      const [{ stride }] = planes;
      const matrix = this.#heap.place(COLOUR_MATRIX);
      const table = this.#heap.place((this.#colourTable ??= colourTable()));
      const out = this.#heap.allocate(4 * stride * view.height);
      const [red, green, blue] = planes.map((plane) => plane.pointer);
      this.#heap.kernels.encodeColour8(red, green, blue, out, stride * view.height, matrix, table);
      return this.#cropRows(out, stride, view, into);
    });
  }

  /** Print reflectance of a view with its grain, linear, rows of `view.width` values. */
  renderReflectance(print: PreparedPrint, view: View): Float32Array {
    return this.#withinMark(() => this.#compact(this.#finisher.reflectance(print, view), view));
  }

  /** Scene light of a view after weighing and light moves, before the tone curve: linear, 1.0 = sensor white. */
  renderLight(print: PreparedPrint, view: View): Float32Array {
    return this.#withinMark(() => this.#compact(this.#lit(print, view), view));
  }

  /** Linear working colour of a view: three planes of width·height values. */
  renderWorking(print: PreparedPrint, view: View): [Float32Array, Float32Array, Float32Array] {
    const [red, green, blue] = this.#channels(print).map((channel) => this.renderLight(channel, view));
    return [red, green, blue];
  }

  /** Means over squares about each value of a plane, as `boxMeans`, many times as fast. */
  boxMeans(values: Float32Array, width: number, height: number, radius: number): Float32Array<ArrayBuffer> {
    return this.#withinMark(() => {
      const plane = this.#heap.place(values);
      boxFilter(this.#heap, width, height, radius)(plane, radius, 1);
      return this.#heap.floats(plane, values.length).slice();
    });
  }

  /** How much of each of some shapes, 0–1, lies at a place of the frame, full-size pixels. */
  masksAt({ negative, frame }: PreparedPrint, shapes: readonly MaskShape[], x: number, y: number): number[] {
    return this.#withinMark(() => {
      const grid = { ...maskGrid({ negative, frame }, 0, { x, y, width: 4, height: 1 }), width: 4 };
      const out = this.#heap.allocate(16);
      return shapes.map((shape) => {
        drawMask(this.#heap, shape, grid, out);
        return this.#heap.floats(out, 1)[0];
      });
    });
  }

  /** One print for each colour: exposure and geometry only. */
  #channels(print: PreparedPrint): PreparedPrint[] {
    const base = defaultRecipe();
    const { ground } = print.recipe;
    return CHANNELS.map(([red, green, blue], i) => {
      const channel = this.prepare({ ...base, ground, weigh: { ...base.weigh, red, green, blue } });
      this.#graph.standsBeside(channel, `colour ${i}`);
      return channel;
    });
  }

  /** The prints whose sum of moves says where the tone and the grain are stronger or weaker. */
  #sharesOf(print: PreparedPrint): Readonly<Record<Shared, PreparedPrint | null>> {
    let shares = this.#shares.get(print);
    if (!shares) {
      const [tone, grain] = SHARED.map((of) => {
        const recipe = shareRecipe(print.recipe, of);
        const shared = recipe && this.prepare(recipe);
        if (shared) this.#graph.standsBeside(shared, of);
        return shared && this.#graph.isActive(shared, "light", 0) ? shared : null;
      });
      this.#shares.set(print, (shares = { tone, grain }));
    }
    return shares;
  }

  /** How much more or less of the tone or the grain each pixel of a view has; null when it is the same everywhere. */
  #share(print: PreparedPrint, of: Shared, view: View): Block | null {
    const shared = this.#sharesOf(print)[of];
    if (!shared) return null;
    return this.#scaled(shared, view, (to) =>
      this.#graph.forEachTile(shared, ["light"], view.level, to, ([[moves]], part) =>
        this.#heap.kernels.copyRect(moves, TILE_SIZE, placeOf(to, part), to.stride, part.width, part.height),
      ),
    );
  }

  #lightStages(print: PreparedPrint): string[] {
    return this.#graph.isActive(print, "light", 0) ? ["scatter", "light"] : ["scatter"];
  }

  /** Print reflectance of a view, or what else a table makes of stops, before its grain. Tone curves do not commute with scaling: table first. */
  #developed(print: PreparedPrint, view: View, stopsTable: Float32Array): Block {
    const table = this.#heap.place(stopsTable);
    return this.#scaled(print, view, (to) =>
      this.#graph.forEachTile(print, this.#lightStages(print), view.level, to, ([[stops], [moves = 0] = []], part) =>
        this.#heap.kernels.develop(
          stops,
          moves,
          TILE_SIZE,
          placeOf(to, part),
          to.stride,
          part.width,
          part.height,
          table,
        ),
      ),
    );
  }

  /** Light of a view before the tone curve. */
  #lit(print: PreparedPrint, view: View): Block {
    const { kernels } = this.#heap;
    const stages = this.#lightStages(print);
    const plain =
      stages.length === 1 && !["haze", "local", "scatter"].some((one) => this.#graph.isActive(print, one, view.level));
    return this.#scaled(print, view, (to) =>
      this.#graph.forEachTile(print, plain ? ["areas"] : stages, view.level, to, ([[from], [moves = 0] = []], part) => {
        const at = placeOf(to, part);
        if (plain) kernels.copyLight(from, TILE_SIZE, at, to.stride, part.width, part.height);
        else kernels.lightOfStops(from, moves, TILE_SIZE, at, to.stride, part.width, part.height);
      }),
    );
  }

  /** A view of what `fill` makes of the pixels of its level. */
  #scaled({ frame }: PreparedPrint, view: View, fill: (block: Block) => void): Block {
    const { x, y, direct } = this.#viewWeights(frame, view);
    const stride = ((view.width + 3) & ~3) + 4;
    const pointer = this.#heap.allocate(4 * stride * view.height);
    const block: Block = { x: view.x, y: view.y, width: view.width, height: view.height, pointer, stride };
    if (direct) {
      fill(block);
      return block;
    }
    const mark = this.#heap.mark();
    const need = { x: x.start, y: y.start, width: x.end - x.start, height: y.end - y.start };
    const full: Block = { ...need, ...sourceRoom(this.#heap, need, x, y) };
    fill(full);
    scalePlane(this.#heap, full, x, y, block, view);
    this.#heap.release(mark);
    return block;
  }

  /** The frame's pixels, on the view's level, that a view is made from. */
  #sourceOf(frame: Frame, view: View): Rect {
    const { x, y, direct } = this.#viewWeights(frame, view);
    if (direct) return view;
    return { x: x.start, y: y.start, width: x.end - x.start, height: y.end - y.start };
  }

  #viewWeights(frame: Frame, view: View) {
    const { level, scale, x, y, width, height } = view;
    const whole = levelSize(frame, level);
    const ratio = scale * 2 ** level;
    return {
      x: this.#axis(ratio, x, width, whole.width),
      y: this.#axis(ratio, y, height, whole.height),
      direct: isOwnScale(view),
    };
  }

  #axis(ratio: number, from: number, count: number, length: number): AxisWeights {
    const key = `${ratio} ${from} ${count} ${length}`;
    let known = this.#axes.get(key);
    if (!known) {
      if (this.#axes.size === MOST_AXES) this.#axes.clear();
      this.#axes.set(key, (known = cubicWeights(ratio, from, count, length)));
    }
    return known;
  }

  #compact({ pointer, stride }: Block, view: View): Float32Array {
    const source = this.#heap.floats(pointer, stride * view.height);
    const out = new Float32Array(view.width * view.height);
    for (let y = 0; y < view.height; y++) out.set(source.subarray(y * stride, y * stride + view.width), y * view.width);
    return out;
  }

  #cropRows(pointer: number, stride: number, view: View, into?: Uint8Array): Uint8Array {
    const source = this.#heap.bytes(pointer, 4 * stride * view.height);
    const out = into ?? new Uint8Array(4 * view.width * view.height);
    if (stride === view.width) out.set(source);
    else
      for (let y = 0; y < view.height; y++)
        out.set(source.subarray(4 * y * stride, 4 * (y * stride + view.width)), 4 * y * view.width);
    return out;
  }

  #withinMark<T>(work: () => T): T {
    const mark = this.#heap.mark();
    try {
      return work();
    } finally {
      this.#heap.release(mark);
    }
  }
}

/** Where a part of a block's rectangle begins in it. */
function placeOf({ pointer, stride, x, y }: Block, part: Rect): number {
  return pointer + 4 * ((part.y - y) * stride + part.x - x);
}
