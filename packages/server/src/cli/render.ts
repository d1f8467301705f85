import { readFile } from "node:fs/promises";
import { extname } from "node:path";
import {
  factsOf,
  DEFAULT_EXPORT,
  defaultRecipe,
  Engine,
  type ExportOptions,
  hasTile,
  type LinearTiles,
  type Recipe,
  type Size,
  type TilePlace,
} from "@yelm/core";
import { AppError } from "../errors.ts";
import { openKernels } from "../files/kernels.ts";
import { openCapture } from "../files/linear-picture.ts";
import { writePrint } from "../files/write-print.ts";
import { checkRecipe } from "../validate.ts";

const FORMATS: Readonly<Record<string, ExportOptions["format"]>> = {
  ".tif": "tiff", ".tiff": "tiff", ".png": "png", ".jpg": "jpeg", ".jpeg": "jpeg",
}; // prettier-ignore

export interface RenderOptions {
  readonly recipe: string;
  readonly out: string;
  readonly longEdge?: number;
  readonly encoding: ExportOptions["encoding"];
  readonly metadata: boolean;
  readonly json?: boolean;
}

/** Renders one capture with one recipe into one file. */
export async function render(file: string, options: RenderOptions): Promise<void> {
  const format = FORMATS[extname(options.out).toLowerCase()];
  if (!format)
    throw new AppError("bad_request", `Expected --out to end in .tif, .png or .jpg but received ${options.out}.`);
  if (options.longEdge !== undefined && options.longEdge < 16)
    throw new AppError("bad_request", `Expected --long-edge of at least 16 but received ${options.longEdge}.`);
  const recipe = await readRecipe(options.recipe);
  const heap = await openKernels();
  const tiles = new MemoryTiles();
  const { info, timings } = await openCapture(heap, file, file, (size) => {
    tiles.size = size;
    return (place, halves) => tiles.keep(place, halves);
  });
  const engine = new Engine(heap, tiles, factsOf(info));
  const exportOptions = {
    ...DEFAULT_EXPORT,
    format,
    longEdge: options.longEdge ?? null,
    encoding: options.encoding,
    metadata: options.metadata,
  };
  const written = await writePrint(heap, engine, engine.prepare(recipe), exportOptions, info, options.out);
  const { unpackMs, demosaicMs } = timings;
  const stages = { unpackMs, demosaicMs, ...written.timings };
  const rounded = Object.fromEntries(Object.entries(stages).map(([name, ms]) => [name, Math.round(ms * 10) / 10]));
  const peakMemoryMb = Math.round(process.resourceUsage().maxRSS / 1024);
  const { width, height } = written;
  if (options.json) console.log(JSON.stringify({ out: options.out, width, height, stages: rounded, peakMemoryMb }));
  else console.log(`${options.out}: ${width} × ${height}`);
}

async function readRecipe(path: string): Promise<Recipe> {
  if (path === "-") return defaultRecipe();
  const text = await readFile(path, "utf8").catch((cause: unknown) => {
    throw new AppError("bad_request", `Expected a recipe but ${path} cannot be read.`, {}, { cause });
  });
  let parsed: unknown;
  try {
    parsed = JSON.parse(text);
  } catch (cause) {
    throw new AppError("bad_recipe", `Expected JSON in ${path} but it could not be read.`, {}, { cause });
  }
  return checkRecipe(parsed);
}

/** A pyramid that lives in memory; only the levels that the render asks for are kept. */
class MemoryTiles implements LinearTiles {
  size: Size = { width: 0, height: 0 };
  readonly #tiles = new Map<string, Uint16Array>();

  keep(place: TilePlace, halves: Uint16Array): void {
    if (place.level === 0) this.#tiles.set(`${place.column}/${place.row}`, halves);
  }

  tile(place: TilePlace): Uint16Array {
    const found = this.#tiles.get(`${place.column}/${place.row}`);
    if (!found || !hasTile(this.size, place))
      throw new RangeError(`Expected a kept tile but received ${JSON.stringify(place)}.`);
    return found;
  }
}
