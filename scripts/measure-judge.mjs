// What a second look finds, on recipes that plant a fault or do not: recall and precision by kind, on the demo's negatives.
import { readdirSync } from "node:fs";
import { join } from "node:path";
import * as core from "@yelm/core";
import { ROOT } from "./run.mjs";

const RECIPES = 200;
/** Long edge at which halos are measured, pixels. */
const HALO_EDGE = 900;
/** Pictures with long lines that are level or upright; in the others nobody can tell a lean. */
const WITH_LINES = ["0101", "0102", "0112", "0113"];
/** Made at night: its sky is dark by itself. */
const NIGHT = "0109";
const plan = core.defaultNotes().plan;

function seeded(seed) {
  let state = seed;
  return () => {
    state = (state + 0x6d2b79f5) | 0;
    let t = Math.imul(state ^ (state >>> 15), state | 1);
    t ^= t + Math.imul(t ^ (t >>> 7), t | 61);
    return ((t ^ (t >>> 14)) >>> 0) / 4294967296;
  };
}

/** A print without the faults: its points at the first specks, its neighbours parted. */
async function sound(reader) {
  let recipe = core.defaultRecipe();
  for (const [field, end] of [
    ["whitePoint", "white"],
    ["blackPoint", "black"],
  ]) {
    const ends = await core.QUESTIONS.ends(reader, { recipe });
    const point = core.pointAtFirstSpeck(ends, recipe.shape, end, core.rangeOf(core.shapeSchema, field));
    if (point !== null) recipe = { ...recipe, shape: { ...recipe.shape, [field]: point } };
  }
  const { families } = await core.QUESTIONS.colours(reader, { recipe });
  recipe = { ...recipe, weigh: { ...recipe.weigh, families: [...families] } };
  const { weigh } = await core.QUESTIONS.solve(reader, { recipe, goal: { kind: "part all" } });
  return { ...recipe, weigh };
}

const between = (random, low, high) => low + (high - low) * random();

const PLANTS = {
  halo: (recipe, random) => ({
    ...recipe,
    shape: {
      ...recipe.shape,
      localContrast: { low: between(random, 1.2, 2), mid: between(random, 1.2, 2), high: between(random, 1.2, 2) },
      detail: { ...recipe.shape.detail, broad: between(random, 0.5, 1) },
    },
  }),
  "clipped white": (recipe, random) => ({
    ...recipe,
    shape: { ...recipe.shape, whitePoint: Math.max(0.25, recipe.shape.whitePoint - between(random, 1.5, 3)) },
  }),
  lean: (recipe, random) => ({
    ...recipe,
    ground: { ...recipe.ground, angleDegrees: (random() < 0.5 ? -1 : 1) * between(random, 1.5, 5) },
  }),
};

/** A small light that the frame cuts, at a place of the border; the capture's own corner of it keeps its texture. */
function brightSpot(size, random) {
  const edge = Math.max(size.width, size.height);
  const along = between(random, 0.12, 0.88);
  const [u, v] = [
    [along, 0.01],
    [along, 0.99],
    [0.01, along],
    [0.99, along],
  ][Math.floor(4 * random())];
  const radius = between(random, 0.04, 0.06);
  return {
    kind: "ellipse",
    x: (u * size.width) / edge,
    y: (v * size.height) / edge,
    radiusX: radius,
    radiusY: radius,
    angleDegrees: 0,
    softness: 0.3,
  };
}

