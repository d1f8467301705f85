// Whether halved colour is told by a picture's pixels: never stored so, halved both ways, enlarged; and what rebuilding it gains.
import { readdirSync } from "node:fs";
import { createRequire } from "node:module";
import { join } from "node:path";
import * as camera from "@yelm/camera";
import * as core from "@yelm/core";
import { ROOT } from "./run.mjs";

const sharp = createRequire(join(ROOT, "packages/server/package.json"))("sharp");
/** A folder of photographs to measure on besides the scenes; at less than half their size their colour is as fine as their light. */
const FOLDER = process.env.YELM_PHOTOGRAPHS;
const QUALITIES = [60, 80, 92];

const pixelsOf = (image) => image.removeAlpha().toColourspace("srgb").raw().toBuffer({ resolveWithObject: true });

async function sources() {
  const scenes = readdirSync(join(ROOT, "demo/scenes")).filter((file) => file.endsWith(".json"));
  const drawn = scenes.map((file) => async () => {
    const { width, height, rgb } = camera.resizeScene(await camera.readScene(join(ROOT, "demo/scenes", file)), 1400);
    const data = Buffer.from(Uint8Array.from(rgb, (v) => Math.round(255 * core.SRGB_TRANSFER.encode(Math.min(1, Math.max(0, v))))));
    return { data, info: { width, height, channels: 3 } };
  }); // prettier-ignore
  const names = FOLDER ? readdirSync(FOLDER).filter((name) => /\.jpe?g$/i.test(name)) : [];
  const photographs = names.map((name) => async () => {
    const { width } = await sharp(join(FOLDER, name)).metadata();
    return pixelsOf(sharp(join(FOLDER, name)).resize({ width: Math.min(1400, Math.floor(width / 2.3)) }));
  });
  return [...drawn, ...photographs];
}

/** Root mean square error of the differences of red and blue to brightness, codes. */
function colourError(codes, truth) {
  const brightness = (c, i) => 0.299 * c[i] + 0.587 * c[i + 1] + 0.114 * c[i + 2];
  let sum = 0;
  for (let i = 0; i < codes.length; i += 3)
    for (const c of [0, 2]) sum += (codes[i + c] - brightness(codes, i) - truth[i + c] + brightness(truth, i)) ** 2;
  return Math.sqrt((1.5 * sum) / codes.length);
}

export async function halvedColour(table, heap) {
  const told = new Map();
  const errors = new Map();
  const look = (name, { data, info }) => {
    const cells = core.halvedCellsOf(new Uint8Array(data), info.width, info.height);
    const word = cells ? `${cells.width} × ${cells.height}` : "none";
    const of = told.get(name) ?? told.set(name, new Map()).get(name);
    of.set(word, (of.get(word) ?? 0) + 1);
  };
  const all = await sources();
  for (const open of all) {
    const source = await open();
    const raw = { raw: source.info };
    look("as it is", source);
    for (const times of [1.5, 2])
      look(`enlarged ${times} ×`, await pixelsOf(sharp(source.data, raw).resize({ width: Math.round(times * source.info.width) })));
    for (const chromaSubsampling of ["4:4:4", "4:2:0"])
      for (const quality of QUALITIES) {
        const name = `JPEG ${chromaSubsampling} ${quality}`;
        const decoded = await pixelsOf(sharp(await sharp(source.data, raw).jpeg({ quality, chromaSubsampling }).toBuffer()));
        look(name, decoded);
        const rebuilt = new Uint8Array(decoded.data);
        const isHalved = chromaSubsampling === "4:2:0";
        core.rebuildHalvedColour(heap, rebuilt, source.info.width, source.info.height, { width: 2, height: 2, left: 0, top: 0, sloped: { across: isHalved, down: isHalved } });
        errors.set(name, [...(errors.get(name) ?? []), [decoded.data, rebuilt].map((codes) => colourError(codes, source.data))]);
      }
  } // prettier-ignore
  const mean = (name, i) => (errors.has(name) ? (errors.get(name).reduce((sum, list) => sum + list[i], 0) / all.length).toFixed(2) : ""); // prettier-ignore
  table(`Cells of halved colour told by the pixels of ${all.length} pictures; colour's error as decoded and rebuilt from 2 × 2 pixels, codes`, [
    ["", "none", "2 × 2", "2 × 1", "1 × 2", "decoded", "rebuilt"],
    ...[...told].map(([name, of]) => [name, ...["none", "2 × 2", "2 × 1", "1 × 2"].map((word) => of.get(word) ?? 0), mean(name, 0), mean(name, 1)]),
  ]); // prettier-ignore
}
