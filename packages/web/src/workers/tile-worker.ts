import { LruMap, tileKey, type TilePlace } from "@yelm/core";
import { postedError, type TileAnswer, type TileRequest, type TileWorkerSetup } from "./protocol.ts";

/** Prefetches wait until nothing that is wanted now is under way. */
const AT_ONCE = 6;

let tiles = "";
let kept = new LruMap<SharedArrayBuffer | ArrayBuffer>(0, (tile) => tile.byteLength);
const underWay = new Map<string, Promise<SharedArrayBuffer | ArrayBuffer>>();
let later: TilePlace[] = [];

self.onmessage = ({ data }: MessageEvent<TileWorkerSetup>) => {
  if (data.kind === "negative") {
    tiles = data.tiles;
    kept = new LruMap(data.limitBytes, (tile) => tile.byteLength);
    return;
  }
  if (data.kind === "soon") {
    later = [...data.places];
    fetchLater();
    return;
  }
  const { port } = data;
  port.onmessage = ({ data: request }: MessageEvent<TileRequest>) => {
    if (request.soon) {
      later = [...request.places];
      fetchLater();
    } else void answer(port, request);
  };
};

async function answer(port: MessagePort, { id, places }: TileRequest): Promise<void> {
  let reply: TileAnswer;
  try {
    reply = { id, tiles: await Promise.all(places.map(tile)) };
  } catch (error) {
    reply = { id, error: postedError(error) };
  }
  port.postMessage(reply);
  fetchLater();
}

function fetchLater(): void {
  while (later.length > 0 && underWay.size < AT_ONCE) {
    const place = later.shift()!;
    if (!kept.has(tileKey(place))) void tile(place).then(fetchLater, () => undefined);
  }
}

function tile(place: TilePlace): Promise<SharedArrayBuffer | ArrayBuffer> {
  const key = tileKey(place);
  const known = kept.get(key);
  if (known) return Promise.resolve(known);
  const waiting = underWay.get(key);
  if (waiting) return waiting;
  const making = fetchTile(key).finally(() => underWay.delete(key));
  underWay.set(key, making);
  return making;
}

async function fetchTile(key: string): Promise<SharedArrayBuffer | ArrayBuffer> {
  const response = await fetch(`${tiles}/${key}`);
  if (!response.ok) throw new Error(`The picture could not be read: the server answered ${response.status}.`);
  const bytes = await response.arrayBuffer();
  const tile = self.crossOriginIsolated ? shared(bytes) : bytes;
  kept.set(key, tile);
  return tile;
}

function shared(bytes: ArrayBuffer): SharedArrayBuffer {
  const out = new SharedArrayBuffer(bytes.byteLength);
  new Uint8Array(out).set(new Uint8Array(bytes));
  return out;
}
