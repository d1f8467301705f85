// Which pixels stay in their family when a picture's colours are found again: at another exposure or white, under noise, cut.
import { readdirSync } from "node:fs";
import { createRequire } from "node:module";
import { join } from "node:path";
import * as camera from "@yelm/camera";
import * as core from "@yelm/core";
import { open } from "./measure-mixtures.mjs";
import { ROOT } from "./run.mjs";

const sharp = createRequire(join(ROOT, "packages/server/package.json"))("sharp");
/** A folder of photographs to measure on besides the scenes. */
const FOLDER = process.env.YELM_PHOTOGRAPHS;
const THIRD = 2 ** (1 / 3);
const TWELFTH = 2 ** (1 / 12);
const CUT = 0.7;
/** Of the camera, the first for what the others are held against, and how sharp its lens is. */
const SPEEDS = [100, 400, 1600, 6400];
const LENS_BLUR_PX = 0.5;
const CORNERS = [0, 1, 2, 3].map((corner) => [(corner % 2) * (1 - CUT), (corner >> 1) * (1 - CUT)]);

/** A photograph's linear colours as a scene. */
async function photograph(path) {
  const options = { fit: "inside", withoutEnlargement: true };
  const { data, info } = await sharp(path).rotate().resize(1600, 1600, options).removeAlpha().toColourspace("srgb").raw().toBuffer({ resolveWithObject: true }); // prettier-ignore
  return { width: info.width, height: info.height, rgb: Float32Array.from(data, (code) => core.SRGB_TRANSFER.decode(code / 255)) }; // prettier-ignore
}

function cut({ width, height, rgb }, x, y, share) {
  const [left, top, w, h] = [x * width, y * height, share * width, share * height].map(Math.floor);
  const rows = Array.from({ length: h }, (_, row) => rgb.subarray(3 * ((top + row) * width + left), 3 * ((top + row) * width + left + w))); // prettier-ignore
  const out = new Float32Array(3 * w * h);
  rows.forEach((row, i) => out.set(row, 3 * w * i));
  return { width: w, height: h, rgb: out };
}

/** Colours of a scene as they are looked at. */
function look(scene) {
  const long = Math.max(scene.width, scene.height);
  const width = Math.round((scene.width * Math.min(core.COLOUR_EDGE, long)) / long);
  const { rgb, height } = camera.resizeScene(scene, width);
  const planes = [0, 1, 2].map((c) => Float32Array.from({ length: width * height }, (_, i) => core.transform3(core.REC709_TO_REC2020, [rgb[3 * i], rgb[3 * i + 1], rgb[3 * i + 2]])[c])); // prettier-ignore
  return { planes, width, height };
}

const gained = (picture, gains) => ({ ...picture, planes: picture.planes.map((plane, c) => plane.map((v) => v * gains[c])) }); // prettier-ignore

/** Noise of a picture at ISO 1600 and thereabouts. */
function noisy(picture) {
  let state = 5;
  const random = () => (state = (state * 1664525 + 1013904223) >>> 0) / 2 ** 32;
  const gauss = () => Math.sqrt(-2 * Math.log(random() + 1e-9)) * Math.cos(2 * Math.PI * random());
  const of = (v) => Math.max(0, v + gauss() * 2 * Math.sqrt(4e-5 * Math.max(0, v) + 1e-7));
  return { ...picture, planes: picture.planes.map((plane) => plane.map(of)) };
}

const familiesOf = (picture) => core.findFamilies(core.colourCells(picture));

/** The family of each pixel that has a colour, else -1. */
function owners({ planes }, families) {
  const places = families.map(core.familyToPlace);
  return Int16Array.from(planes[0], (_, i) => {
    const place = core.familyPlace(planes.map((plane) => Math.max(0, plane[i])));
    if (core.colourShare(place) < 0.5) return -1;
    const far = places.map((other) => core.placeDistance(place, other));
    return far.indexOf(Math.min(...far));
  });
}