/** How far a spot stands out of what is about it, and its lightness, L*: measured on the print at the ellipse itself. */
function spotOf({ engine }, recipe, size, { x, y, radiusX }) {
  const print = engine.prepare(recipe);
  const view = core.wholeView(print.frame, size, 400);
  const lightness = Array.from(engine.renderReflectance(print, view), (r) => core.luminanceToLightness(Math.min(1, r)));
  const edge = Math.max(size.width, size.height);
  const [inside, around] = [[], []];
  lightness.forEach((value, i) => {
    const [px, py] = [(i % view.width) + 0.5, Math.floor(i / view.width) + 0.5];
    const away =
      Math.hypot((px / view.width) * size.width - x * edge, (py / view.height) * size.height - y * edge) / edge;
    if (away < 0.6 * radiusX) inside.push(value);
    else if (away > 1.2 * radiusX && away < 3 * radiusX) around.push(value);
  });
  const mean = (values) => values.reduce((sum, v) => sum + v, 0) / Math.max(1, values.length);
  return { contrast: mean(inside) - mean(around), lightness: mean(inside) };
}
/** What is left of each without the fault: changes that any good print may have. */
const GOOD = (recipe, random) => ({
  ...recipe,
  shape: {
    ...recipe.shape,
    grade: between(random, 1.8, 2.3),
    localContrast: { low: between(random, 0, 0.25), mid: between(random, 0, 0.3), high: between(random, 0, 0.2) },
    openShadows: between(random, 0, 0.4),
  },
});

/**
 * How much farther apart the two sides of an edge are near it than away from it, L*, at the worst tenth of the edges: of what one curve
 * for the whole picture does not explain.
 */
function haloOf({ engine, size }, recipe) {
  const { localContrast, detail, openShadows, holdHighlights } = core.defaultRecipe().shape;
  const lightnessOf = (of) => {
    const print = engine.prepare(of);
    const view = core.wholeView(print.frame, size, HALO_EDGE);
    const reflectance = engine.renderReflectance(print, view);
    return { view, lightness: Float32Array.from(reflectance, (r) => core.luminanceToLightness(Math.min(1, r))) };
  };
  const spatial = { localContrast, detail, openShadows, holdHighlights };
  const { view, lightness } = lightnessOf(recipe);
  const plain = lightnessOf({ ...recipe, shape: { ...recipe.shape, ...spatial } }).lightness;
  // What the middle print of each lightness becomes.
  const bins = Array.from({ length: 101 }, () => []);
  plain.forEach((v, i) => bins[Math.round(v)].push(lightness[i]));
  const curve = bins.map((values) => values.sort((p, q) => p - q)[values.length >> 1] ?? null);
  for (let i = 1; i <= 100; i++) curve[i] ??= curve[i - 1];
  for (let i = 99; i >= 0; i--) curve[i] ??= curve[i + 1];
  const rest = lightness.map((v, i) => {
    const low = Math.min(99, Math.floor(plain[i]));
    return v - (curve[low] + (curve[low + 1] - curve[low]) * (plain[i] - low));
  });
  const [near, far] = [0.01, 0.045].map((share) => Math.round(share * HALO_EDGE));
  const mean = (values, x, y) => {
    let sum = 0;
    for (let k = 0; k < 9; k++) sum += values[(y - 1 + Math.floor(k / 3)) * view.width + x - 1 + (k % 3)];
    return sum / 9;
  };
  const found = [];
  for (let y = far + 4; y < view.height - far - 4; y += 3)
    for (let x = far + 4; x < view.width - far - 4; x += 3) {
      const [gx, gy] = [mean(plain, x + 3, y) - mean(plain, x - 3, y), mean(plain, x, y + 3) - mean(plain, x, y - 3)];
      const slope = Math.hypot(gx, gy);
      if (slope < 8) continue;
      const at = (values, by) => mean(values, Math.round(x + (gx / slope) * by), Math.round(y + (gy / slope) * by));
      if (at(plain, near) - at(plain, -near) < 14) continue;
      found.push(at(rest, near) - at(rest, -near) - (at(rest, far) - at(rest, -far)));
    }
  if (found.length < 40) return 0;
  return found.sort((p, q) => q - p)[Math.floor(0.1 * found.length)];
}

/** Neighbours of different colour, not light and shade of one thing, with a common edge: clearly so, or perhaps. */
async function pairsOf(reader, recipe, clearly) {
  const { map, probe } = await core.weighReading(reader, recipe);
  const place = (k) => core.familyPlace(map.facts[k].working);
  return core
    .findNeighbours(probe, map.boundaries)
    .filter(
      ({ first, second, colourDifference, length }) =>
        colourDifference > (clearly ? 18 : 14) &&
        length > (clearly ? 0.08 : 0.035) &&
        core.placeDistance(place(first), place(second)) > (clearly ? 0.14 : 0.03),
    )
    .map(({ first, second }) => ({ first, second, colours: [first, second].map((k) => map.facts[k].working) }));
}

