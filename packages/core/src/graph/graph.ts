import { SLOT_EDGE, type KernelHeap } from "../kernels/heap.ts";
import { intersect, isEmpty, type Rect } from "../maths/rect.ts";
import { levelSize, TILE_SIZE, tileKey, type LinearTiles, type TilePlace } from "../tiles/tiles.ts";
import { placesIn } from "../tiles/view.ts";
import { SlotStore } from "./slots.ts";
import { StageError, type Block, type GraphPrint, type Need, type Stage, type StageContext } from "./stage.ts";
import { hashOf } from "../maths/hash-of.ts";

/** Somebody who measures what stages cost. */
export interface StageWatch {
  /** Milliseconds of any clock. */
  now(): number;
  /** Told of every tile that a stage computes: its pixels and its own milliseconds, without what it needed of others. */
  tile(stage: string, pixels: number, ms: number): void;
}

/** Evaluates the pipeline's stages tile by tile and keeps their results for the next time. */
export class StageGraph<P extends GraphPrint> {
  readonly #heap: KernelHeap;
  readonly #tiles: LinearTiles;
  readonly #store: SlotStore;
  readonly #stages: ReadonlyMap<string, Stage<P>>;
  readonly #notes = new Map<string, unknown>();
  /** Keys of tiles' results, by print; two prints that share a key share the result. */
  readonly #keys = new WeakMap<P, Map<string, string>>();

  /** @throws {RangeError} when a stage comes after one that there is not. */
  constructor(heap: KernelHeap, tiles: LinearTiles, pipeline: readonly Stage<P>[]) {
    if (SLOT_EDGE !== TILE_SIZE) throw new RangeError("Expected slots of the tiles' own size.");
    this.#heap = heap;
    this.#tiles = tiles;
    this.#store = new SlotStore(heap);
    this.#stages = new Map(pipeline.map((stage) => [stage.name, stage]));
    for (const { after } of pipeline) if (after !== null) this.#stage(after);
  }

  /** The print that is asked for at present; what it needs of other prints is told apart by its key alone. */
  #asked: P | null = null;
  /** What prints are called that are asked for beside the picture's own. */
  readonly #roles = new WeakMap<P, string>();

  watch: StageWatch | null = null;
  /** Milliseconds of the tiles that the one being computed needed. */
  #innerMs = 0;

  /** Whether a stage changes anything for this print on a level. */
  isActive(print: P, name: string, level: number): boolean {
    return this.#stage(name).isActive(print, level);
  }

  /** Says that a print is asked for beside the picture's own, so that the results of neither take over from the other's. */
  standsBeside(print: P, role: string): void {
    this.#roles.set(print, role);
  }

  /** Runs `work` on each tile's part of a rectangle: the planes with the place of the part in them. */
  forEachTile(
    print: P,
    names: readonly string[],
    level: number,
    rect: Rect,
    work: (planes: readonly (readonly number[])[], part: Rect) => void,
  ): void {
    this.#asked = print;
    this.#overTiles(print, names, level, rect, work);
  }

  #overTiles(
    print: P,
    names: readonly string[],
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

