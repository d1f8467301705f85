import type { KernelHeap } from "../kernels/heap.ts";
import { scalePlane, sourceRoom } from "../kernels/scaling.ts";
import { cubicWeights, type AxisWeights } from "../maths/cubic-weights.ts";
import { intersect, type Rect, type Size } from "../maths/rect.ts";
import { LruMap } from "./lru.ts";
import { levelSize, TILE_SIZE, tileKey, tileSize, type LinearTiles, type TilePlace } from "./tiles.ts";
import { placesIn } from "./view.ts";

/** Bytes of made tiles that are kept: a view of four megapixels twice. */
const KEPT_BYTES = 48 * 2 ** 20;

/** Plans that are kept, some 40 kilobytes each. */
const KEPT_PLANS = 64;

/** What a tile is made from: a rectangle of the next finer level, and its weights. */
interface Plan {
  readonly level: number;
  readonly size: Size;
  readonly x: AxisWeights;
  readonly y: AxisWeights;
  readonly source: Rect;
}

/**
 * A negative's tiles on any level: those of the pyramid, and, made from the next finer level, those of levels between two of its. A view that
 * is computed on its own level has no more pixels to compute than are seen.
 */
export class BetweenTiles implements LinearTiles {
  readonly #heap: KernelHeap;
  readonly #tiles: LinearTiles;
  readonly #made = new LruMap<Uint16Array>(KEPT_BYTES, ({ byteLength }) => byteLength);
  /** What tiles are made from: asked for with every picture, whether or not they are made. */
  readonly #plans = new LruMap<Plan>(KEPT_PLANS, () => 1);

  constructor(heap: KernelHeap, tiles: LinearTiles) {
    this.#heap = heap;
    this.#tiles = tiles;
  }

  get size(): Size {
    return this.#tiles.size;
  }

  /** The tiles of the pyramid that a tile is made from; itself when it is one of them. */
  sources(place: TilePlace): TilePlace[] {
    if (Number.isInteger(place.level)) return [place];
    const { level, source } = this.#plan(place);
    return placesIn(source, level);
  }

  tile(place: TilePlace): Uint16Array {
    if (Number.isInteger(place.level)) return this.#tiles.tile(place);
    const key = tileKey(place);
    const known = this.#made.get(key);
    if (known) return known;
    const made = this.#make(place);
    this.#made.set(key, made);
    return made;
  }

  #plan(place: TilePlace): Plan {
    const key = tileKey(place);
    const plan = this.#plans.get(key) ?? this.#planned(place);
    this.#plans.set(key, plan);
    return plan;
  }

  #planned(place: TilePlace): Plan {
    const level = Math.floor(place.level);
    const ratio = 2 ** (level - place.level);
    const whole = levelSize(this.size, level);
    const size = tileSize(this.size, place);
    const x = cubicWeights(ratio, place.column * TILE_SIZE, size.width, whole.width);
    const y = cubicWeights(ratio, place.row * TILE_SIZE, size.height, whole.height);
    const source: Rect = { x: x.start, y: y.start, width: x.end - x.start, height: y.end - y.start };
    return { level, size, x, y, source };
  }

  #make(place: TilePlace): Uint16Array {
    const { level, size, x, y, source } = this.#plan(place);
    const heap = this.#heap;
    const mark = heap.mark();
    const planes = this.#gather(level, source, x, y);
    const stride = ((size.width + 3) & ~3) + 4;
    const scaled = { pointer: heap.allocate(4 * stride * size.height), stride };
    const n = size.width * size.height;
    const halves = heap.allocate(2 * planes.length * n);
    planes.forEach((plane, i) => {
      scalePlane(heap, plane, x, y, scaled, size);
      heap.kernels.halvesOfRect(scaled.pointer, stride, size.width, size.height, halves + 2 * n * i);
    });
    const made = heap.halves(halves, planes.length * n).slice();
    heap.release(mark);
    return made;
  }

  /** The three planes of a rectangle of a level, and that of light beyond white where there is any. */
  #gather(level: number, source: Rect, x: AxisWeights, y: AxisWeights) {
    const { kernels } = this.#heap;
    const places = placesIn(source, level);
    const tiles = places.map((at) => ({ at, ...tileSize(this.size, at), tile: this.#tiles.tile(at) }));
    const hasOver = ({ tile, width, height }: (typeof tiles)[number]) => tile.length > 3 * width * height;
    const planes = [0, 1, 2, ...(tiles.some(hasOver) ? [3] : [])].map(() => sourceRoom(this.#heap, source, x, y));
    for (const one of tiles) {
      const { at, tile, width, height } = one;
      const whole = { x: at.column * TILE_SIZE, y: at.row * TILE_SIZE, width, height };
      const part = intersect(whole, source);
      const mark = this.#heap.mark();
      const halves = this.#heap.place(tile);
      const stride = (width + 3) & ~3;
      const light = this.#heap.allocate(4 * stride * part.height);
      planes.forEach(({ pointer, stride: to }, i) => {
        const rows = halves + 2 * width * (i * height + part.y - whole.y);
        if (i < 3 || hasOver(one)) kernels.weighHalf(rows, rows, rows, width, part.height, light, stride, 1, 0, 0);
        else this.#heap.floats(light, stride * part.height).fill(0);
        const out = pointer + 4 * ((part.y - source.y) * to + part.x - source.x);
        kernels.copyRect(light + 4 * (part.x - whole.x), stride, out, to, part.width, part.height);
      });
      this.#heap.release(mark);
    }
    return planes;
  }
}
