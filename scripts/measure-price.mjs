// What the price tells of edges, against scenes of which it is known what their edges should be.
import * as camera from "@yelm/camera";
import * as core from "@yelm/core";
import { jpeg, open, PNG, raw } from "./measure-mixtures.mjs";

const CASES = 24;
/** A piece that is judged, as the price takes it, and how far pieces lie apart. */
const PATCH = 25;
const APART = 50;
const BORDER = 16;
const FEWEST_MIXED = 20;
/** Share of mixed pixels that may lie farther out. */
const OUTERMOST = 0.06;
/** Damage that must be told, and what must not be, L*: beyond both greys, and off the mixture of their lights. */
const DAMAGE = 4;
const CLEAN = { beyond: 1.5, off: 3 };

const SOURCES = { "raw ISO 100": raw(100), "raw ISO 1600": raw(1600), "PNG 16 bit": PNG, "JPEG 70": jpeg(70), "JPEG 85": jpeg(85) }; // prettier-ignore
const PASSAGES = {
  "by light": {},
  "by light, crisp": { softness: 0 },
  "by nearness": { passage: "nearness" },
};
const lightness = (light) => core.luminanceToLightness(Math.min(1, Math.max(0, light)));

export async function price(heap, table) {
  const rows = [["source", "passage", "damaged", "told", "clean", "told"]];
  for (const [name, { file, make }] of Object.entries(SOURCES)) {
    const found = Object.fromEntries(Object.keys(PASSAGES).map((passage) => [passage, []]));
    for (const [i, one] of camera.mixtureCases(480, 320, CASES).entries()) {
      const { engine, size } = await open(heap, await make(one.scene, i + 1), file);
      const base = camera.movedRecipe(one);
      for (const [passage, change] of Object.entries(PASSAGES))
        found[passage].push(...pricesOf(engine, size, one.scene, { ...base, weigh: { ...base.weigh, ...change } }));
    }
    for (const [passage, places] of Object.entries(found)) {
      const bad = places.filter(({ beyond }) => beyond > DAMAGE);
      const clean = places.filter(({ beyond, off }) => beyond < CLEAN.beyond && off < CLEAN.off);
      const told = (list) => String(list.filter((one) => one.told).length);
      rows.push([name, passage, String(bad.length), told(bad), String(clean.length), told(clean)]);
    }
  }
  table(`What the price tells of edges of ${CASES} scenes (families moved +0.8 and −1 stops), against what is beyond both greys`, rows); // prettier-ignore
}

/** Pieces with mixed pixels: how far these truly lie beyond both greys, and how far the price says. */
function pricesOf(engine, size, scene, recipe) {
  const { width, height } = size;
  const view = { x: 0, y: 0, ...size, scale: 1, level: 0 };
  const light = (weigh) => engine.renderLight(engine.prepare({ ...recipe, weigh }), view).slice();
  const print = light(recipe.weigh);
  const plain = light(core.plainWeigh(recipe.weigh));
  const byLight = core.mixesByLight(recipe.weigh) ? null : light({ ...recipe.weigh, ...core.BY_LIGHT });
  const colour = engine.renderWorking(engine.prepare(recipe), view).map((plane) => plane.slice());
  const truth = camera.movedTruth(scene, recipe);
  const places = [];
  for (let top = BORDER; top + PATCH <= height - BORDER; top += APART)
    for (let left = BORDER; left + PATCH <= width - BORDER; left += APART) {
      const cut = (plane) =>
        Float32Array.from({ length: PATCH * PATCH }, (_, i) => plane[(top + Math.floor(i / PATCH)) * width + left + (i % PATCH)]); // prettier-ignore
      const damaged = damageOf(cut(print), cut(truth.first), cut(truth.second), cut(truth.coverage));
      if (damaged === null) continue;
      const damage = core.edgeDamage({
        width: PATCH,
        height: PATCH,
        colour: colour.map(cut),
        print: cut(print),
        plain: cut(plain),
        ...(byLight && { byLight: cut(byLight) }),
      });
      places.push({ ...damaged, told: damage !== null && ["contour", "mixing"].includes(core.seenDamage(damage)) });
    }
  return places;
}

/** What mixed pixels truly are, L*, but for the outermost few; null where there are hardly any. */
function damageOf(print, first, second, coverage) {
  const found = core.smooth3(print.map(lightness), PATCH, PATCH);
  const beyond = [];
  const off = [];
  coverage.forEach((share, i) => {
    if (share <= 0.02 || share >= 0.98) return;
    const [a, b] = [lightness(first[i]), lightness(second[i])];
    beyond.push(Math.max(0, found[i] - Math.max(a, b), Math.min(a, b) - found[i]));
    off.push(Math.abs(found[i] - lightness(share * first[i] + (1 - share) * second[i])));
  });
  if (beyond.length < FEWEST_MIXED) return null;
  const most = (list) => list.sort((p, q) => q - p)[Math.floor(OUTERMOST * list.length)];
  return { beyond: most(beyond), off: most(off) };
}
