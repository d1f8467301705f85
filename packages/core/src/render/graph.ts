import { SLOT_EDGE, type KernelHeap } from "../kernels/heap.ts";
import { PIPELINE } from "./pipeline.ts";
import type { PreparedPrint } from "./prepare.ts";
import { SlotStore } from "./slots.ts";
import { StageError, type Block, type Need, type Stage, type StageContext, type StageName } from "./stage.ts";
import { hashOf } from "./stage-key.ts";
import { levelSize, TILE_SIZE, tileKey, type LinearTiles, type TilePlace } from "./tiles.ts";
import { frameLevelSize, intersect, placesIn, type Rect } from "./view.ts";

const STAGES = new Map(PIPELINE.map((stage) => [stage.name, stage]));

/** Keys of every stage's result for one print; two prints that share a key share the result. */
export type StageKeys = ReadonlyMap<StageName, string>;

/** Evaluates the pipeline's stages tile by tile and keeps their results for the next time. */
export class StageGraph {
  readonly #heap: KernelHeap;
  readonly #tiles: LinearTiles;
  readonly #store: SlotStore;
  readonly #keys = new WeakMap<PreparedPrint, StageKeys>();

  constructor(heap: KernelHeap, tiles: LinearTiles) {
    if (SLOT_EDGE !== TILE_SIZE) throw new RangeError("Expected slots of the tiles' own size.");
    this.#heap = heap;
    this.#tiles = tiles;
    this.#store = new SlotStore(heap);
  }

  /** Whether a stage changes anything for this print. */
  isActive(print: PreparedPrint, name: StageName): boolean {
    return STAGES.get(name)!.isActive(print);
  }

