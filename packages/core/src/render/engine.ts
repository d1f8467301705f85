import type { Vector3 } from "../colour/matrix.ts";
import { SRGB_TRANSFER } from "../colour/transfer.ts";
import { FORMAT_LONG_EDGE_MM, grainFilter, layGrain } from "../finish/grain.ts";
import { applyAffine, type Affine, type Frame } from "../ground/geometry.ts";
import type { KernelHeap } from "../kernels/heap.ts";
import { addMoves, moveGain } from "../light/moves.ts";
import type { Recipe } from "../recipe/schema.ts";
import { cubicWeights } from "./cubic-weights.ts";
import { LruMap } from "./lru.ts";
import { COLOUR_MATRIX, colourTable, Preparer, type PreparedPrint } from "./prepare.ts";
import { levelSize, TILE_SIZE, tileSize, type LinearTiles, type TilePlace } from "./tiles.ts";
import { frameLevelSize, type Rect, type View } from "./view.ts";

const MEGABYTE = 1 << 20;
const WEIGHED_LIMIT_BYTES = 96 * MEGABYTE;
const MASK_LIMIT_BYTES = 48 * MEGABYTE;
/** Source pixels that the cubic sampler reads beyond a place. */
const SAMPLE_MARGIN = 3;

/** A block of one f32 value per pixel in kernel memory; the stride is the width rounded up to a multiple of 4. */
interface Block extends Rect {
  readonly pointer: number;
  readonly stride: number;
}

/**
 * Computes prints of one negative, stage by stage: weigh → geometry → light → tone → grain → scale → encode.
 * Everything is a function of negative, recipe and view; caches only save time. Not re-entrant.
 */
export class Engine {
  readonly #heap: KernelHeap;
  readonly #tiles: LinearTiles;
  readonly #preparer = new Preparer();
  readonly #weighed = new LruMap<Float32Array>(WEIGHED_LIMIT_BYTES, (tile) => tile.byteLength);
  readonly #masks = new LruMap<Float32Array>(MASK_LIMIT_BYTES, (mask) => mask.byteLength);
  #colourTable?: Float32Array;

  constructor(heap: KernelHeap, tiles: LinearTiles) {
    this.#heap = heap;
    this.#tiles = tiles;
  }

  prepare(recipe: Recipe): PreparedPrint {
    return this.#preparer.prepare(recipe, this.#tiles.size);
  }

