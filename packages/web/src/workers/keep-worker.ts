import { PICTURES, pictureKey } from "./kept-store.ts";

export interface KeepRequest {
  readonly printId: string;
  readonly mark: string;
  readonly bitmap: ImageBitmap;
}

/** All that is kept, bytes; what was kept longest ago goes. */
const MOST_BYTES = 96e6;

self.onmessage = ({ data }: MessageEvent<KeepRequest>) => {
  void keep(data)
    .catch(() => undefined)
    .finally(() => self.postMessage(null));
};

/** Packed without loss: what is shown next time is the picture itself. */
async function keep({ printId, mark, bitmap }: KeepRequest): Promise<void> {
  const { width, height } = bitmap;
  const canvas = new OffscreenCanvas(width, height);
  canvas.getContext("2d", { alpha: false })!.drawImage(bitmap, 0, 0);
  const blob = await canvas.convertToBlob({ type: "image/png" });
  const store = await caches.open(PICTURES);
  const key = pictureKey(printId);
  await store.delete(key);
  const headers = { "content-type": "image/png", "content-length": String(blob.size), "x-mark": mark };
  await store.put(key, new Response(blob, { headers }));
  await makeRoom(store);
}

/** Keys come in the order in which they were put. */
async function makeRoom(store: Cache): Promise<void> {
  let bytes = 0;
  for (const key of (await store.keys()).toReversed()) {
    const size = Number((await store.match(key))?.headers.get("content-length"));
    bytes += size > 0 ? size : MOST_BYTES;
    if (bytes > MOST_BYTES) await store.delete(key);
  }
}
