import { closeSync, mkdirSync, openSync, readFileSync, readSync, writeFileSync, writeSync } from "node:fs";
import { join } from "node:path";
import {
  hasTile,
  levelCount,
  PYRAMID_VERSION,
  tileSpan,
  type LinearTiles,
  type Size,
  type TilePlace,
} from "@yelm/core";
import { AppError } from "../errors.ts";

/** The description, written last: a pyramid without it is not whole. */
export const PYRAMID_FILE = "pyramid.json";

interface PyramidDescription extends Size {
  readonly version: number;
}

/** Writes a pyramid: one file a level, tiles at computed places, and a description last. */
export class TileWriter {
  readonly #folder: string;
  readonly #size: Size;
  readonly #files: number[];

  constructor(folder: string, size: Size) {
    mkdirSync(folder, { recursive: true });
    this.#folder = folder;
    this.#size = size;
    this.#files = Array.from({ length: levelCount(size) }, (_, level) => openSync(levelFile(folder, level), "w"));
  }

  write(place: TilePlace, halves: Uint16Array): void {
    const { offset, bytes } = tileSpan(this.#size, place);
    writeSync(this.#files[place.level], new Uint8Array(halves.buffer, halves.byteOffset, bytes), 0, bytes, offset);
  }

  finish(): void {
    this.close();
    const description: PyramidDescription = { version: PYRAMID_VERSION, ...this.#size };
    writeFileSync(join(this.#folder, PYRAMID_FILE), JSON.stringify(description));
  }

  close(): void {
    for (const file of this.#files.splice(0)) closeSync(file);
  }
}

/** Reads tiles from a pyramid on disk. */
export class TileReader implements LinearTiles {
  readonly size: Size;
  readonly #files: number[];

  /** @throws {AppError} damaged_file when the pyramid is missing, of another version, or unreadable. */
  constructor(folder: string) {
    try {
      const found = JSON.parse(readFileSync(join(folder, PYRAMID_FILE), "utf8")) as PyramidDescription;
      if (found.version !== PYRAMID_VERSION) throw new Error(`version ${found.version}`);
      this.size = { width: found.width, height: found.height };
      this.#files = Array.from({ length: levelCount(this.size) }, (_, level) =>
        openSync(levelFile(folder, level), "r"),
      );
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
    if (!hasTile(this.size, place))
      throw new AppError("not_found", `Expected a tile of this negative but received ${JSON.stringify(place)}.`);
    const { offset, bytes } = tileSpan(this.size, place);
    const out = new Uint8Array(bytes);
    if (readSync(this.#files[place.level], out, 0, bytes, offset) !== bytes)
      throw new AppError("damaged_file", "Expected a whole tile but its file is too short.");
    return new Uint16Array(out.buffer);
  }

  close(): void {
    for (const file of this.#files.splice(0)) closeSync(file);
  }
}

function levelFile(folder: string, level: number): string {
  return join(folder, `level-${level}.f16`);
}
