import { createHash } from "node:crypto";
import { createReadStream } from "node:fs";
import { access, constants, mkdir, readdir, rm } from "node:fs/promises";
import { AppError } from "../errors.ts";
import { join } from "node:path";

/** Where everything lives. Captures are only ever added and read; tiles and thumbnails can be rebuilt from them. */
export interface DataFolder {
  readonly root: string;
  readonly database: string;
  readonly captures: string;
  readonly tiles: string;
  readonly thumbnails: string;
  readonly exports: string;
  readonly incoming: string;
  /** Stands in for a camera's card: files are read here, never changed. */
  readonly card: string;
}

/**
 * Creates the folders. What an import has already taken over waits in `incoming` for the queue.
 * @param card - the card's folder, when it lies elsewhere.
 */
export async function openDataFolder(root: string, card = join(root, "card")): Promise<DataFolder> {
  const folder: DataFolder = {
    root,
    database: join(root, "yelm.sqlite"),
    captures: join(root, "captures"),
    tiles: join(root, "tiles"),
    thumbnails: join(root, "thumbnails"),
    exports: join(root, "exports"),
    incoming: join(root, "incoming"),
    card,
  };
  try {
    for (const path of [folder.captures, folder.tiles, folder.thumbnails, folder.exports, folder.incoming, card])
      await mkdir(path, { recursive: true });
    await access(root, constants.W_OK);
  } catch (cause) {
    const { code } = cause as { code?: string };
    const why =
      code === "ENOSPC"
        ? "the disk is full"
        : code === "ENOTDIR" || code === "EEXIST"
          ? "a file lies there"
          : "that is not allowed";
    throw new AppError(
      code === "ENOSPC" ? "disk_full" : "forbidden",
      `Expected a data folder that can be written to, but ${why}.`,
      { hint: "Make room, give yourself the right to write there, or choose another folder with --data." },
      { cause },
    );
  }
  return folder;
}

/** Place of a stored capture: by its hash, so that no name from outside reaches the disk. */
export function capturePath(folder: DataFolder, hash: string): string {
  return join(folder.captures, hash.slice(0, 2), hash);
}

/** Folder of a negative's tiles. */
export function tilesPath(folder: DataFolder, hash: string): string {
  return join(folder.tiles, hash);
}

/** Where a negative's tiles are written before they are whole. */
export function partialTiles(tiles: string): string {
  return `${tiles}.${process.pid}.part`;
}

/** SHA-256 of a file, hex. */
export async function hashFile(path: string): Promise<string> {
  const hash = createHash("sha256");
  for await (const chunk of createReadStream(path)) hash.update(chunk as Buffer);
  return hash.digest("hex");
}

/**
 * Makes sure that a stored capture is still what came in.
 * @throws {AppError} damaged_file that says how it is repaired.
 */
export async function checkCapture(path: string, hash: string): Promise<void> {
  const found = await hashFile(path).catch((error: unknown) => {
    if ((error as { code?: string }).code === "ENOENT") return null;
    throw error;
  });
  if (found === hash) return;
  throw new AppError(
    "damaged_file",
    found === null
      ? "Expected the stored capture but it is gone from the data folder."
      : "Expected the stored capture as it came in, but it is no longer what it was: its bytes have changed on the disk.",
    { hint: "Bring the same file in again: Yelm repairs the capture with it, and its prints stay as they are." },
  );
}

/** Removes files that were begun and never finished, wherever they may lie. Only the folder's owner may. */
export async function clearLeftovers({
  captures,
  tiles,
  thumbnails,
  exports,
  incoming,
  card,
}: DataFolder): Promise<void> {
  for (const folder of [captures, tiles, thumbnails, exports, incoming, card])
    for (const entry of await readdir(folder, { recursive: true, withFileTypes: true }))
      if (entry.name.endsWith(".part") && (folder !== card || entry.name.startsWith(".")))
        await rm(join(entry.parentPath, entry.name), { recursive: true, force: true });
}

/** Whether a name is that of a file still being written, or left when its writer was stopped. */
export function isPartial(name: string): boolean {
  return name.startsWith(".") && name.endsWith(".part");
}