  /** The tiles that {@link renderRgba} and its siblings will read for this view. */
  tilesFor(print: PreparedPrint, view: View): TilePlace[] {
    const { x, y } = viewWeights(print.frame, view);
    const need = { x: x.start, y: y.start, width: x.end - x.start, height: y.end - y.start };
    return placesIn(this.#sourceRect(print, view.level, need), view.level);
  }

  /** The print as it is shown: dithered 8-bit sRGB, RGBA, width·height·4 bytes. */
  renderRgba(print: PreparedPrint, view: View): Uint8Array {
    return this.#withinMark(() => {
      const block = this.#printBlock(print, view);
      const tables = this.#preparer.encodeTables(print.recipe.finish.toning, SRGB_TRANSFER, "srgb");
      const [red, green, blue] = this.#placeTables(tables);
      const out = this.#heap.allocate(4 * block.stride * view.height);
      this.#heap.kernels.encodeRgba8(
        block.pointer, block.stride, out, block.stride, view.height, view.x, view.y, red, green, blue,
      ); // prettier-ignore
      return this.#cropRows(out, block.stride, view);
    });
  }

  /** The negative's own colours under the recipe's exposure and geometry: 8-bit sRGB, RGBA. */
  renderColourRgba(print: PreparedPrint, view: View): Uint8Array {
    return this.#withinMark(() => {
      const gain = 2 ** print.recipe.ground.exposureEv;
      const unit: Vector3[] = [
        [gain, 0, 0],
        [0, gain, 0],
        [0, 0, gain],
      ];
      const planes = unit.map((weights) =>
        this.#viewBlock(print, view, (need) => this.#exposure(print, view.level, need, weights)),
      );
      const [{ stride }] = planes;
      const matrix = this.#heap.place(COLOUR_MATRIX);
      const table = this.#heap.place((this.#colourTable ??= colourTable()));
      const out = this.#heap.allocate(4 * stride * view.height);
      const [red, green, blue] = planes.map((plane) => plane.pointer);
      this.#heap.kernels.encodeColour8(red, green, blue, out, stride * view.height, matrix, table);
      return this.#cropRows(out, stride, view);
    });
  }

  /** Print reflectance of a view, linear, rows of `view.width` values. */
  renderReflectance(print: PreparedPrint, view: View): Float32Array {
    return this.#withinMark(() => {
      return this.#compact(this.#printBlock(print, view), view);
    });
  }

  /** Scene light of a view after weighing and light moves, before the tone curve: linear, 1.0 = sensor white. */
  renderLight(print: PreparedPrint, view: View): Float32Array {
    return this.#withinMark(() => {
      const block = this.#viewBlock(print, view, (need) => this.#exposure(print, view.level, need, print.weights));
      const light = this.#compact(block, view);
      if (!hasLocalLight(print.recipe)) return light;
      const stopsBlock = this.#viewBlock(print, view, (need) => this.#stops(print, view.level, need));
      const stops = this.#compact(stopsBlock, view);
      return light.map((e, i) => e * 2 ** stops[i]);
    });
  }

  /** Linear working colour of a view: three planes of width·height values. */
  renderWorking(print: PreparedPrint, view: View): [Float32Array, Float32Array, Float32Array] {
    return this.#withinMark(() => {
      const gain = 2 ** print.recipe.ground.exposureEv;
      const plane = (weights: Vector3) =>
        this.#compact(
          this.#viewBlock(print, view, (need) => this.#exposure(print, view.level, need, weights)),
          view,
        );
      return [plane([gain, 0, 0]), plane([0, gain, 0]), plane([0, 0, gain])];
    });
  }

  /**
   * Reflectance of a view with its grain. Grain is laid on the scaled picture: it is stated in µm of film, so each pixel
   * size has its own filter, and nothing of it is lost or gained in scaling.
   */
  #printBlock(print: PreparedPrint, view: View): Block {
    const block = this.#viewBlock(print, view, (need) => this.#reflectance(print, view.level, need));
    const { grain } = print.recipe.finish;
    if (grain.granularity > 0) {
      const longEdge = Math.max(print.negative.width, print.negative.height);
      const pixelUm = (FORMAT_LONG_EDGE_MM[grain.format] * 1000) / longEdge / view.scale;
      const filter = grainFilter(grain, pixelUm);
      layGrain(this.#heap, filter, grain.seed, block.pointer, block.stride, block.height, view.x, view.y);
    }
    return block;
  }

  /** Reflectance of a rectangle of frame pixels at a pyramid level, in kernel memory. */
  #reflectance(print: PreparedPrint, level: number, rect: Rect): Block {
    const { recipe } = print;
    const block = this.#exposure(print, level, rect, print.weights);
    const n = block.stride * block.height;
    const mark = this.#heap.mark();
    const stops = hasLocalLight(recipe) ? this.#stops(print, level, rect).pointer : 0;
    const table = this.#heap.place(print.toneTable);
    this.#heap.kernels.develop(block.pointer, stops, table, block.pointer, n);
    this.#heap.release(mark);
    return block;
  }

  /** Runs `compute` on the source pixels that a view needs and scales the result to the view. */
  #viewBlock(print: PreparedPrint, view: View, compute: (need: Rect) => Block): Block {
    const { x, y, direct } = viewWeights(print.frame, view);
    const need = { x: x.start, y: y.start, width: x.end - x.start, height: y.end - y.start };
    if (direct) return compute({ x: view.x, y: view.y, width: view.width, height: view.height });
    const stride = roundUp4(view.width);
    const pointer = this.#heap.allocate(4 * stride * view.height);
    const mark = this.#heap.mark();
    const source = compute(need);
    const rows = this.#heap.allocate(4 * stride * need.height);
    const { kernels } = this.#heap;
    kernels.resampleRows(
      source.pointer, source.stride, rows, stride, view.width, need.height,
      this.#heap.place(x.first), this.#heap.place(x.weights), x.taps,
    ); // prettier-ignore
    kernels.resampleColumns(
      rows, pointer, stride, view.height, this.#heap.place(y.first), this.#heap.place(y.weights), y.taps,
    ); // prettier-ignore
    this.#heap.release(mark);
    return { x: view.x, y: view.y, width: view.width, height: view.height, pointer, stride };
  }

  /** Weighed light on the frame's pixel grid. */
  #exposure(print: PreparedPrint, level: number, rect: Rect, weights: Vector3): Block {
    const stride = roundUp4(rect.width);
    const pointer = this.#heap.allocate(4 * stride * rect.height);
    const box = this.#sourceRect(print, level, rect);
    const m = levelMap(print.frame, level);
    const copies = isShift(m) && box.width === rect.width && box.height === rect.height;
    if (copies) {
      this.#gather(level, box, weights, pointer, stride);
    } else {
      const mark = this.#heap.mark();
      const source = this.#heap.allocate(4 * box.width * box.height);
      this.#gather(level, box, weights, source, box.width);
      const [cx, cy] = applyAffine(m, rect.x, rect.y);
      this.#heap.kernels.sampleAffine(
        source, box.width, box.height, pointer, stride, rect.width, rect.height,
        m.ax, m.bx, cx - box.x, m.ay, m.by, cy - box.y,
      ); // prettier-ignore
      this.#heap.release(mark);
    }
    return { ...rect, pointer, stride };
  }

  /** Copies weighed tiles into a rectangle of negative pixels. */
  #gather(level: number, box: Rect, weights: Vector3, pointer: number, stride: number): void {
    for (const place of placesIn(box, level)) {
      const tile = this.#weighTile(place, weights);
      const { width, height } = tileSize(this.#tiles.size, place);
      const left = place.column * TILE_SIZE;
      const top = place.row * TILE_SIZE;
      const x0 = Math.max(box.x, left);
      const x1 = Math.min(box.x + box.width, left + width);
      const y1 = Math.min(box.y + box.height, top + height);
      const out = this.#heap.floats(pointer, stride * box.height);
      for (let y = Math.max(box.y, top); y < y1; y++) {
        const from = (y - top) * width + x0 - left;
        out.set(tile.subarray(from, from + x1 - x0), (y - box.y) * stride + x0 - box.x);
      }
    }
  }

  #weighTile(place: TilePlace, weights: Vector3): Float32Array {
    const key = `${place.level}/${place.column}/${place.row}/${weights.join()}`;
    const known = this.#weighed.get(key);
    if (known) return known;
    const { width, height } = tileSize(this.#tiles.size, place);
    const n = width * height;
    const mark = this.#heap.mark();
    const halves = this.#heap.place(this.#tiles.tile(place));
    const out = this.#heap.allocate(4 * n + 16);
    this.#heap.kernels.weighHalf(halves, halves + 2 * n, halves + 4 * n, out, roundUp4(n), ...weights);
    const tile = this.#heap.floats(out, n).slice();
    this.#heap.release(mark);
    this.#weighed.set(key, tile);
    return tile;
  }

  /** Local light in stops on the frame's pixel grid: moves and burned edges. */
  #stops(print: PreparedPrint, level: number, rect: Rect): Block {
    const { light, finish } = print.recipe;
    const width = roundUp4(rect.width);
    const pointer = this.#heap.allocate(4 * width * rect.height);
    this.#heap.floats(pointer, width * rect.height).fill(0);
    const step = 2 ** level;
    const longEdge = Math.max(print.negative.width, print.negative.height);
    const m = print.frame.toNegative;
    const [cx, cy] = applyAffine(m, (rect.x + 0.5) * step, (rect.y + 0.5) * step);
    const s = step / longEdge;
    const toNegative: Affine = {
      ax: m.ax * s,
      bx: m.bx * s,
      cx: cx / longEdge,
      ay: m.ay * s,
      by: m.by * s,
      cy: cy / longEdge,
    };
    const gridKey = `${Object.values(toNegative).join()}/${width}x${rect.height}`;
    addMoves(this.#heap, light.moves, { width, height: rect.height, toNegative }, pointer, this.#masks, gridKey);
    const { stops, start, roundness } = finish.edgeBurn;
    if (stops !== 0) {
      const stepX = (2 * step) / print.frame.width;
      const stepY = (2 * step) / print.frame.height;
      const x0 = (rect.x + 0.5) * stepX - 1;
      const y0 = (rect.y + 0.5) * stepY - 1;
      this.#heap.kernels.addEdgeBurn(
        pointer, width, rect.height, x0, y0, stepX, stepY, start, roundness, stops,
      ); // prettier-ignore
    }
    return { ...rect, pointer, stride: width };
  }

  /** The negative pixels of a level that a rectangle of frame pixels reads. */
  #sourceRect(print: PreparedPrint, level: number, rect: Rect): Rect {
    const whole = levelSize(print.negative, level);
    const m = levelMap(print.frame, level);
    const corners = [
      [rect.x, rect.y],
      [rect.x + rect.width - 1, rect.y],
      [rect.x, rect.y + rect.height - 1],
      [rect.x + rect.width - 1, rect.y + rect.height - 1],
    ].map(([x, y]) => applyAffine(m, x, y));
    const margin = isShift(m) ? 0 : SAMPLE_MARGIN;
    const xs = corners.map((c) => c[0]);
    const ys = corners.map((c) => c[1]);
    const x0 = Math.max(0, Math.min(whole.width - 1, Math.floor(Math.min(...xs)) - margin));
    const y0 = Math.max(0, Math.min(whole.height - 1, Math.floor(Math.min(...ys)) - margin));
    const x1 = Math.max(x0 + 1, Math.min(whole.width, Math.ceil(Math.max(...xs)) + 1 + margin));
    const y1 = Math.max(y0 + 1, Math.min(whole.height, Math.ceil(Math.max(...ys)) + 1 + margin));
    return { x: x0, y: y0, width: x1 - x0, height: y1 - y0 };
  }

  #placeTables(tables: Float32Array[]): [number, number, number] {
    const red = this.#heap.place(tables[0]);
    if (tables[1] === tables[0]) return [red, red, red];
    return [red, this.#heap.place(tables[1]), this.#heap.place(tables[2])];
  }

  #compact({ pointer, stride }: Block, view: View): Float32Array {
    const source = this.#heap.floats(pointer, stride * view.height);
    if (stride === view.width) return source.slice();
    const out = new Float32Array(view.width * view.height);
    for (let y = 0; y < view.height; y++) out.set(source.subarray(y * stride, y * stride + view.width), y * view.width);
    return out;
  }

  #cropRows(pointer: number, stride: number, view: View): Uint8Array {
    const source = this.#heap.bytes(pointer, 4 * stride * view.height);
    if (stride === view.width) return source.slice();
    const out = new Uint8Array(4 * view.width * view.height);
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

