import { closeSync, fdatasync, fsyncSync, mkdirSync, openSync, readFileSync, readSync } from "node:fs";
import { join } from "node:path";
import { promisify } from "node:util";
import {
  hasTile,
  levelCount,
  PYRAMID_VERSION,
  tileKey,
  tileSpan,
  type LinearTiles,
  type Size,
  type TilePlace,
} from "@yelm/core";
import { AppError } from "../errors.ts";
import { writeAllSync, writeWholeBytes } from "./whole-file.ts";

/** The description, written last: a pyramid without it is not whole. */
export const PYRAMID_FILE = "pyramid.json";

/** Bytes of the largest level that wait at least before they are sent to the disk. */
const SEND_BYTES = 2 ** 24;
const syncSoon = promisify(fdatasync);

/** What a pyramid is made of. */
interface Made extends Size {
  /** Whether the colours of a file that has finished ones were smoothed. */
  readonly smoothed?: boolean;
}

interface PyramidDescription extends Made {
  readonly version: number;
  /** Tiles that have light beyond sensor white, which lies in a second file at the same place: "level/column/row". */
  readonly over: readonly string[];
}

/** Writes a pyramid: one file a level (two where there is light beyond white), tiles at computed places, a description last. */
export class TileWriter {
  readonly #folder: string;
  readonly #size: Made;
  readonly #files: number[];
  readonly #overFiles = new Map<number, number>();
  readonly #over: string[] = [];
  readonly #sync: (file: number) => Promise<void>;
  /** What is on its way to the disk at present, and the bytes of the largest level since it went. */
  #onTheWay: Promise<void> | null = null;
  #failure: Error | null = null;
  #waiting = 0;

  /** @param sync - has a file's bytes go to the disk; not the caller's thread. */
  constructor(folder: string, size: Made, sync: (file: number) => Promise<void> = syncSoon) {
    this.#sync = sync;
    mkdirSync(folder, { recursive: true });
    this.#folder = folder;
    this.#size = size;
    this.#files = Array.from({ length: levelCount(size) }, (_, level) => openSync(levelFile(folder, level), "w"));
  }

  write(place: TilePlace, halves: Uint16Array): void {
    const { offset, bytes } = tileSpan(this.#size, place);
    writeAllSync(this.#files[place.level], new Uint8Array(halves.buffer, halves.byteOffset, bytes), offset);
    if (place.level === 0) this.#waiting += bytes;
    if (this.#waiting > SEND_BYTES && !this.#onTheWay) this.#onTheWay = this.#sendOff();
    if (halves.byteLength === bytes) return;
    const over = new Uint8Array(halves.buffer, halves.byteOffset + bytes, bytes / 3);
    writeAllSync(this.#overFile(place.level), over, offset / 3);
    this.#over.push(tileKey(place));
  }

  #overFile(level: number): number {
    const known = this.#overFiles.get(level) ?? openSync(overFile(this.#folder, level), "w");
    this.#overFiles.set(level, known);
    return known;
  }

  /**
   * Has what was written go to the disk while more is made, so that little is left to wait for at the end; one file at a time, as others
   * need those threads too. A disk tells of a failure once: it is kept for the end.
   */
  async #sendOff(): Promise<void> {
    this.#waiting = 0;
    try {
      for (const file of this.#files) await this.#sync(file);
    } catch (error) {
      this.#failure ??= error as Error;
    }
    this.#onTheWay = null;
  }

  /** Everything is on the disk before the description says that it is. */
  async finish(): Promise<void> {
    await this.#onTheWay;
    if (this.#failure) throw this.#failure;
    for (const file of [...this.#files, ...this.#overFiles.values()]) fsyncSync(file);
    this.close();
    const { width, height, smoothed = false } = this.#size;
    const description: PyramidDescription = { version: PYRAMID_VERSION, width, height, smoothed, over: this.#over };
    await writeWholeBytes(join(this.#folder, PYRAMID_FILE), Buffer.from(JSON.stringify(description)));
  }

  close(): void {
    for (const file of [...this.#files.splice(0), ...this.#overFiles.values()]) closeSync(file);
    this.#overFiles.clear();
  }
}

/** Reads tiles from a pyramid on disk. */
export class TileReader implements LinearTiles {
  readonly size: Size;
  readonly smoothed: boolean;
  readonly #files: number[];
  readonly #over: ReadonlySet<string>;
  readonly #overFiles = new Map<number, number>();

  /** @throws {AppError} damaged_file when the pyramid is missing, of another version, or unreadable. */
  constructor(folder: string) {
    try {
      const found = JSON.parse(readFileSync(join(folder, PYRAMID_FILE), "utf8")) as PyramidDescription;
      if (found.version !== PYRAMID_VERSION) throw new Error(`version ${found.version}`);
      this.size = { width: found.width, height: found.height };
      this.smoothed = found.smoothed ?? false;
      this.#files = Array.from({ length: levelCount(this.size) }, (_, level) =>
        openSync(levelFile(folder, level), "r"),
      );
      this.#over = new Set(found.over);
      for (const level of new Set(found.over.map((key) => Number(key.split("/")[0]))))
        this.#overFiles.set(level, openSync(overFile(folder, level), "r"));
    } catch (cause) {
      throw new AppError(
        "damaged_file",
        "Expected the negative's tiles but they are missing or damaged.",
        {},
        { cause },
      );
    }
  }

  tile(place: TilePlace): Uint16Array {
    return new Uint16Array(this.bytes(place, (length) => new Uint8Array(length)).buffer);
  }

  /** A tile as it lies on the disk, read into memory that is given. */
  bytes(place: TilePlace, room: (length: number) => Uint8Array): Uint8Array {
    if (!hasTile(this.size, place))
      throw new AppError("not_found", `Expected a tile of this negative but received ${JSON.stringify(place)}.`);
    const { offset, bytes } = tileSpan(this.size, place);
    const overFile = this.#over.has(tileKey(place)) ? this.#overFiles.get(place.level)! : null;
    const out = room(overFile === null ? bytes : (4 * bytes) / 3);
    let read = readSync(this.#files[place.level], out, 0, bytes, offset);
    if (overFile !== null) read += readSync(overFile, out, bytes, bytes / 3, offset / 3);
    if (read !== out.length) throw new AppError("damaged_file", "Expected a whole tile but its file is too short.");
    return out;
  }

  close(): void {
    for (const file of [...this.#files.splice(0), ...this.#overFiles.values()]) closeSync(file);
    this.#overFiles.clear();
  }
}

function overFile(folder: string, level: number): string {
  return join(folder, `level-${level}.over.f16`);
}

function levelFile(folder: string, level: number): string {
  return join(folder, `level-${level}.f16`);
}
