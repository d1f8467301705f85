import { LruMap, tileKey, type LinearTiles, type Size, type TilePlace } from "@yelm/core";
import { revivedError, type TileAnswer, type TileRequest } from "./protocol.ts";

/** Tiles whose memory a render worker holds on to; the memory itself is shared. */
const HELD_BYTES = 256 * 2 ** 20;

/** A negative's tiles as a render worker sees them: asked for before a render, then at hand until the next are asked for. */
export class SharedTiles implements LinearTiles {
  readonly size: Size;
  #port!: MessagePort;
  readonly #held = new LruMap<Uint16Array>(HELD_BYTES, (tile) => tile.byteLength);
  /** The tiles last asked for: they stay, however many they are. */
  #wanted = new Map<string, Uint16Array>();
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
    const wanted = new Map<string, Uint16Array>();
    const missing: TilePlace[] = [];
    for (const place of places) {
      const key = tileKey(place);
      const known = this.#wanted.get(key) ?? this.#held.get(key);
      if (known) wanted.set(key, known);
      else missing.push(place);
    }
    this.#wanted = wanted;
    if (missing.length === 0) return;
    const id = ++this.#lastId;
    const answer = await new Promise<TileAnswer>((done) => {
      const request = { id, places: missing };
      this.#waiting.set(id, { request, done });
      this.#send(request);
    });
    if ("error" in answer) throw revivedError(answer.error);
    answer.tiles.forEach((tile, i) => {
      const key = tileKey(missing[i]);
      const halves = new Uint16Array(tile);
      wanted.set(key, halves);
      this.#held.set(key, halves);
    });
  }

  /** Says which tiles may be wanted next. */
  expect(places: readonly TilePlace[]): void {
    this.#send({ id: 0, places, soon: true });
  }

  tile(place: TilePlace): Uint16Array {
    const key = tileKey(place);
    const tile = this.#wanted.get(key) ?? this.#held.get(key);
    if (!tile) throw new Error(`Expected tile ${key} to be at hand.`);
    return tile;
  }

  #send(request: TileRequest): void {
    this.#port.postMessage(request);
  }
}