/** True when anything changes the light of single places. */
function hasLocalLight({ light, finish }: Recipe): boolean {
  return finish.edgeBurn.stops !== 0 || light.moves.some((move) => moveGain(move) !== 0);
}

/** Frame pixel centres of a level → negative pixel centres of the same level. */
function levelMap(frame: Frame, level: number): Affine {
  const step = 2 ** level;
  const { ax, bx, cx, ay, by, cy } = frame.toNegative;
  return { ax, bx, cx: cx / step + (ax + bx - 1) / 2, ay, by, cy: cy / step + (ay + by - 1) / 2 };
}

function isShift({ ax, bx, cx, ay, by, cy }: Affine): boolean {
  return ax === 1 && bx === 0 && ay === 0 && by === 1 && Number.isInteger(cx) && Number.isInteger(cy);
}

function placesIn({ x, y, width, height }: Rect, level: number): TilePlace[] {
  const places: TilePlace[] = [];
  for (let row = Math.floor(y / TILE_SIZE); row * TILE_SIZE < y + height; row++)
    for (let column = Math.floor(x / TILE_SIZE); column * TILE_SIZE < x + width; column++)
      places.push({ level, column, row });
  return places;
}

function viewWeights(frame: Frame, view: View) {
  const whole = frameLevelSize(frame, view.level);
  const ratio = view.scale * 2 ** view.level;
  return {
    x: cubicWeights(ratio, view.x, view.width, whole.width),
    y: cubicWeights(ratio, view.y, view.height, whole.height),
    direct: ratio === 1,
  };
}

function roundUp4(n: number): number {
  return (n + 3) & ~3;
}
