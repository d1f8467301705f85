import type { Vector3 } from "../colour/matrix.ts";
import { SRGB_TRANSFER, type Transfer } from "../colour/transfer.ts";
import { FORMAT_LONG_EDGE_MM, grainNoise, type GrainFilter } from "../parts/finish/grain.ts";
import { OUTPUT_GAIN, OUTPUT_MOST, outputSigma } from "../parts/finish/output-sharpening.ts";
import { isGrey, WORN_EDGE } from "../parts/finish/print-colour.ts";
import { grainStage } from "../parts/finish/view-stages.ts";
import type { Frame } from "../parts/ground/geometry.ts";
import { gaussianTaps } from "../maths/gaussian.ts";
import { SLOT_EDGE, type KernelHeap } from "../kernels/heap.ts";
import { defaultRecipe } from "../recipe/defaults.ts";
import type { Recipe } from "../recipe/schema.ts";
import { isFinishedAlike, viewPart } from "./changed-part.ts";
import { codesOf, scaleTone16, wearEdges16, type Tables16 } from "./codes16.ts";
import { cubicWeights, type AxisWeights } from "./cubic-weights.ts";
import { SHARED, shareRecipe, type Shared } from "./finish-share.ts";
import { StageGraph, type StageWatch } from "../graph/graph.ts";
import { PIPELINE } from "./pipeline.ts";
import { PLAIN_FACTS, type NegativeFacts } from "../parts/ground/facts.ts";
import { COLOUR_MATRIX, colourTable, Preparer, type PreparedPrint } from "./prepare.ts";
import type { Block } from "../graph/stage.ts";
import { boxFilter } from "../parts/shape/coarse-line.ts";
import { maskGrid } from "../shapes/prepared.ts";
import { drawMask, type MaskShape } from "../shapes/shapes.ts";
import { levelSize, TILE_SIZE, tileKey, type LinearTiles, type TilePlace } from "../tiles/tiles.ts";
import { scaledSize, type View } from "../tiles/view.ts";
import type { Rect } from "../maths/rect.ts";

const CHANNELS: readonly Vector3[] = [
  [1, 0, 0],
  [0, 1, 0],
  [0, 0, 1],
];
/** Rows and columns of view pixels that are finished at a time, so that what lies between the steps stays near. */
const BAND = 64;
const STRIP = SLOT_EDGE;
/** Kept weights of axes. */
const MOST_AXES = 512;

/**
 * Computes prints of one negative. The stage graph gives light and stops tile by tile; here they are developed, scaled to
 * the view, and finished. Everything is a function of negative, recipe and view; what is kept only saves time.
 * Not re-entrant.
 */
export class Engine {
  readonly #heap: KernelHeap;
  readonly #tiles: LinearTiles;
  readonly #facts: NegativeFacts;
  readonly #graph: StageGraph<PreparedPrint>;
  readonly #preparer = new Preparer();
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
    this.#tiles = tiles;
    this.#graph = new StageGraph(heap, tiles, PIPELINE);
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
    const found = new Map(places.map((place) => [tileKey(place), place]));
    for (const of of SHARED) {
      const shared = this.#sharesOf(print)[of];
      if (shared)
        for (const place of this.#graph.tilesFor(shared, ["light"], view.level, source))
          found.set(tileKey(place), place);
    }
    return [...found.values()];
  }

