import { writeSync } from "node:fs";
import { mkdir, open, rename, rm, statfs, type FileHandle } from "node:fs/promises";
import { basename, dirname, join } from "node:path";
import { AppError } from "../errors.ts";

/** What a disk says when nothing more fits. */
const FULL = new Set(["ENOSPC", "EDQUOT", "EFBIG"]);
let lastPart = 0;

/** A file being filled. Every write goes on until all of it is there, or fails. */
export class WholeFile {
  readonly #file: FileHandle;
  #length = 0;

  constructor(file: FileHandle) {
    this.#file = file;
  }

  /** Bytes up to the furthest that was written. */
  get length(): number {
    return this.#length;
  }

  /** Writes at the end. */
  append(bytes: Uint8Array): Promise<void> {
    return this.writeAt(bytes, this.#length);
  }

  async writeAt(bytes: Uint8Array, position: number): Promise<void> {
    for (let done = 0; done < bytes.length;) {
      const { bytesWritten } = await this.#file.write(bytes, done, bytes.length - done, position + done);
      if (bytesWritten === 0) throw Object.assign(new Error("nothing more could be written"), { code: "ENOSPC" });
      done += bytesWritten;
    }
    this.#length = Math.max(this.#length, position + bytes.length);
  }
}

/**
 * Writes a file whole or not at all: under a temporary name, synced with its folder, its size read back, then renamed. A
 * failure removes what was begun.
 * @param needs - bytes that it is going to take, about; told when they do not fit.
 * @throws {AppError} disk_full.
 */
export async function writeWhole<T>(
  path: string,
  fill: (file: WholeFile) => Promise<T>,
  needs?: number,
): Promise<{ readonly result: T; readonly bytes: number }> {
  const folder = dirname(path);
  const temporary = join(folder, `.${basename(path)}.${process.pid}.${++lastPart}.part`);
  try {
    await mkdir(folder, { recursive: true });
    const file = await open(temporary, "wx");
    const whole = new WholeFile(file);
    let result: T;
    try {
      result = await fill(whole);
      await file.sync();
      const { size } = await file.stat();
      if (size !== whole.length)
        throw new AppError("internal", `Expected ${whole.length} bytes of ${basename(path)} but ${size} are there.`);
    } finally {
      await file.close();
    }
    await rename(temporary, path);
    await syncFolder(folder);
    return { result, bytes: whole.length };
  } catch (error) {
    await rm(temporary, { force: true }).catch(() => undefined);
    throw (await diskFull(error, path, needs)) ?? error;
  }
}

/** Writes these bytes whole or not at all. */
export async function writeWholeBytes(path: string, bytes: Uint8Array): Promise<void> {
  await writeWhole(path, (file) => file.append(bytes), bytes.length);
}

/** Writes all of some bytes at a place of an open file. @throws with code ENOSPC when they do not fit. */
export function writeAllSync(file: number, bytes: Uint8Array, position: number): void {
  for (let done = 0; done < bytes.length;) {
    const written = writeSync(file, bytes, done, bytes.length - done, position + done);
    if (written === 0) throw Object.assign(new Error("nothing more could be written"), { code: "ENOSPC" });
    done += written;
  }
}

/** The error that says so, when a failure means that the disk is full; null for any other. */
export async function diskFull(error: unknown, path: string, needs?: number): Promise<AppError | null> {
  if (error instanceof AppError) return error.code === "disk_full" ? error : null;
  const { code } = error as { code?: string };
  if (!code || !FULL.has(code)) return null;
  const free = await statfs(dirname(path)).then(
    ({ bavail, bsize }) => bavail * bsize,
    () => null,
  );
  const told = free === null ? "" : `, and ${megabytes(free)} are free`;
  const wanted = needs === undefined ? "" : `: about ${megabytes(needs)} are needed${told}`;
  return new AppError(
    "disk_full",
    `The disk is full${wanted}. Nothing of ${basename(path)} was kept.`,
    { hint: "Make room where Yelm's data folder lies, and try it again." },
    { cause: error },
  );
}

function megabytes(bytes: number): string {
  return bytes < 1e6 ? `${Math.ceil(bytes / 1000)} kB` : `${Math.ceil(bytes / 1e6)} MB`;
}

export async function syncFile(path: string): Promise<void> {
  const file = await open(path, "r");
  await file.sync().finally(() => file.close());
}

/** A name is on the disk only once its folder is; where folders cannot be synced, the system sees to it. */
export async function syncFolder(path: string): Promise<void> {
  const folder = await open(path, "r").catch(() => null);
  await folder?.sync().catch(() => undefined);
  await folder?.close();
}