/** Share of pixels that stay, families matched one to one. */
function staying(before, after) {
  const shared = new Map();
  let n = 0;
  before.forEach((own, i) => {
    if (own < 0 || after[i] < 0) return;
    n++;
    const of = shared.get(own) ?? new Map();
    shared.set(own, of.set(after[i], (of.get(after[i]) ?? 0) + 1));
  });
  // The best way to match them, over all sets of those that are taken.
  let best = new Map([[0, 0]]);
  for (const of of shared.values()) {
    const next = new Map(best);
    for (const [taken, sum] of best)
      for (const [other, count] of of) {
        const key = taken | (1 << other);
        if (key !== taken) next.set(key, Math.max(next.get(key) ?? 0, sum + count));
      }
    best = next;
  }
  return n ? Math.max(...best.values()) / n : 1;
}

/** The colours of a scene photographed by the camera, as the application finds them. */
async function photographed(heap, scene, iso, seed) {
  const { engine, size, info } = await open(
    heap,
    await camera.shoot(scene, { iso, seed, blurPx: LENS_BLUR_PX }),
    "a.dng",
  );
  const reader = { engine, size, capture: info, fetch: () => Promise.resolve() };
  const { map } = await core.QUESTIONS.colours(reader, { recipe: core.defaultRecipe() });
  return Int16Array.from(map.labels, (label) => (label === core.NEUTRAL_LABEL ? -1 : label));
}

/** The same scenes photographed anew, with the camera's own noise. */
async function photographedAnew(heap, table, scenes) {
  const shares = Object.fromEntries(SPEEDS.map((iso) => [iso, []]));
  for (const file of scenes) {
    const scene = await camera.readScene(join(ROOT, "demo/scenes", file));
    const first = await photographed(heap, scene, SPEEDS[0], 1);
    for (const iso of SPEEDS) shares[iso].push(staying(first, await photographed(heap, scene, iso, 7)));
  }
  const rows = SPEEDS.map((iso) => [`ISO ${iso}`, meanOf(shares[iso]), leastOf(shares[iso])]);
  table(`The same of ${scenes.length} scenes photographed at ISO ${SPEEDS[0]} and once more`, [["", "mean", "least"], ...rows]); // prettier-ignore
}

const percent = (share) => `${(100 * share).toFixed(1)} %`;
const meanOf = (list) => percent(list.reduce((sum, v) => sum + v, 0) / list.length);
const leastOf = (list) => percent(Math.min(...list));

export async function families(heap, table) {
  const scenes = readdirSync(join(ROOT, "demo/scenes")).filter((file) => file.endsWith(".json"));
  await photographedAnew(heap, table, scenes);
  const sources = scenes.map((file) => () => camera.readScene(join(ROOT, "demo/scenes", file)));
  if (FOLDER) for (const file of readdirSync(FOLDER).filter((name) => /\.jpe?g$/i.test(name))) sources.push(() => photograph(join(FOLDER, file))); // prettier-ignore
  const ways = {
    "⅓ stop lighter": (picture) => gained(picture, [THIRD, THIRD, THIRD]),
    "⅓ stop darker": (picture) => gained(picture, [1 / THIRD, 1 / THIRD, 1 / THIRD]),
    "under noise": noisy,
    "white warmer": (picture) => gained(picture, [TWELFTH, 1, 1 / TWELFTH]),
    "white cooler": (picture) => gained(picture, [1 / TWELFTH, 1, TWELFTH]),
  };
  const shares = Object.fromEntries(
    [...Object.keys(ways), "cut to 70 %, mean", "cut to 70 %, worst"].map((way) => [way, []]),
  );
  let count = 0;
  for (const open of sources) {
    const scene = await open();
    const picture = look(scene);
    const found = familiesOf(picture);
    count += found.length;
    for (const [way, change] of Object.entries(ways)) {
      const changed = change(picture);
      shares[way].push(staying(owners(picture, found), owners(changed, familiesOf(changed))));
    }
    const parts = CORNERS.map(([x, y]) => look(cut(scene, x, y, CUT)));
    const cuts = parts.map((part) => staying(owners(part, found), owners(part, familiesOf(part))));
    shares["cut to 70 %, mean"].push(cuts.reduce((sum, share) => sum + share, 0) / cuts.length);
    shares["cut to 70 %, worst"].push(Math.min(...cuts));
  }
  table(
    `Pixels that stay in their family when a picture is looked at again: ${sources.length} pictures, ${(count / sources.length).toFixed(1)} families each`,
    [["", "mean", "least"], ...Object.entries(shares).map(([way, list]) => [way, meanOf(list), leastOf(list)])],
  );
}
