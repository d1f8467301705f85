import { createHash } from "node:crypto";
import { join } from "node:path";
import { factsOf, defaultRecipe, tilesVersion, type Negative, type Recipe } from "@yelm/core";
import { tilesPath } from "../files/data-folder.ts";
import { isWholeJpeg } from "../files/jpeg-file.ts";
import type { Context } from "./context.ts";

/** Raised when the same recipe would give another thumbnail than before. */
const RENDER_VERSION = 6;
/** Long edges of thumbnails, the largest first. */
const EDGES = [1280, 640, 320] as const;
const running = new Map<string, Promise<void>>();

/** Path of a JPEG of the print (or of the negative in colour), made when it is not there yet. */
export async function thumbnail(
  context: Context,
  negative: Negative,
  recipe: Recipe | null,
  longEdge: number,
): Promise<string> {
  const { key, out } = placeOf(context, negative, recipe, longEdge);
  if (await isWholeJpeg(out)) return out;
  let making = running.get(key);
  if (!making) {
    making = make(context, negative, recipe, longEdge, out).finally(() => running.delete(key));
    running.set(key, making);
  }
  await making;
  return out;
}

/** Path of the largest thumbnail of a print that is there already; null when there is none. */
export async function keptThumbnail(context: Context, negative: Negative, recipe: Recipe): Promise<string | null> {
  for (const edge of EDGES) {
    const { out } = placeOf(context, negative, recipe, edge);
    if (await isWholeJpeg(out)) return out;
  }
  return null;
}

function placeOf(context: Context, negative: Negative, recipe: Recipe | null, longEdge: number) {
  const reads = JSON.stringify([RENDER_VERSION, tilesVersion(negative.capture), negative.hash, recipe, longEdge]);
  const key = createHash("sha256").update(reads).digest("hex").slice(0, 40);
  return { key, out: join(context.folder.thumbnails, key.slice(0, 2), `${key}.jpg`) };
}

async function make(context: Context, negative: Negative, recipe: Recipe | null, longEdge: number, out: string) {
  const tiles = tilesPath(context.folder, negative.hash);
  await context.shelf.use(negative, () =>
    context.pool.run("interactive", "thumbnail", {
      facts: factsOf(negative.capture), tiles, recipe: recipe ?? defaultRecipe(), colour: recipe === null, longEdge, out,
    }),
  ); // prettier-ignore
}
