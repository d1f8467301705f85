import { extname } from "node:path";
import { DEFAULT_EXPORT, type ExportOptions } from "@yelm/core";
import { AppError } from "../errors.ts";
import { writePrint } from "../files/write-print.ts";
import { openEngine } from "./open-engine.ts";
import { readRecipe } from "./read-recipe.ts";

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
  const { engine, info, timings } = await openEngine(file);
  const exportOptions = {
    ...DEFAULT_EXPORT,
    format,
    longEdge: options.longEdge ?? null,
    encoding: options.encoding,
    metadata: options.metadata,
  };
  const written = await writePrint(engine, engine.prepare(recipe), exportOptions, info, options.out);
  const { unpackMs, demosaicMs } = timings;
  const stages = { unpackMs, demosaicMs, ...written.timings };
  const rounded = Object.fromEntries(Object.entries(stages).map(([name, ms]) => [name, Math.round(ms * 10) / 10]));
  const peakMemoryMb = Math.round(process.resourceUsage().maxRSS / 1024);
  const { width, height } = written;
  if (options.json) console.log(JSON.stringify({ out: options.out, width, height, stages: rounded, peakMemoryMb }));
  else console.log(`${options.out}: ${width} × ${height}`);
}