/** Three weights by which two colours print as one grey, as near to plain luminance as may be. */
function mergingWeights({ colours: [p, q] }) {
  const plain = core.REC2020.luminance;
  const d = p.map((v, c) => v - q[c]);
  // The nearest weights of sum 1 that are at right angles to the difference.
  const mean = d.reduce((sum, v) => sum + v, 0) / 3;
  const level = d.map((v) => v - mean);
  const size = level.reduce((sum, v) => sum + v * v, 0);
  const off = plain.reduce((sum, w, c) => sum + w * d[c], 0);
  return plain.map((w, c) => w - (off * level[c]) / Math.max(1e-9, size));
}

/** Least difference of two such neighbours, L*: means over their pixels, measured on the print itself. */
async function leastApart(reader, recipe, pairs) {
  const { map } = await core.weighReading(reader, recipe);
  const print = reader.engine.prepare(recipe);
  const view = core.wholeView(print.frame, reader.size, Math.max(map.width, map.height));
  const sums = map.facts.map(() => [0, 0]);
  reader.engine.renderReflectance(print, view).forEach((r, i) => {
    const sum = sums[Math.min(map.labels[i], map.facts.length - 1)];
    sum[0] += core.luminanceToLightness(Math.min(1, r));
    sum[1]++;
  });
  const means = sums.map(([sum, count]) => sum / Math.max(1, count));
  const apart = pairs.map(({ first, second }) => [means[first], means[second]]);
  return Math.min(...apart.filter((both) => Math.max(...both) > 16).map(([p, q]) => Math.abs(p - q)), Infinity);
}

/** Share of the print that is bare paper, at half size. */
function bareShare({ engine }, recipe) {
  const print = engine.prepare(recipe);
  const view = { x: 0, y: 0, ...core.scaledSize(print.frame, 0.5), scale: 0.5, level: 0 };
  let bare = 0;
  const rows = 256;
  for (let y = 0; y < view.height; y += rows) {
    const band = { ...view, y, height: Math.min(rows, view.height - y) };
    for (const r of engine.renderReflectance(print, band)) if (r > core.BARE) bare++;
  }
  return bare / (view.width * view.height);
}

