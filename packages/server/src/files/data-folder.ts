import { createHash } from "node:crypto";
import { createReadStream } from "node:fs";
import { mkdir, open, rename, rm, type FileHandle } from "node:fs/promises";
import { basename, dirname, join } from "node:path";

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
  for (const path of [folder.captures, folder.tiles, folder.thumbnails, folder.exports, folder.incoming, card])
    await mkdir(path, { recursive: true });
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

/** Whether a name is that of a file still being written, or left when its writer was stopped. */
export function isPartial(name: string): boolean {
  return name.startsWith(".") && name.endsWith(".part");
}

/** Writes a file whole or not at all: temporary name, sync, rename. */
export async function writeAtomically(path: string, data: Uint8Array): Promise<void> {
  await fillAtomically(path, (file) => file.writeFile(data));
}

/** Like {@link writeAtomically}, for a file that is filled bit by bit. */
export async function fillAtomically<T>(path: string, fill: (file: FileHandle) => Promise<T>): Promise<T> {
  await mkdir(dirname(path), { recursive: true });
  const temporary = join(dirname(path), `.${basename(path)}.${process.pid}.${Date.now()}.part`);
  const file = await open(temporary, "wx");
  try {
    const result = await fill(file);
    await file.sync();
    await file.close();
    await rename(temporary, path);
    return result;
  } catch (error) {
    await file.close().catch(() => undefined);
    await rm(temporary, { force: true });
    throw error;
  }
}
