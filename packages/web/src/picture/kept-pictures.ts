import type { KeepRequest } from "../workers/keep-worker.ts";
import { PICTURES, pictureKey } from "../workers/kept-store.ts";

/** A print's exact picture, whole, as this browser last showed it. */
export interface KeptPicture {
  /** Of what it is the picture: that of nothing else has the same mark. */
  readonly mark: string;
  readonly image: HTMLImageElement;
}

/** Of larger ones nothing is kept, device pixels: they take too long to pack. */
const LARGEST = 12e6;

/** The one that was asked for last. */
let last:
  { readonly printId: string; found: KeptPicture | null; readonly asked: Promise<KeptPicture | null> } | undefined;

/** Reads the picture that is kept of a print; null where none is. Of the print that was asked for last it is at hand. */
export function keptPicture(printId: string): Promise<KeptPicture | null> {
  if (last?.printId === printId) return last.asked;
  forget();
  const asked = read(printId).catch(() => null);
  const mine = { printId, found: null as KeptPicture | null, asked };
  last = mine;
  void asked.then((found) => {
    if (last === mine) mine.found = found;
    else if (found) URL.revokeObjectURL(found.image.src);
  });
  return asked;
}

/** The same at once, while it is at hand. */
export const keptPictureAtHand = (printId: string): KeptPicture | null =>
  last?.printId === printId ? last.found : null;

function forget(): void {
  if (last?.found) URL.revokeObjectURL(last.found.image.src);
  last = undefined;
}

async function read(printId: string): Promise<KeptPicture | null> {
  const found = await (await caches.open(PICTURES)).match(pictureKey(printId));
  const mark = found?.headers.get("x-mark");
  if (!found || !mark) return null;
  const image = new Image();
  image.src = URL.createObjectURL(await found.blob());
  await image.decode();
  return { mark, image };
}

/**
 * Keeps what a canvas shows for the next time that the print is opened; packed by a worker, which goes when it is done. Without storage,
 * or room in it, nothing is kept.
 * @param mark - of what it is the picture.
 */
export async function keepPicture(printId: string, mark: string, canvas: HTMLCanvasElement): Promise<void> {
  if (canvas.width * canvas.height > LARGEST || !("caches" in globalThis)) return;
  const bitmap = await createImageBitmap(canvas);
  const worker = new Worker(new URL("../workers/keep-worker.ts", import.meta.url), { type: "module" });
  worker.onmessage = worker.onerror = () => {
    worker.terminate();
    if (last?.printId === printId) forget();
  };
  const request: KeepRequest = { printId, mark, bitmap };
  worker.postMessage(request, [bitmap]);
}