export async function judging(openEngine, table) {
  const files = readdirSync(join(ROOT, "demo/negatives"))
    .filter((name) => /\.(dng|jpg)$/.test(name))
    .sort();
  const counts = {};
  const count = (kind, planted, found) => {
    counts[kind] ??= { hit: 0, missed: 0, wrong: 0, quiet: 0 };
    counts[kind][planted ? (found ? "hit" : "missed") : found ? "wrong" : "quiet"]++;
  };
  const random = seeded(2027);
  const eye = { tried: 0, first: 0 };
  const each = Math.ceil(RECIPES / files.length);
  for (const file of files) {
    const { engine, info, size } = await openEngine(join(ROOT, "demo/negatives", file));
    const reader = { engine, size, capture: info, fetch: () => Promise.resolve() };
    const base = await sound(reader);
    const hasLines = WITH_LINES.some((number) => file.includes(number));
    for (let i = 0; i < each; i++) {
      let recipe = GOOD(base, random);
      const planted = new Set();
      for (const [kind, plant] of Object.entries(PLANTS)) {
        if (random() < 0.5 || (kind === "lean" && !hasLines)) continue;
        recipe = plant(recipe, random);
        planted.add(kind);
      }
      const plain = {
        ...recipe,
        weigh: { ...recipe.weigh, families: recipe.weigh.families.map((family) => ({ ...family, stops: 0 })) },
      };
      const pairs = await pairsOf(reader, plain, true);
      const perhaps = await pairsOf(reader, plain, false);
      let weights =
        pairs.length > 0 && random() < 0.5 ? mergingWeights(pairs[Math.floor(random() * pairs.length)]) : null;
      if (!weights || weights.some((w) => w < -0.6 || w > 1.5)) {
        const [red, green] = [between(random, -0.2, 1.1), between(random, -0.1, 1)];
        weights = [red, green, 1 - red - green];
      }
      const [red, green, blue] = weights;
      const weighed = { ...plain, weigh: { ...plain.weigh, by: "weights", red, green, blue } };
      // What is there is measured on the print itself; what is neither clearly there nor clearly not is left out.
      const bare = bareShare(reader, recipe);
      const halo = haloOf(reader, recipe);
      const [apart, all] = [await leastApart(reader, weighed, pairs), await leastApart(reader, weighed, perhaps)];
      const truth = {
        "clipped white": bare > 0.003 ? true : bare < 0.0008 ? false : null,
        halo: halo > 5 ? true : halo < 2.5 ? false : null,
        lean: planted.has("lean"),
        merged: apart < 4 ? true : all > 6.5 ? false : null,
      };
      const spot = random() < 0.5 ? brightSpot(size, random) : null;
      const level = GOOD(base, random);
      const lit = spot ? core.withMoves(level, [core.moveOf("Spot", spot, between(random, 2, 4))]) : level;
      const spotted = spot && spotOf(reader, lit, size, spot);
      truth["bright edge"] = !spot ? false : spotted.contrast > 45 && spotted.lightness > 80 ? true : null;
      const sky =
        i < 6 && !file.includes(NIGHT)
          ? (await core.QUESTIONS.readyRegions(reader, { recipe })).find(({ shape }) => shape.of === "sky")
          : null;
      const inked =
        sky && i % 2 === 0 ? core.withMoves(level, [core.moveOf("Sky", sky.shape, -between(random, 4, 6))]) : level;
      truth["ink sky"] = sky ? i % 2 === 0 : null;
      const prints = { "bright edge": lit, "ink sky": inked, merged: weighed };
      for (const [look, kind] of Object.entries({
        ends: "clipped white",
        halo: "halo",
        lean: "lean",
        merged: "merged",
        edges: "bright edge",
        sky: "ink sky",
      })) {
        if (truth[kind] === null) continue;
        const found = await core.QUESTIONS.lookFor(reader, {
          recipe: prints[kind] ?? recipe,
          plan,
          look,
        });
        count(
          kind,
          truth[kind],
          found.some((one) => one.kind === kind),
        );
      }
      if (i < 2) {
        // A subject anywhere in the inner picture, and whether the moves that are proposed bring it first.
        const [x, y] = [between(random, 0.3, 0.7), between(random, 0.3, 0.7)];
        const edge = Math.max(size.width, size.height);
        const points = Array.from({ length: 16 }, (_, k) => [(x * size.width) / edge + 0.09 * Math.cos((k * Math.PI) / 8), (y * size.height) / edge + 0.09 * Math.sin((k * Math.PI) / 8)]); // prettier-ignore
        const marks = [{ id: "s", kind: "subject", shape: { kind: "outline", points, spread: 0.02 } }];
        const before = await core.QUESTIONS.eye(reader, { recipe: base, plan: { ...plan, marks } });
        if (before.subject === 1) continue;
        const mend = await core.QUESTIONS.eyeMend(reader, { recipe: base, plan: { ...plan, marks } });
        eye.tried++;
        if (mend && (await core.QUESTIONS.eye(reader, { recipe: mend.recipe, plan: { ...plan, marks } })).subject === 1)
          eye.first++;
      }
    }
  }
  const rows = [["fault", "planted", "found", "recall", "wrongly found", "precision"]];
  for (const [kind, { hit, missed, wrong }] of Object.entries(counts))
    rows.push([kind, hit + missed, hit, (hit / (hit + missed)).toFixed(3), wrong, (hit / (hit + wrong)).toFixed(3)]);
  table(`A second look at ${each * files.length} seeded prints`, rows);
  table("Moves that bring a subject first", [
    ["subjects not first", "brought first"],
    [eye.tried, eye.first],
  ]);
}
