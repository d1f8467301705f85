import { LruMap, tileKey, type LinearTiles, type Size, type TilePlace } from "@yelm/core";
import type { TileAnswer, TileRequest } from "./protocol.ts";

/** Tiles whose memory a render worker holds on to; the memory itself is shared. */
const HELD_BYTES = 256 * 2 ** 20;

/** A negative's tiles as a render worker sees them: asked for before a render, then at hand. */
export class SharedTiles implements LinearTiles {
  readonly size: Size;
  #port!: MessagePort;
  readonly #held = new LruMap<Uint16Array>(HELD_BYTES, (tile) => tile.byteLength);
  readonly #waiting = new Map<number, { request: TileRequest; done: (answer: TileAnswer) => void }>();
  #lastId = 0;

  constructor(size: Size, port: MessagePort) {
    this.size = size;
    this.attach(port);
  }

  /** Takes tiles from this port from now on; what is not answered yet is asked for again. */
  attach(port: MessagePort): void {
    this.#port = port;
    port.onmessage = ({ data }: MessageEvent<TileAnswer>) => {
      this.#waiting.get(data.id)?.done(data);
      this.#waiting.delete(data.id);
    };
    for (const { request } of this.#waiting.values()) this.#send(request);
  }

  /** @throws when a tile cannot be had. */
  async fetchAll(places: readonly TilePlace[]): Promise<void> {
    const missing = places.filter((place) => !this.#held.has(tileKey(place)));
    if (missing.length === 0) return;
    const id = ++this.#lastId;
    const answer = await new Promise<TileAnswer>((done) => {
      const request = { id, places: missing };
      this.#waiting.set(id, { request, done });
      this.#send(request);
    });
    if ("error" in answer) throw new Error(answer.error);
    answer.tiles.forEach((tile, i) => this.#held.set(tileKey(missing[i]), new Uint16Array(tile)));
  }

  /** Says which tiles may be wanted next. */
  expect(places: readonly TilePlace[]): void {
    this.#send({ id: 0, places, soon: true });
  }

  tile(place: TilePlace): Uint16Array {
    const tile = this.#held.get(tileKey(place));
    if (!tile) throw new Error(`Expected tile ${tileKey(place)} to be at hand.`);
    return tile;
  }

  #send(request: TileRequest): void {
    this.#port.postMessage(request);
  }
}
