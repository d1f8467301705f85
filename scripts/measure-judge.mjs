// What a second look finds, on recipes that plant a fault or do not: recall and precision by kind, on the demo's negatives.
import { readdirSync } from "node:fs";
import { join } from "node:path";
import * as core from "@yelm/core";
import { ROOT } from "./run.mjs";

const RECIPES = 200;
/** Pictures with long lines that are level or upright; in the others nobody can tell a lean. */
const WITH_LINES = ["0101", "0102", "0112", "0113"];
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

/** Neighbours of one grey, planted by bringing a family onto another's grey. */
async function plantMerge(reader, recipe, random) {
  const { map } = await core.QUESTIONS.colours(reader, { recipe });
  const count = recipe.weigh.families.length;
  const reading = await core.weighReading(reader, recipe);
  const pairs = core
    .findNeighbours(reading.probe, map.boundaries)
    .filter(
      ({ first, second, colourDifference, length }) =>
        first < count &&
        second < count &&
        colourDifference > 25 &&
        length > 0.15 &&
        map.facts[first].share > 0.05 &&
        map.facts[second].share > 0.05,
    );
  if (pairs.length === 0) return null;
  const pair = pairs[Math.floor(random() * pairs.length)];
  const greys = reading.probe.greys();
  const zone = greys[pair.second].lightness / 10;
  if (zone < 2.5) return null;
  const { weigh } = await core.QUESTIONS.solve(reader, { recipe, goal: { kind: "zone", family: pair.first, zone } });
  const after = await core.weighReading(reader, { ...recipe, weigh });
  const apart = Math.abs(after.probe.greys()[pair.first].lightness - after.probe.greys()[pair.second].lightness);
  return apart < 3 ? { ...recipe, weigh } : null;
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
      if (random() < 0.5) {
        const merged = await plantMerge(reader, recipe, random);
        if (merged) {
          recipe = merged;
          planted.add("merged");
        }
      }
      for (const look of ["ends", "halo", "lean", "merged"]) {
        const found = await core.QUESTIONS.lookFor(reader, { recipe, plan, look });
        const kinds = new Set(found.map(({ kind }) => kind));
        const kind = { ends: "clipped white", halo: "halo", lean: "lean", merged: "merged" }[look];
        count(kind, planted.has(kind), kinds.has(kind));
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
