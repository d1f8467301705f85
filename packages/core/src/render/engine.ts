import type { Vector3 } from "../colour/matrix.ts";
import { SRGB_TRANSFER } from "../colour/transfer.ts";
import { FORMAT_LONG_EDGE_MM, grainFilter, grainNoise } from "../parts/finish/grain.ts";
import type { Frame } from "../parts/ground/geometry.ts";
import type { KernelHeap } from "../kernels/heap.ts";
import { bakeLightTable } from "../kernels/light-table.ts";
import { defaultRecipe } from "../recipe/defaults.ts";
import type { Recipe } from "../recipe/schema.ts";
import { cubicWeights } from "./cubic-weights.ts";
import { StageGraph } from "../graph/graph.ts";
import { PIPELINE } from "./pipeline.ts";
import { PLAIN_FACTS, type NegativeFacts } from "../parts/ground/facts.ts";
import { COLOUR_MATRIX, colourTable, Preparer, type PreparedPrint } from "./prepare.ts";
import type { Block } from "../graph/stage.ts";
import { TILE_SIZE, type LinearTiles, type TilePlace, levelSize } from "../tiles/tiles.ts";
import type { View } from "../tiles/view.ts";
import type { Rect } from "../maths/rect.ts";

/** Noise of a view's grain, or none. */
interface Grain {
  readonly noise: number;
  readonly sigma: number;
}