  /** Runs `work` on each tile's part of a rectangle: the planes with the place of the part in them. */
  forEachTile(
    print: PreparedPrint,
    names: readonly StageName[],
    level: number,
    rect: Rect,
    work: (planes: readonly (readonly number[])[], part: Rect) => void,
  ): void {
    for (const place of placesIn(rect, level)) {
      const part = intersect(rect, tileRect(place));
      const held: string[] = [];
      try {
        const planes = names.map((name) => this.#tile(print, name, place, held));
        const offset = 4 * ((part.y - place.row * TILE_SIZE) * TILE_SIZE + part.x - place.column * TILE_SIZE);
        work(
          planes.map((pointers) => pointers.map((pointer) => pointer + offset)),
          part,
        );
      } finally {
        for (const key of held) this.#store.unpin(key);
      }
    }
  }

  /** A rectangle of a stage's result, gathered on the heap's stack; the caller releases it. */
  block(print: PreparedPrint, { stage: name, level, rect }: Need): Block[] {
    const { stage } = this.#active(print, name);
    const stride = ((rect.width + 3) & ~3) + 4;
    const blocks = Array.from({ length: stage.planes }, () => ({
      ...rect,
      pointer: this.#heap.allocate(4 * stride * rect.height),
      stride,
    }));
    this.forEachTile(print, [name], level, rect, ([planes], part) => {
      const offset = 4 * ((part.y - rect.y) * stride + part.x - rect.x);
      blocks.forEach((block, i) =>
        this.#heap.kernels.copyRect(planes[i], TILE_SIZE, block.pointer + offset, stride, part.width, part.height),
      );
    });
    return blocks;
  }

  /** Tiles of the negative that computing a rectangle of a stage may read; those already used up are left out. */
  tilesFor(print: PreparedPrint, names: readonly StageName[], level: number, rect: Rect): TilePlace[] {
    const found = new Map<string, TilePlace>();
    const seen = new Set<string>();
    const visit = (of: PreparedPrint, name: StageName, place: TilePlace) => {
      const { stage, key } = this.#active(of, name);
      const id = resultKey(key, place);
      if (seen.has(id) || this.#store.has(id)) return;
      seen.add(id);
      const whole = this.#wholeSize(of, stage, place.level);
      if (stage.grid === "negative") found.set(tileKey(place), place);
      for (const need of stage.needs(of, place.level, intersect(tileRect(place), { x: 0, y: 0, ...whole }))) {
        const cut = this.#cut(of, need);
        for (const below of placesIn(cut.rect, cut.level)) visit(cut.print, cut.stage, below);
      }
    };
    for (const name of names) for (const place of placesIn(rect, level)) visit(print, name, place);
    return [...found.values()];
  }

  /** A tile's planes, computed when they are not kept; pinned, its key added to `held`. */
  #tile(print: PreparedPrint, name: StageName, place: TilePlace, held: string[]): readonly number[] {
    const { stage, key } = this.#active(print, name);
    const id = resultKey(key, place);
    held.push(id);
    const known = this.#store.take(id);
    if (known) return known;
    const out = this.#store.claim(id, stage.planes, stage.costNs);
    const inner: string[] = [];
    const mark = this.#heap.mark();
    try {
      const whole = this.#wholeSize(print, stage, place.level);
      const rect = intersect(tileRect(place), { x: 0, y: 0, ...whole });
      stage.compute(this.#context(print, stage, place, inner), place.level, rect, out);
      return out;
    } catch (error) {
      held.pop();
      this.#store.drop(id);
      throw error instanceof StageError ? error : new StageError(stage.name, error);
    } finally {
      this.#heap.release(mark);
      for (const one of inner) this.#store.unpin(one);
    }
  }

  #context(print: PreparedPrint, stage: Stage, place: TilePlace, held: string[]): StageContext {
    return {
      heap: this.#heap,
      print,
      read: (need) => {
        const cut = this.#cut(print, need);
        const { x, y, width, height } = cut.rect;
        const at: TilePlace = { level: cut.level, column: Math.floor(x / TILE_SIZE), row: Math.floor(y / TILE_SIZE) };
        const aligned = x % TILE_SIZE === 0 && y % TILE_SIZE === 0 && width <= TILE_SIZE && height <= TILE_SIZE;
        if (!aligned) return this.block(cut.print, cut);
        return this.#tile(cut.print, cut.stage, at, held).map((pointer) => ({
          ...cut.rect,
          pointer,
          stride: TILE_SIZE,
        }));
      },
      negativeTile: (at) => this.#tiles.tile(at),
      keep: (key, compute) => {
        const id = resultKey(key, place);
        held.push(id);
        const known = this.#store.take(id);
        if (known) return known[0];
        const [out] = this.#store.claim(id, 1, stage.costNs);
        compute(out);
        return out;
      },
    };
  }

  /** The stage that answers for a name: itself, or what stands in for it while it does nothing. */
  #active(print: PreparedPrint, name: StageName): { stage: Stage; key: string } {
    let stage = STAGES.get(name)!;
    while (!stage.isActive(print) && stage.inputs.length > 0) stage = STAGES.get(stage.inputs[0])!;
    return { stage, key: this.#keysOf(print).get(stage.name)! };
  }

  #keysOf(print: PreparedPrint): StageKeys {
    const known = this.#keys.get(print);
    if (known) return known;
    const keys = new Map<StageName, string>();
    for (const stage of PIPELINE) {
      const inputs = stage.inputs.map((input) => keys.get(input)!);
      const own = () => hashOf(JSON.stringify([stage.name, stage.reads(print), inputs]));
      keys.set(stage.name, stage.isActive(print) || inputs.length === 0 ? own() : inputs[0]);
    }
    this.#keys.set(print, keys);
    return keys;
  }

  #wholeSize(print: PreparedPrint, stage: Stage, level: number) {
    return stage.grid === "negative" ? levelSize(print.negative, level) : frameLevelSize(print.frame, level);
  }

  /** A need with its print, cut to the level's own size. */
  #cut(own: PreparedPrint, { stage: name, level, rect, print = own }: Need): Required<Need> {
    const { stage } = this.#active(print, name);
    return {
      print,
      stage: name,
      level,
      rect: intersect(rect, { x: 0, y: 0, ...this.#wholeSize(print, stage, level) }),
    };
  }
}

function tileRect({ column, row }: TilePlace): Rect {
  return { x: column * TILE_SIZE, y: row * TILE_SIZE, width: TILE_SIZE, height: TILE_SIZE };
}

function resultKey(key: string, place: TilePlace): string {
  return `${key}/${tileKey(place)}`;
}
