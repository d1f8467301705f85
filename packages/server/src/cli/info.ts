import { readFile } from "node:fs/promises";
import { basename } from "node:path";
import type { CaptureInfo } from "@yelm/core";
import { sniff } from "../files/linear-picture.ts";
import { readRaster } from "../files/raster.ts";
import { unpackRaw } from "../files/raw.ts";
import { AppError } from "../errors.ts";

/** Prints what a capture is. */
export async function info(file: string, { json }: { json?: boolean }): Promise<void> {
  const found = await readInfo(file);
  if (json) {
    console.log(JSON.stringify({ file, ...found }, null, 2));
    return;
  }
  const exposure = [
    found.iso && `ISO ${found.iso}`,
    found.shutterSeconds && `${formatShutter(found.shutterSeconds)} s`,
    found.fNumber && `f/${Number(found.fNumber.toFixed(1))}`,
    found.focalLengthMm && `${found.focalLengthMm} mm`,
  ].filter(Boolean);
  const rows: [string, string][] = [
    ["size", `${found.width} × ${found.height}, upright`],
    ["kind", found.kind],
    ["camera", [found.make, found.model, found.lens].filter(Boolean).join(", ") || "not stated"],
    ["exposure", exposure.join(", ") || "not stated"],
    ["pattern", found.cfa ?? "none"],
    ["levels", found.black ? `black ${found.black.join(" ")}, white ${found.white}` : "none"],
    [
      "noise",
      found.noise
        ? `variance ${found.noise.slope[1].toExponential(2)} · light + ${found.noise.offset[1].toExponential(2)} (green, ${found.noise.source})`
        : "not stated",
    ],
    ["neutral", found.neutral?.map((v) => v.toFixed(4)).join(" ") ?? "none"],
    ...found.calibrations.map((c): [string, string] => [
      `matrix ${Math.round(c.temperatureK)} K`,
      c.xyzToCamera.map((v) => v.toFixed(4)).join(" "),
    ]),
  ];
  for (const [name, value] of rows) console.log(`${name.padEnd(14)} ${value}`);
}

async function readInfo(file: string): Promise<CaptureInfo> {
  const bytes = await readFile(file).catch((cause: unknown) => {
    throw new AppError("unreadable_file", `Expected a file but ${file} cannot be read.`, {}, { cause });
  });
  if (bytes.length === 0) throw new AppError("unreadable_file", "Expected a picture but the file is empty.");
  if (sniff(bytes, basename(file)) === "raster") return (await readRaster(file)).info;
  return (await unpackRaw(bytes)).info;
}

/** 0.004 → "1/250"; half a second and longer stay decimal. */
function formatShutter(seconds: number): string {
  return seconds >= 0.4 ? String(Number(seconds.toFixed(1))) : `1/${Math.round(1 / seconds)}`;
}