const NO_GRAIN: Grain = { noise: 0, sigma: 0 };
const CHANNELS: readonly Vector3[] = [
  [1, 0, 0],
  [0, 1, 0],
  [0, 0, 1],
];
/** Light left as it is, for measuring before the tone curve. */
const SAME_LIGHT = bakeLightTable((light) => light);

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

  prepare(recipe: Recipe): PreparedPrint {
    return this.#preparer.prepare(recipe, this.#tiles.size, this.#facts);
  }

  /** The tiles of the negative that the next render of this view will read. */
  tilesFor(print: PreparedPrint, view: View): TilePlace[] {
    return this.#graph.tilesFor(print, this.#lightStages(print), view.level, sourceOf(print.frame, view));
  }

  /** The tiles that {@link renderColourRgba} and {@link renderWorking} will read. */
  tilesForColour(print: PreparedPrint, view: View): TilePlace[] {
    const [channel] = this.#channels(print);
    return this.#graph.tilesFor(channel, ["frame"], view.level, sourceOf(print.frame, view));
  }

  /**
   * The print as it is shown: dithered 8-bit sRGB, RGBA, width·height·4 bytes.
   * @param out - at least that long; made when it is not given.
   */
  renderRgba(print: PreparedPrint, view: View, out?: Uint8Array): Uint8Array {
    const tables = this.#preparer.encodeTables(print.recipe.finish.toning, SRGB_TRANSFER, "srgb");
    return this.renderCoded(print, view, tables, out);
  }

  /** Like {@link renderRgba}, through other tables reflectance → code 0–1 for red, green and blue. */
  renderCoded(print: PreparedPrint, view: View, tables: Float32Array[], into?: Uint8Array): Uint8Array {
    return this.#withinMark(() => {
      const block = this.#developed(print, view, print.toneTable);
      const { noise, sigma } = this.#grain(print, view, block);
      const [red, green, blue] = this.#placeTables(tables);
      const width = (view.width + 3) & ~3;
      const out = this.#heap.allocate(4 * width * view.height);
      this.#heap.kernels.encodeRgba8(
        block.pointer, block.stride, noise, sigma, out, width, view.height, view.x, view.y, red, green, blue,
      ); // prettier-ignore
      return this.#cropRows(out, width, view, into);
    });
  }

  /** The negative's own colours under the recipe's exposure and geometry: 8-bit sRGB, RGBA. */
  renderColourRgba(print: PreparedPrint, view: View, into?: Uint8Array): Uint8Array {
    return this.#withinMark(() => {
      const planes = this.#channels(print).map((channel) => this.#developed(channel, view, SAME_LIGHT));
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
      const block = this.#developed(print, view, print.toneTable);
      const { noise, sigma } = this.#grain(print, view, block);
      if (noise) this.#heap.kernels.addGrain(block.pointer, noise, block.stride * view.height, sigma);
      return this.#compact(block, view);
    });
  }

  /** Scene light of a view after weighing and light moves, before the tone curve: linear, 1.0 = sensor white. */
  renderLight(print: PreparedPrint, view: View): Float32Array {
    return this.#withinMark(() => this.#compact(this.#developed(print, view, SAME_LIGHT), view));
  }

  /** Linear working colour of a view: three planes of width·height values. */
  renderWorking(print: PreparedPrint, view: View): [Float32Array, Float32Array, Float32Array] {
    const [red, green, blue] = this.#channels(print).map((channel) => this.renderLight(channel, view));
    return [red, green, blue];
  }

  /** One print for each colour: exposure and geometry only. */
  #channels(print: PreparedPrint): PreparedPrint[] {
    const base = defaultRecipe();
    const { ground } = print.recipe;
    return CHANNELS.map(([red, green, blue]) =>
      this.prepare({ ...base, ground, weigh: { ...base.weigh, red, green, blue } }),
    );
  }

  #lightStages(print: PreparedPrint): string[] {
    return this.#graph.isActive(print, "light") ? ["local", "light"] : ["local"];
  }

  /** Light and stops through a table, at the view's own size. Tone curves do not commute with scaling: table first. */
  #developed(print: PreparedPrint, view: View, table: Float32Array): Block {
    const { x, y, direct } = viewWeights(print.frame, view);
    const stride = ((view.width + 3) & ~3) + 4;
    const pointer = this.#heap.allocate(4 * stride * view.height);
    const block: Block = { x: view.x, y: view.y, width: view.width, height: view.height, pointer, stride };
    const mark = this.#heap.mark();
    if (direct) {
      this.#developInto(print, view.level, table, block);
    } else {
      const { kernels } = this.#heap;
      const need = { x: x.start, y: y.start, width: x.end - x.start, height: y.end - y.start };
      const fullStride = ((need.width + 3) & ~3) + 4;
      const full: Block = { ...need, pointer: this.#heap.allocate(4 * fullStride * need.height), stride: fullStride };
      this.#developInto(print, view.level, table, full);
      const rows = this.#heap.allocate(4 * stride * need.height);
      kernels.resampleRows(
        full.pointer, full.stride, rows, stride, view.width, need.height,
        this.#heap.place(x.first), this.#heap.place(x.weights), x.taps,
      ); // prettier-ignore
      kernels.resampleColumns(
        rows, pointer, stride, view.height, this.#heap.place(y.first), this.#heap.place(y.weights), y.taps,
      ); // prettier-ignore
    }
    this.#heap.release(mark);
    return block;
  }

  #developInto(print: PreparedPrint, level: number, table: Float32Array, block: Block): void {
    const at = this.#heap.place(table);
    this.#graph.forEachTile(print, this.#lightStages(print), level, block, ([[light], [stops = 0] = []], part) => {
      const out = block.pointer + 4 * ((part.y - block.y) * block.stride + part.x - block.x);
      this.#heap.kernels.develop(light, stops, TILE_SIZE, out, block.stride, part.width, part.height, at);
    });
  }

  /**
   * Grain for a view. It is laid on the scaled picture: it is stated in µm of film, so each pixel size has its own
   * filter, and nothing of it is lost or gained in scaling.
   */
  #grain(print: PreparedPrint, view: View, block: Block): Grain {
    const { grain } = print.recipe.finish;
    if (grain.granularity === 0) return NO_GRAIN;
    const longEdge = Math.max(print.negative.width, print.negative.height);
    const pixelUm = (FORMAT_LONG_EDGE_MM[grain.format] * 1000) / longEdge / view.scale;
    const filter = grainFilter(grain, pixelUm);
    const noise = grainNoise(this.#heap, filter, grain.seed, block.stride, view.height, view.x, view.y);
    return { noise, sigma: filter.sigma };
  }

  #placeTables(tables: Float32Array[]): [number, number, number] {
    const red = this.#heap.place(tables[0]);
    if (tables[1] === tables[0]) return [red, red, red];
    return [red, this.#heap.place(tables[1]), this.#heap.place(tables[2])];
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

/** The frame's pixels, on the view's level, that a view is made from. */
function sourceOf(frame: Frame, view: View): Rect {
  const { x, y, direct } = viewWeights(frame, view);
  if (direct) return view;
  return { x: x.start, y: y.start, width: x.end - x.start, height: y.end - y.start };
}

function viewWeights(frame: Frame, view: View) {
  const whole = levelSize(frame, view.level);
  const ratio = view.scale * 2 ** view.level;
  return {
    x: cubicWeights(ratio, view.x, view.width, whole.width),
    y: cubicWeights(ratio, view.y, view.height, whole.height),
    direct: ratio === 1,
  };
}
