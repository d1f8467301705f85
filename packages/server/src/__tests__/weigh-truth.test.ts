import { mkdtempSync, rmSync, writeFileSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { fileURLToPath } from "node:url";
import { beforeAll, describe, expect, test } from "@jest/globals";
import { shoot } from "@yelm/camera";
import {
  defaultRecipe,
  type Recipe,
  familyPlace,
  filmExposure,
  lookAtColours,
  luminanceToLightness,
  mapFamilies,
  NEUTRAL_LABEL,
  placeDistance,
  REC2020_TO_REC709,
  REC709_TO_REC2020,
  reflectanceToWorking,
  spectrumOf,
  transform3,
  type Engine,
  type FamilyMap,
  type FilmChoice,
  type Vector3,
} from "@yelm/core";
import sharp from "sharp";
import { openEngine } from "../cli/open-engine.ts";

const DEMO = fileURLToPath(new URL("../../../../demo/negatives/", import.meta.url));
const TRUTH = fileURLToPath(new URL("./truth/", import.meta.url));

/** A material of the scene by its surface colour, which light and shade do not change. */
interface Material {
  readonly place: Vector3;
  readonly share: number;
  /** Pixels of the family map that show it. */
  readonly labels: number[];
}

const CELL = 0.06;
/** Materials smaller or greyer than this are not asked about. */
const SMALLEST_SHARE = 0.006;
const LEAST_SATURATION = 0.1;
const CLEARLY_DIFFERENT = 0.15;

/** The scene's materials with the families that a picture of it shows where they are. */
async function materialsOf(scene: string, map: FamilyMap): Promise<Material[]> {
  const { data, info } = await sharp(`${TRUTH}${scene}.albedo.png`).raw().toBuffer({ resolveWithObject: true });
  const found = new Map<string, { sum: number[]; labels: number[] }>();
  for (let i = 0; i < info.width * info.height; i++) {
    const albedo = [0, 1, 2].map((c) => (data[info.channels * i + c] / 255) ** 2) as unknown as Vector3;
    const place = familyPlace(transform3(REC709_TO_REC2020, albedo));
    const x = Math.floor((((i % info.width) + 0.5) / info.width) * map.width);
    const y = Math.floor(((Math.floor(i / info.width) + 0.5) / info.height) * map.height);
    const key = place
      .slice(0, 2)
      .map((v) => Math.round(v / CELL))
      .join();
    const entry = found.get(key) ?? { sum: [0, 0, 0], labels: [] };
    place.forEach((v, c) => (entry.sum[c] += v));
    entry.labels.push(map.labels[y * map.width + x]);
    found.set(key, entry);
  }
  return [...found.values()]
    .map(({ sum, labels }) => ({
      place: sum.map((v) => v / labels.length) as unknown as Vector3,
      share: labels.length / (info.width * info.height),
      labels,
    }))
    .filter(({ place, share }) => share > SMALLEST_SHARE && Math.hypot(place[0], place[1]) > LEAST_SATURATION);
}

function commonest(labels: readonly number[]): { label: number; purity: number } {
  const counts = new Map<number, number>();
  for (const label of labels) counts.set(label, (counts.get(label) ?? 0) + 1);
  const [label, count] = [...counts].sort((p, q) => q[1] - p[1])[0];
  return { label, purity: count / labels.length };
}

describe.each([
  ["dye-works", "orrow-0101.dng"],
  ["dyers-table", "orrow-0106.dng"],
])("families of %s through the camera", (scene, file) => {
  let map: FamilyMap;
  let materials: Material[];
  beforeAll(async () => {
    const { engine, size } = await openEngine(DEMO + file);
    const look = await lookAtColours({ engine, size, fetch: () => Promise.resolve() }, defaultRecipe());
    expect(look.found.length).toBeGreaterThanOrEqual(3);
    expect(look.found.length).toBeLessThanOrEqual(9);
    map = mapFamilies({ families: [...look.found], softness: 0.5, passage: "mixture" }, look.picture, look.cells);
    materials = await materialsOf(scene, map);
  }, 60_000);

  test("three quarters of the materials lie in one family each, and of the worst a third does", () => {
    const whole = materials.reduce((sum, { share }) => sum + share, 0);
    const pure = materials.reduce((sum, { share, labels }) => sum + share * commonest(labels).purity, 0);
    expect(materials.length).toBeGreaterThanOrEqual(6);
    expect(pure / whole).toBeGreaterThan(0.75);
    for (const { labels } of materials) expect(commonest(labels).purity).toBeGreaterThan(0.33);
  });

  test("materials of clearly different colour are never one family, nor neutral", () => {
    let pairs = 0;
    for (const p of materials)
      for (const q of materials) {
        if (placeDistance(p.place, q.place) < CLEARLY_DIFFERENT) continue;
        pairs++;
        expect(commonest(p.labels).label).not.toBe(commonest(q.labels).label);
        expect(commonest(p.labels).label).not.toBe(NEUTRAL_LABEL);
      }
    expect(pairs).toBeGreaterThan(10);
  });
});

test.each(["orrow-0112.dng", "orrow-0113.jpg"])(
  "%s: straw, petals and sky are three families, few in all, though a sixth of the pixels are mixtures",
  async (file) => {
    const { engine, size } = await openEngine(DEMO + file);
    const look = await lookAtColours({ engine, size, fetch: () => Promise.resolve() }, defaultRecipe());
    expect(look.found.length).toBeLessThanOrEqual(6);
    const map = mapFamilies({ families: [...look.found], softness: 0.5, passage: "mixture" }, look.picture, look.cells);
    const cover = sharp(`${TRUTH}straw-bank.cover.png`).removeAlpha().raw();
    const { data, info } = await cover.toBuffer({ resolveWithObject: true });
    const labels: number[][] = [[], [], []];
    for (let y = 0; y < map.height; y++)
      for (let x = 0; x < map.width; x++) {
        const at = Math.floor(((y + 0.5) / map.height) * info.height) * info.width + Math.floor(((x + 0.5) / map.width) * info.width); // prettier-ignore
        for (let c = 0; c < 3; c++) if (data[3 * at + c] > 250) labels[c].push(map.labels[y * map.width + x]);
      }
    const [straw, petals, sky] = labels.map(commonest);
    expect(straw.purity).toBeGreaterThan(0.8);
    expect(petals.purity).toBeGreaterThan(0.7);
    // The sky pales towards the horizon: one blue, or two.
    expect(sky.purity).toBeGreaterThan(0.5);
    expect(new Set([straw.label, petals.label, sky.label]).size).toBe(3);
  },
  60_000,
);

describe("film and filter through the camera", () => {
  const rise = (nm: number, at: number, width: number) => 1 / (1 + Math.exp(-(nm - at) / width));
  const bump = (nm: number, at: number, width: number) => Math.exp(-0.5 * ((nm - at) / width) ** 2);
  const PATCHES = [
    (n: number) => 0.06 + 0.32 * rise(n, 585, 18),
    (n: number) => 0.18 + 0.4 * rise(n, 590, 18) + 0.08 * bump(n, 510, 30),
    (n: number) => 0.1 + 0.15 * bump(n, 540, 50) + 0.2 * rise(n, 690, 15),
    (n: number) => 0.12 + 0.45 * rise(n, 575, 25),
    (n: number) => 0.2 + 0.3 * rise(n, 540, 50),
    (n: number) => 0.15 + 0.4 * (1 - rise(n, 520, 50)),
    (n: number) => 0.08 + 0.15 * bump(n, 450, 50) + 0.1 * rise(n, 720, 20),
    () => 0.2,
  ].map(spectrumOf);
  const EDGE = 64;
  let engine: Engine;
  beforeAll(async () => {
    const rgb = new Float32Array(3 * EDGE * PATCHES.length * EDGE);
    const colours = PATCHES.map((patch) => transform3(REC2020_TO_REC709, reflectanceToWorking(patch)));
    for (let i = 0; i < rgb.length; i++)
      rgb[i] = colours[Math.floor((Math.floor(i / 3) % (EDGE * PATCHES.length)) / EDGE)][i % 3];
    const scene = { width: EDGE * PATCHES.length, height: EDGE, rgb };
    const dng = await shoot(scene, { noise: false });
    const folder = mkdtempSync(join(tmpdir(), "yelm-film-"));
    try {
      writeFileSync(join(folder, "patches.dng"), dng);
      ({ engine } = await openEngine(join(folder, "patches.dng")));
    } finally {
      rmSync(folder, { recursive: true });
    }
  });

  /** L* of each patch in the print. */
  function printed(film: Partial<FilmChoice>): number[] {
    const base = defaultRecipe();
    const recipe = { ...base, weigh: { ...base.weigh, by: "film" as const, film: { ...base.weigh.film, ...film } } };
    const print = engine.prepare(recipe);
    return PATCHES.map((_, i) => {
      const view = { x: EDGE * i + 24, y: 24, width: 16, height: 16, scale: 1, level: 0 };
      const grey = engine.renderReflectance(print, view);
      return luminanceToLightness(grey.reduce((sum, v) => sum + v, 0) / grey.length);
    });
  }

  test.each([
    [{}],
    [{ film: "orthochromatic" }],
    [{ filter: "light yellow" }],
    [{ filter: "orange" }],
    [{ filter: "green" }],
    [{ light: "tungsten" }],
  ] as const)("%j: each grey within 1.5 L* of direct integration over the patch's spectrum", (film) => {
    const choice = { ...defaultRecipe().weigh.film, ...film };
    printed(film).forEach((found, i) =>
      expect(Math.abs(found - luminanceToLightness(filmExposure(PATCHES[i], choice)))).toBeLessThan(1.5),
    );
  });
});

test("a crop that keeps half of a picture keeps its families; what it leaves out is not listed", async () => {
  const { engine, size } = await openEngine(`${DEMO}orrow-0101.dng`);
  const recipe = defaultRecipe();
  const found = async (crop: Recipe["ground"]["crop"]) => {
    const look = await lookAtColours(
      { engine, size, fetch: () => Promise.resolve() },
      { ...recipe, ground: { ...recipe.ground, crop } },
    );
    return look.found.map(({ hueDegrees, saturation, lightness }) => [hueDegrees, saturation, lightness].join());
  };
  const whole = await found(null);
  for (const [centreX, centreY] of [
    [0, 0],
    [0.06, 0.05],
    [-0.07, 0.03],
  ]) {
    const cropped = await found({ centreX, centreY, width: 0.84, height: 0.56 });
    expect(cropped.length).toBeGreaterThan(2);
    expect(whole).toEqual(expect.arrayContaining(cropped));
  }
  // A small piece is a picture of its own.
  const piece = await found({ centreX: -0.2, centreY: -0.2, width: 0.2, height: 0.15 });
  expect(whole).not.toEqual(expect.arrayContaining(piece));
}, 60_000);
