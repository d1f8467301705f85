// Raw to 16-bit TIFF at several sizes, and the image library doing comparable work on the same pixels and one thread.
import { rmSync } from "node:fs";
import { createRequire } from "node:module";
import { join } from "node:path";
import { node, ROOT, run } from "../run.mjs";
import { CACHE, fullRecipe, median, rawFile, recipeFile, writeRecipe, YELM } from "./material.mjs";

const sharp = createRequire(join(ROOT, "packages/server/package.json"))("sharp");
const COMPARED_MP = 24;
const ROUNDS = 3;

export async function measureExports(sizes) {
  await writeRecipe(await fullRecipe());
  const rows = [];
  for (const megapixels of sizes) {
    const raw = await rawFile(megapixels);
    const out = join(CACHE, "out.tif");
    const { code, output } = await run(node, [YELM, "render", raw, "--recipe", recipeFile, "--out", out, "--json"], {
      quiet: true,
    });
    if (code !== 0) throw new Error(output);
    const { width, height, stages, peakMemoryMb } = JSON.parse(output);
    rmSync(out);
    rows.push({ megapixels: (width * height) / 1e6, ...stages, peakMemoryMb });
    console.log(
      `· ${megapixels} MP raw to TIFF: ${Object.entries(stages)
        .map(([k, v]) => `${k} ${v}`)
        .join(", ")}, ${peakMemoryMb} MB`,
    );
  }
  return { rows, library: await compareWithLibrary(rows.find((row) => Math.round(row.megapixels) === COMPARED_MP)) };
}

/** Recombine, curve, sharpen by blur, composite of six masks, 16-bit TIFF: nearest to the same recipe in libvips. */
async function compareWithLibrary(ours) {
  if (!ours) return null;
  sharp.concurrency(1);
  const height = Math.round(Math.sqrt((COMPARED_MP * 1e6) / 1.5) / 2) * 2;
  const width = Math.round((height * 1.5) / 2) * 2;
  const codes = Uint16Array.from({ length: 3 * width * height }, (_, i) => (i * 7919) & 0xffff);
  const mask = await sharp({ create: { width, height, channels: 4, background: { r: 0, g: 0, b: 0, alpha: 0.2 } } }).png({ compressionLevel: 0 }).toBuffer();
  const out = join(CACHE, "library.tif");
  const curved = async (composites) => {
    const started = performance.now();
    await sharp(codes, { raw: { width, height, channels: 3 } })
      .toColourspace("rgb16")
      .recomb([[0.8, 0.5, -0.3], [0.8, 0.5, -0.3], [0.8, 0.5, -0.3]])
      .gamma(2.2)
      .sharpen({ sigma: 6 })
      .composite(Array.from({ length: composites }, () => ({ input: mask, blend: "over" })))
      .tiff({ compression: "none" })
      .toFile(out);
    return performance.now() - started;
  };
  const times = [];
  for (let i = 0; i < ROUNDS; i++) times.push(await curved(6));
  const plainStart = performance.now();
  await sharp(codes, { raw: { width, height, channels: 3 } }).toColourspace("rgb16").recomb([[0.8, 0.5, -0.3], [0.8, 0.5, -0.3], [0.8, 0.5, -0.3]]).gamma(2.2).raw({ depth: "ushort" }).toBuffer();
  const plainMs = performance.now() - plainStart;
  rmSync(out, { force: true });
  return { libraryMs: median(times), recombAndCurveMs: plainMs, oursMs: ours.renderMs + ours.encodeMs, ratio: (ours.renderMs + ours.encodeMs) / median(times) };
} // prettier-ignore
