// What each stage costs a pixel that it computes, against what it states; one thread, everything computed anew.
import { readFileSync } from "node:fs";
import { join } from "node:path";
import * as core from "../../packages/core/dist/index.js";
import { ROOT } from "../run.mjs";
import { fullRecipe, median, rawFile } from "./material.mjs";

const ROUNDS = 5;
const SLOTS = 200;
/** Everything of Shape that works in space, on top of local contrast. */
const SPACE = {
  detail: { fine: 0.3, middle: 0.1, broad: 0.2 },
  openShadows: 0.5,
  holdHighlights: 0.4,
  haze: 0.3,
  scatter: { glow: 0.3, reach: 0.015, softness: 0.2 },
  sharpening: { amount: 0.8, radius: 0.6, sparing: 0.5 },
};
/** A move that looks at the picture in every way, on a region. */
const RICH = {
  id: "rich", name: "Rich", on: true, stops: -0.4, amountPercent: 100, invert: false,
  limits: { families: ["sky"], edges: 0.3, follow: 0.5 },
  effects: { grade: 0.3, gradeZone: 4, open: 0.4, hold: 0.2, local: 0.4, fine: 0.3, softness: 0.3, haze: 0.3, tone: 0, grain: 0 },
}; // prettier-ignore
/** What of Finish works in space. */
const FILM = { halation: { amount: 0.3, radiusUm: 80 }, oldGlass: { corners: 0.5, spread: 0.0025, start: 0.3 } };
/** A view of about a megapixel of 24, as on the bench. */
const SCALE = 1207 / 6000;
const ownView = ({ frame, negative }) => ({ x: 0, y: 0, ...core.scaledSize(frame, SCALE), scale: SCALE, level: core.ownLevel(SCALE, core.levelCount(negative)) }); // prettier-ignore
const fullSizeView = () => ({ x: 2048, y: 1024, width: 1024, height: 1024, scale: 1, level: 0 });

export async function measureStages() {
  const server = await import("../../packages/server/dist/index.js");
  const kernels = core.compileKernels(readFileSync(join(ROOT, "packages/core/build/kernels.wasm")));
  const heap = await core.createKernelHeap(kernels, SLOTS);
  const tiles = new Map();
  const raw = await rawFile(24);
  const { info } = await server.openCapture(heap, raw, "bench.dng", () => (place, halves) => tiles.set(core.tileKey(place), halves)); // prettier-ignore
  const size = { width: info.width, height: info.height };
  const source = { size, tile: (place) => tiles.get(core.tileKey(place)) };
  const full = await fullRecipe();
  const recipe = {
    ...full,
    shape: { ...full.shape, ...SPACE },
    finish: { ...full.finish, ...FILM },
    ground: { ...core.defaultRecipe().ground, angleDegrees: 1.2, calm: 0.3 },
  };
  const measure = (measured, viewOf = ownView) => {
    const perPixel = new Map();
    const whole = [];
    for (let round = 0; round < ROUNDS; round++) {
      const engine = new core.Engine(heap, source, core.factsOf(info));
      const print = engine.prepare(measured);
      const view = viewOf(print);
      // The tiles of the view's own level are made once, whatever is done to it.
      engine.renderRgba(engine.prepare(core.defaultRecipe()), view);
      const sums = new Map();
      engine.watch({
        now: () => performance.now(),
        tile(stage, pixels, ms) {
          const sum = sums.get(stage) ?? { pixels: 0, ms: 0 };
          sums.set(stage, { pixels: sum.pixels + pixels, ms: sum.ms + ms });
        },
      });
      engine.renderRgba(print, view);
      // All is kept now: what is left is done for every picture.
      const started = performance.now();
      engine.renderRgba(print, view);
      whole.push(((performance.now() - started) * 1e6) / (view.width * view.height));
      for (const [stage, { pixels, ms }] of sums)
        perPixel.set(stage, [...(perPixel.get(stage) ?? []), (ms * 1e6) / pixels]);
    }
    return { perPixel, whole };
  };
  const { perPixel, whole } = measure(recipe);
  const lens = { ...recipe.ground.lens, distortion: 0.03, keystoneVertical: 0.06 };
  const bent = measure({ ...recipe, ground: { ...recipe.ground, lens } }).perPixel.get("frame");
  perPixel.set("frame, through a lens", bent);
  // What coarse levels have nothing of.
  for (const [stage, values] of measure(recipe, fullSizeView).perPixel)
    if (!perPixel.has(stage)) perPixel.set(stage, values);
  const rich = { ...core.plainMove(), ...RICH, shape: core.newShape("region", 0.5, 0.3) };
  const moves = [...recipe.light.moves, rich];
  for (const [stage, values] of measure({ ...recipe, light: { ...recipe.light, moves } }).perPixel) {
    if (!perPixel.has(stage)) perPixel.set(stage, values);
    else if (stage === "light") perPixel.set("light, with one move of every effect and limit", values);
  }
  const stated = new Map(core.PIPELINE.map(({ name, costNs }) => [name, costNs]));
  const stages = [...perPixel].map(([name, values]) => ({
    name,
    stated: stated.get(name.split(",")[0]),
    ns: median(values),
  }));
  return { stages, viewNs: median(whole) };
}