  /** The parts of a rectangle in which two prints may differ: of tiles whose results have other keys. */
  changedParts(before: P, after: P, names: readonly string[], level: number, rect: Rect): Rect[] {
    return placesIn(rect, level).flatMap((place) =>
      names.flatMap((name) => {
        const [old, stage] = [this.#standIn(before, name, level), this.#standIn(after, name, level)];
        if (this.#keyOf(before, old, place) === this.#keyOf(after, stage, place)) return [];
        const tile = intersect(rect, tileRect(place));
        const inputs = (print: P) => {
          const keys: string[] = [];
          this.#forEachNeed(print, stage, place, (of, input, at) =>
            keys.push(this.#keyOf(of, this.#standIn(of, input, at.level), at)),
          );
          return keys.join();
        };
        const within =
          old === stage && inputs(before) === inputs(after) && stage.differsIn?.(before, after, level, tile);
        const part = within ? intersect(tile, within) : tile;
        return isEmpty(part) ? [] : [part];
      }),
    );
  }

  /** As {@link StageContext.withKept}, for a stage of its name and cost. */
  withKept(
    { name, costNs }: Pick<Stage<P>, "name" | "costNs">,
    key: string,
    compute: (out: number) => void,
    use: (plane: number) => void,
    place = key,
  ): void {
    const pinned: string[] = [];
    try {
      const [plane] = this.#kept(key, { name, costNs, planes: 1 }, place, pinned, ([out]) => compute(out));
      use(plane);
    } finally {
      for (const one of pinned) this.#store.unpin(one);
    }
  }

  /** A rectangle of a stage's result, gathered on the heap's stack; the caller releases it. */
  #block(print: P, { stage: name, level, rect }: Need<P>): Block[] {
    const stage = this.#standIn(print, name, level);
    const stride = ((rect.width + 3) & ~3) + 4;
    const blocks = Array.from({ length: stage.planes }, () => ({
      ...rect,
      pointer: this.#heap.allocate(4 * stride * rect.height),
      stride,
    }));
    this.#overTiles(print, [name], level, rect, ([planes], part) => {
      const offset = 4 * ((part.y - rect.y) * stride + part.x - rect.x);
      blocks.forEach((block, i) =>
        this.#heap.kernels.copyRect(planes[i], TILE_SIZE, block.pointer + offset, stride, part.width, part.height),
      );
    });
    return blocks;
  }

  /** Tiles of the negative that computing a rectangle of a stage may read; those already used up are left out. */
  tilesFor(print: P, names: readonly string[], level: number, rect: Rect): TilePlace[] {
    const found = new Map<string, TilePlace>();
    const seen = new Set<string>();
    const visit = (of: P, name: string, place: TilePlace) => {
      const stage = this.#standIn(of, name, place.level);
      const id = this.#keyOf(of, stage, place);
      if (seen.has(id) || this.#store.has(id)) return;
      seen.add(id);
      const own = stage.negativeTiles?.(of, place.level, this.#rectOf(of, stage, place)) ?? [];
      for (const tile of own) found.set(tileKey(tile), tile);
      this.#forEachNeed(of, stage, place, visit);
    };
    for (const name of names) for (const place of placesIn(rect, level)) visit(print, name, place);
    return [...found.values()];
  }

  /** A tile's planes, computed when they are not kept; pinned, its key added to `held`. */
  #tile(print: P, name: string, place: TilePlace, held: string[]): readonly number[] {
    const stage = this.#standIn(print, name, place.level);
    const id = this.#keyOf(print, stage, place);
    const rect = this.#rectOf(print, stage, place);
    const stands = print === this.#asked ? `${this.#roles.get(print) ?? ""}/${stage.name}/${tileKey(place)}` : id;
    return this.#kept(id, stage, stands, held, (out) => {
      const inner: string[] = [];
      const mark = this.#heap.mark();
      const outerMs = this.#innerMs;
      const started = this.watch?.now() ?? 0;
      this.#innerMs = 0;
      try {
        stage.compute(this.#context(print, stage, inner), place.level, rect, out);
      } finally {
        this.#heap.release(mark);
        for (const one of inner) this.#store.unpin(one);
        const ms = (this.watch?.now() ?? 0) - started;
        this.watch?.tile(stage.name, rect.width * rect.height, ms - this.#innerMs);
        this.#innerMs = outerMs + ms;
      }
    });
  }

  /** A result under its key, pinned; what fails while it is computed is not kept. */
  #kept(
    id: string,
    { name, costNs, planes }: Pick<Stage<P>, "name" | "costNs" | "planes">,
    place: string,
    held: string[],
    compute: (out: readonly number[]) => void,
  ): readonly number[] {
    const known = this.#store.take(id);
    if (known) {
      held.push(id);
      return known;
    }
    const out = this.#store.claim(id, planes, costNs, place);
    try {
      compute(out);
    } catch (error) {
      this.#store.drop(id);
      throw error instanceof StageError ? error : new StageError(name, error);
    }
    held.push(id);
    return out;
  }

  #context(print: P, stage: Stage<P>, held: string[]): StageContext<P> {
    return {
      heap: this.#heap,
      print,
      read: (need) => {
        const cut = this.#cut(print, need);
        const { x, y, width, height } = cut.rect;
        const at: TilePlace = { level: cut.level, column: Math.floor(x / TILE_SIZE), row: Math.floor(y / TILE_SIZE) };
        const [left, top] = [x - TILE_SIZE * at.column, y - TILE_SIZE * at.row];
        if (isEmpty(cut.rect) || left + width > TILE_SIZE || top + height > TILE_SIZE)
          return this.#block(cut.print, cut);
        // What lies in one tile is read where it stands.
        return this.#tile(cut.print, cut.stage, at, held).map((plane) => ({
          ...cut.rect,
          pointer: plane + 4 * (top * TILE_SIZE + left),
          stride: TILE_SIZE,
        }));
      },
      negativeTile: (at) => this.#tiles.tile(at),
      withKept: (key, compute, use, { costNs = stage.costNs, place = key } = {}) =>
        this.withKept({ name: stage.name, costNs }, key, compute, use, place),
      notes: this.#notes,
      isKept: (key) => this.#store.has(key),
      keptBlock: (key, bytes, make) => this.#store.block(`${stage.name}/${key}`, bytes, make),
    };
  }

  /** What a tile's result is known by: what the stage reads for it, and the keys of the tiles that it needs. */
  #keyOf(print: P, stage: Stage<P>, place: TilePlace): string {
    let keys = this.#keys.get(print);
    if (!keys) this.#keys.set(print, (keys = new Map<string, string>()));
    const name = `${stage.name}/${tileKey(place)}`;
    const known = keys.get(name);
    if (known) return known;
    const rect = this.#rectOf(print, stage, place);
    const inputs: string[] = [];
    this.#forEachNeed(print, stage, place, (of, input, at) =>
      inputs.push(this.#keyOf(of, this.#standIn(of, input, at.level), at)),
    );
    const own = [stage.name, rect.width, rect.height, stage.reads(print, place.level, rect), inputs];
    const key = `${hashOf(JSON.stringify(own))}/${tileKey(place)}`;
    keys.set(name, key);
    return key;
  }

  #forEachNeed(print: P, stage: Stage<P>, place: TilePlace, visit: (of: P, name: string, at: TilePlace) => void) {
    for (const need of stage.needs(print, place.level, this.#rectOf(print, stage, place))) {
      const cut = this.#cut(print, need);
      if (!isEmpty(cut.rect)) for (const at of placesIn(cut.rect, cut.level)) visit(cut.print, cut.stage, at);
    }
  }

  #stage(name: string): Stage<P> {
    const stage = this.#stages.get(name);
    if (!stage) throw new RangeError(`Expected a stage of the pipeline but received "${name}".`);
    return stage;
  }

  /** The stage that answers for a name: itself, or what stands in for it while it does nothing. */
  #standIn(print: P, name: string, level: number): Stage<P> {
    let stage = this.#stage(name);
    while (stage.after !== null && !stage.isActive(print, level)) stage = this.#stage(stage.after);
    return stage;
  }

  /** A tile's rectangle, cut to the stage's grid. */
  #rectOf(print: P, { grid }: Stage<P>, place: TilePlace): Rect {
    const whole = levelSize(grid === "negative" ? print.negative : print.frame, place.level);
    return intersect(tileRect(place), { x: 0, y: 0, ...whole });
  }

  /** A need with its print, cut to the level's own size. */
  #cut(own: P, { stage: name, level, rect, print = own }: Need<P>): Required<Need<P>> {
    const { grid } = this.#standIn(print, name, level);
    const whole = levelSize(grid === "negative" ? print.negative : print.frame, level);
    return { print, stage: name, level, rect: intersect(rect, { x: 0, y: 0, ...whole }) };
  }
}

function tileRect({ column, row }: TilePlace): Rect {
  return { x: column * TILE_SIZE, y: row * TILE_SIZE, width: TILE_SIZE, height: TILE_SIZE };
}