  /** The tiles that {@link renderColourRgba} and {@link renderWorking} will read. */
  tilesForColour(print: PreparedPrint, view: View): TilePlace[] {
    const [channel] = this.#channels(print);
    return this.#graph.tilesFor(channel, ["frame"], view.level, this.#sourceOf(print.frame, view));
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
    const { finish } = print.recipe;
    return this.#withinMark(() => {
      const { kernels } = this.#heap;
      const table = this.#heap.place(this.#preparer.codeTable(finish, transfer, name));
      const edge = finish.wear.edges > 0 && this.#heap.place(this.#preparer.codeTable(finish, transfer, name, true));
      // The encoder writes whole vectors from wherever a strip begins: what it writes beyond a row must not be the next one.
      const width = ((view.width + 3) & ~3) + 4;
      const out = this.#heap.allocate(4 * width * view.height);
      const rows = this.#heap.allocate(12 * (STRIP + 4));
      for (const part of strips(view)) {
        const mark = this.#heap.mark();
        const { pointer, stride } = this.#sharpened(print, view, part);
        const to = out + 4 * ((part.y - view.y) * width + part.x - view.x);
        const tone = this.#share(print, "tone", { ...view, ...part });
        this.#withGrain(print, view, part, (noise, model) => {
          const encode = (codes: number, into: number) =>
            kernels.encodeRgba8(
              pointer, stride, noise, SLOT_EDGE, model, into, width, part.width, part.height, part.x, part.y, codes, rows,
            ); // prettier-ignore
          const room = () => this.#heap.allocate(4 * width * (part.height + 1));
          encode(table, to);
          if (tone) {
            const plain = room();
            encode(this.#heap.place(this.#preparer.plainCodeTable(finish, transfer, name)), plain);
            kernels.scaleTone8(to, plain, width, part.width, part.height, tone.pointer, tone.stride);
          }
          if (edge === false) return;
          const worn = room();
          encode(edge, worn);
          const [stepX, stepY] = this.#edgeSteps(print, view);
          kernels.mixEdge8(
            to, worn, width, part.width, part.height, (part.x + 0.5) * stepX - 1, (part.y + 0.5) * stepY - 1, stepX, stepY,
            WORN_EDGE.start, WORN_EDGE.roundness,
          ); // prettier-ignore
        });
        this.#heap.release(mark);
      }
      return this.#cropRows(out, width, view, into);
    });
  }

  /**
   * The print as it is written: rounded 16-bit codes, one channel where the print is neutral, else three interleaved.
   * @param into - rows of the whole picture's width, the view's first row at the top.
   */
  renderCoded16(print: PreparedPrint, view: View, transfer: Transfer, name: string, into: Uint16Array): void {
    const { finish } = print.recipe;
    const channels = isGrey(finish) ? 1 : 3;
    const whole = scaledSize(print.frame, view.scale);
    this.#withinMark(() => {
      const place = (tables: Float32Array[]): Tables16 => tables.slice(0, channels).map((one) => this.#heap.place(one));
      const tables = place(this.#preparer.encodeTables(finish, transfer, name));
      const plain = place(this.#preparer.plainEncodeTables(finish, transfer, name));
      const edge = finish.wear.edges > 0 ? place(this.#preparer.encodeTables(finish, transfer, name, true)) : null;
      for (const part of strips(view)) {
        const mark = this.#heap.mark();
        const { pointer, stride } = this.#sharpened(print, view, part);
        this.#withGrain(print, view, part, (noise, model) => {
          if (noise) this.#heap.kernels.addGrain(pointer, stride, noise, SLOT_EDGE, part.width, part.height, model);
        });
        const share = this.#share(print, "tone", { ...view, ...part });
        const strip = { ...part, pointer, stride };
        const coded = (by: Tables16) => codesOf(this.#heap, strip, by);
        let codes = coded(tables);
        // Views of memory die when it grows.
        if (share || edge) codes = codes.slice();
        if (share) scaleTone16(this.#heap, codes, coded(plain), share, part);
        if (edge) wearEdges16(codes, coded(edge), part, whole);
        const row = part.width * channels;
        for (let y = 0; y < part.height; y++) {
          const to = ((part.y - view.y + y) * whole.width + part.x) * channels;
          into.set(codes.subarray(y * row, (y + 1) * row), to);
        }
        this.#heap.release(mark);
      }
    });
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
    return this.#withinMark(() => {
      const block = this.#sharpened(print, view, view);
      const filter = this.#grainFilter(print, view);
      if (filter) {
        const { grain } = print.recipe.finish;
        const noise = grainNoise(this.#heap, filter, grain.seed, block.stride, view.height, view.x, view.y);
        const share = this.#share(print, "grain", view);
        if (share)
          this.#heap.kernels.scaleNoise(
            noise, block.stride, share.pointer, share.stride, noise, block.stride, view.width, view.height,
          ); // prettier-ignore
        const { pointer, stride } = block;
        const model = this.#heap.place(filter.model);
        this.#heap.kernels.addGrain(pointer, stride, noise, stride, view.width, view.height, model);
      }
      return this.#compact(block, view);
    });
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

  /** How far it is from pixel to pixel of a view where the frame goes from −1 to 1. */
  #edgeSteps({ frame }: PreparedPrint, { scale }: View): [number, number] {
    const { width, height } = scaledSize(frame, scale);
    return [2 / width, 2 / height];
  }

  /** The prints whose sum of moves says where the tone and the grain are stronger or weaker. */
  #sharesOf(print: PreparedPrint): Readonly<Record<Shared, PreparedPrint | null>> {
    let shares = this.#shares.get(print);
    if (!shares) {
      const [tone, grain] = SHARED.map((of) => {
        const recipe = shareRecipe(print.recipe, of);
        const shared = recipe && this.prepare(recipe);
        if (shared) this.#graph.standsBeside(shared, of);
        return shared && this.#graph.isActive(shared, "light") ? shared : null;
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
    return this.#graph.isActive(print, "light") ? ["scatter", "light"] : ["scatter"];
  }

  /** Print reflectance of a view, before its grain. Tone curves do not commute with scaling: table first. */
  #developed(print: PreparedPrint, view: View): Block {
    const table = this.#heap.place(print.toneTable);
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

  /** Print reflectance of a part of a view, sharpened for the output, before its grain. */
  #sharpened(print: PreparedPrint, view: View, part: Rect): Block {
    const { output } = print.recipe.finish;
    const whole = scaledSize(print.frame, view.scale);
    const sigma = outputSigma(output, Math.max(whole.width, whole.height));
    if (sigma === 0) return this.#developed(print, { ...view, ...part });
    const { kernels } = this.#heap;
    const taps = gaussianTaps(sigma);
    const margin = (taps.length - 1) / 2;
    const left = Math.max(0, part.x - margin);
    const top = Math.max(0, part.y - margin);
    const right = Math.min(whole.width, part.x + part.width + margin);
    const bottom = Math.min(whole.height, part.y + part.height + margin);
    const width = (part.width + 3) & ~3;
    const stride = width + 4;
    const pointer = this.#heap.allocate(4 * stride * part.height);
    const mark = this.#heap.mark();
    const source = this.#developed(print, { ...view, x: left, y: top, width: right - left, height: bottom - top });
    // The roots with a margin all around; beyond the picture its border goes on.
    const wide = (width + 2 * margin + 7) & ~3;
    const tall = part.height + 2 * margin;
    const roots = this.#heap.allocate(4 * (wide * tall + 4));
    const [dx, dy] = [left - part.x + margin, top - part.y + margin];
    kernels.cubeRoots(source.pointer, source.stride, roots + 4 * (dy * wide + dx), wide, right - left, bottom - top);
    extend(this.#heap.floats(roots, wide * tall), wide, tall, dx, dy, right - left, bottom - top);
    const rows = this.#heap.allocate(4 * width * tall);
    const blurred = this.#heap.allocate(4 * width * part.height);
    const weights = this.#heap.place(taps);
    kernels.convolveRows(roots, wide, rows, width, tall, weights, taps.length);
    kernels.convolveColumns(rows, blurred, width, part.height, weights, taps.length);
    kernels.sharpenRoots(
      roots + 4 * (margin * wide + margin), wide, blurred, width, pointer, stride, width, part.height,
      OUTPUT_GAIN * output.amount, OUTPUT_MOST,
    ); // prettier-ignore
    this.#heap.release(mark);
    return { ...part, pointer, stride };
  }

  /** Light of a view before the tone curve. */
  #lit(print: PreparedPrint, view: View): Block {
    const { kernels } = this.#heap;
    const stages = this.#lightStages(print);
    const plain = stages.length === 1 && !["haze", "local", "scatter"].some((one) => this.#graph.isActive(print, one));
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
    const { kernels } = this.#heap;
    const need = { x: x.start, y: y.start, width: x.end - x.start, height: y.end - y.start };
    // A source may be shorter than the taps, of which those beyond it weigh nothing.
    const fullStride = ((Math.max(need.width, x.taps) + 3) & ~3) + 4;
    const fullRows = Math.max(need.height, y.taps);
    const full: Block = { ...need, pointer: this.#heap.allocate(4 * fullStride * fullRows), stride: fullStride };
    if (x.taps > need.width || y.taps > need.height) this.#heap.floats(full.pointer, fullStride * fullRows).fill(0);
    fill(full);
    const rows = this.#heap.allocate(4 * fullStride * view.height);
    kernels.resampleColumns(
      full.pointer, rows, fullStride, view.height, this.#heap.place(y.first), this.#heap.place(y.weights), y.taps,
    ); // prettier-ignore
    kernels.resampleRows(
      rows, fullStride, pointer, stride, view.width, view.height,
      this.#heap.place(x.first), this.#heap.place(x.weights), x.taps,
    ); // prettier-ignore
    this.#heap.release(mark);
    return block;
  }

  /**
   * Grain for a view. It is laid on the scaled picture: it is stated in µm of film, so each pixel size has its own
   * filter, and nothing of it is lost or gained in scaling.
   */
  #grainFilter({ negative, recipe }: PreparedPrint, { scale }: View): GrainFilter | null {
    const { grain } = recipe.finish;
    if (grain.granularity === 0) return null;
    const longEdge = Math.max(negative.width, negative.height);
    const pixelUm = (FORMAT_LONG_EDGE_MM[grain.format] * 1000) / longEdge / scale;
    return this.#preparer.grainFilter(grain, pixelUm);
  }

  /** Grain's noise for a part of a view that lies within one tile of its grid; it is kept, for it changes with nothing else. */
  #withGrain(print: PreparedPrint, view: View, part: Rect, use: (noise: number, model: number) => void): void {
    const filter = this.#grainFilter(print, view);
    if (!filter) return use(0, 0);
    const { seed } = print.recipe.finish.grain;
    const [x, y] = [part.x, part.y].map((at) => Math.floor(at / SLOT_EDGE) * SLOT_EDGE);
    const key = `grain ${seed} ${filter.taps.join()} ${x} ${y}`;
    const make = (out: number) => {
      const mark = this.#heap.mark();
      const noise = grainNoise(this.#heap, filter, seed, SLOT_EDGE, SLOT_EDGE, x, y);
      this.#heap.kernels.copyRect(noise, SLOT_EDGE, out, SLOT_EDGE, SLOT_EDGE, SLOT_EDGE);
      this.#heap.release(mark);
    };
    const first = 4 * ((part.y - y) * SLOT_EDGE + part.x - x);
    const share = this.#share(print, "grain", { ...view, ...part });
    this.#graph.withKept(grainStage, key, make, (kept) => {
      let noise = kept + first;
      if (share) {
        noise = this.#heap.allocate(4 * SLOT_EDGE * part.height + 16);
        this.#heap.kernels.scaleNoise(
          kept + first, SLOT_EDGE, share.pointer, share.stride, noise, SLOT_EDGE, part.width, part.height,
        ); // prettier-ignore
      }
      use(noise, this.#heap.place(filter.model));
    });
  }

  /** The frame's pixels, on the view's level, that a view is made from. */
  #sourceOf(frame: Frame, view: View): Rect {
    const { x, y, direct } = this.#viewWeights(frame, view);
    if (direct) return view;
    return { x: x.start, y: y.start, width: x.end - x.start, height: y.end - y.start };
  }

  #viewWeights(frame: Frame, { level, scale, x, y, width, height }: View) {
    const whole = levelSize(frame, level);
    const ratio = scale * 2 ** level;
    return {
      x: this.#axis(ratio, x, width, whole.width),
      y: this.#axis(ratio, y, height, whole.height),
      direct: ratio === 1,
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

/** Fills a plane around a rectangle of it with that rectangle's border. */
function extend(
  plane: Float32Array,
  stride: number,
  height: number,
  x: number,
  y: number,
  wide: number,
  tall: number,
): void {
  for (let row = y; row < y + tall; row++) {
    plane.fill(plane[row * stride + x], row * stride, row * stride + x);
    plane.fill(plane[row * stride + x + wide - 1], row * stride + x + wide, (row + 1) * stride);
  }
  for (let row = 0; row < y; row++) plane.copyWithin(row * stride, y * stride, (y + 1) * stride);
  const last = y + tall - 1;
  for (let row = last + 1; row < height; row++) plane.copyWithin(row * stride, last * stride, (last + 1) * stride);
}

/** Where a part of a block's rectangle begins in it. */
function placeOf({ pointer, stride, x, y }: Block, part: Rect): number {
  return pointer + 4 * ((part.y - y) * stride + part.x - x);
}

/** A view in pieces of a grid that is fixed to the whole picture. */
function* strips({ x, y, width, height }: Rect): Generator<Rect> {
  for (let left = x; left < x + width;) {
    const right = Math.min(x + width, (Math.floor(left / STRIP) + 1) * STRIP);
    for (let top = y; top < y + height;) {
      const bottom = Math.min(y + height, (Math.floor(top / BAND) + 1) * BAND);
      yield { x: left, y: top, width: right - left, height: bottom - top };
      top = bottom;
    }
    left = right;
  }
}
