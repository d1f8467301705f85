import {
  Engine,
  factsOf,
  hasTile,
  tileKey,
  type CaptureInfo,
  type KernelHeap,
  type LinearTiles,
  type Size,
  type TilePlace,
} from "@yelm/core";
import { openKernels } from "../files/kernels.ts";
import { openCapture, type Opening } from "../files/linear-picture.ts";

/** A capture opened for rendering without a data folder. */
export interface OpenedCapture {
  readonly heap: KernelHeap;
  readonly engine: Engine;
  readonly info: CaptureInfo;
  readonly size: Size;
  readonly timings: { readonly unpackMs: number; readonly demosaicMs: number };
}

/** Opens a capture, its whole pyramid in memory. */
export async function openEngine(file: string, opening: Opening = {}): Promise<OpenedCapture> {
  const heap = await openKernels();
  const tiles = new MemoryTiles();
  const sink = (size: Size) => {
    tiles.size = size;
    return (place: TilePlace, halves: Uint16Array) => tiles.keep(place, halves);
  };
  const { info, timings } = await openCapture(heap, file, file, sink, opening);
  return { heap, engine: new Engine(heap, tiles, factsOf(info)), info, size: tiles.size, timings };
}

/** A pyramid that lives in memory. */
class MemoryTiles implements LinearTiles {
  size: Size = { width: 0, height: 0 };
  readonly #tiles = new Map<string, Uint16Array>();

  keep(place: TilePlace, halves: Uint16Array): void {
    this.#tiles.set(tileKey(place), halves);
  }

  tile(place: TilePlace): Uint16Array {
    const found = this.#tiles.get(tileKey(place));
    if (!found || !hasTile(this.size, place))
      throw new RangeError(`Expected a kept tile but received ${JSON.stringify(place)}.`);
    return found;
  }
}
