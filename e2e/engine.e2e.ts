import { rm } from "node:fs/promises";
import { join } from "node:path";
import {
  Engine,
  exactLevel,
  factsOf,
  levelCount,
  newShape,
  plainMove,
  scaledSize,
  type LinearTiles,
  type Recipe,
  type Size,
  type TilePlace,
} from "@yelm/core";
import { openCapture, openKernels } from "@yelm/server";
import { expect, test, type Page } from "@playwright/test";
import { readCanvas, ROOT, settle, Yelm } from "./yelm.ts";

interface PrintRecord {
  readonly id: string;
  readonly negativeId: string;
  readonly recipe: Recipe;
}

const FILES = ["orrow-0101.dng", "orrow-0105.dng", "orrow-0109.dng"];
let yelm: Yelm;
test.beforeAll(async () => {
  yelm = await Yelm.start(FILES);
});
test.afterAll(() => yelm.stop());

/** The same negative opened here, in this process. */
async function openHere(file: string) {
  const heap = await openKernels();
  const kept = new Map<string, Uint16Array>();
  const key = ({ level, column, row }: TilePlace) => `${level}/${column}/${row}`;
  let size: Size = { width: 0, height: 0 };
  const { info } = await openCapture(heap, join(ROOT, "demo/negatives", file), file, (whole) => {
    size = { width: whole.width, height: whole.height };
    return (place, halves) => void kept.set(key(place), halves);
  });
  const tiles: LinearTiles = { size, tile: (place) => kept.get(key(place))! };
  return { engine: new Engine(heap, tiles, factsOf(info)), size };
}

async function printsByFile(): Promise<PrintRecord[]> {
  const negatives = await yelm.get<{ id: string; fileName: string }[]>("/negatives");
  const prints = await yelm.get<PrintRecord[]>("/prints");
  return FILES.map((file) => prints.find((p) => p.negativeId === negatives.find((n) => n.fileName === file)!.id)!);
}

/** One move acts on all tones alike, one by zone, one looks at the picture in every way. */
const EVEN = plainMove();
const RICH = {
  limits: { families: [], edges: 0.3, follow: 0.5 },
  effects: {
    grade: 0.3,
    gradeZone: 4,
    open: 0.4,
    hold: 0.2,
    local: 0.4,
    fine: 0.3,
    softness: 0.3,
    haze: 0.3,
    tone: 0.5,
    grain: -0.5,
  },
};
const BY_ZONE = { zones: { from: 2, to: 10 }, byZone: [0, 0, 0, 0.3, 0, -0.2, 0, 0, 0, 0, 0] };

/** Gives a print a recipe that uses every stage. */
async function makeBusy(id: string, seed: number): Promise<Recipe> {
  const { recipe, head } = await yelm.get<PrintRecord & { head: string }>(`/prints/${id}`);
  const ellipse = { kind: "ellipse", x: 0.5, y: 0.3, radiusX: 0.2, radiusY: 0.15, angleDegrees: 20, softness: 0.8 };
  const points = [
    [0.1, 0.1, 1],
    [0.6, 0.2, 0.7],
  ];
  const brush = { kind: "brush", strokes: [{ id: "s1", radius: 0.1, softness: 1, flow: 0.4, erase: false, points }] };
  const move = { on: true, amountPercent: 100, invert: false, ...EVEN };
  const value = (path: string, v: unknown) => ({ op: "set", path, value: v });
  const changes = [
    value("ground/angleDegrees", seed),
    value("weigh/red", 0.9),
    value("weigh/blue", -0.3),
    value("shape/grade", 2.8),
    value("shape/characteristic", "film"),
    value("shape/localContrast", { low: 0.3, mid: 0.4, high: -0.2 }),
    value("shape/detail", { fine: 0.3, middle: 0, broad: 0.2 }),
    value("shape/openShadows", 0.5),
    value("shape/haze", 0.3),
    value("shape/scatter", { glow: 0.2, reach: 0.02, softness: 0.2 }),
    value("shape/sharpening/amount", 0.7),
    { op: "put", list: "light/moves", item: { ...move, id: "e", name: "E", stops: 0.7, shape: ellipse }, after: null },
    {
      op: "put",
      list: "light/moves",
      item: { ...move, ...BY_ZONE, id: "b", name: "B", stops: -1, shape: brush },
      after: "e",
    },
    {
      op: "put",
      list: "light/moves",
      item: { ...move, ...RICH, id: "r", name: "R", stops: -0.4, shape: newShape("region", 0.5, 0.3) },
      after: "b",
    },
    value("finish/grain/granularity", 14),
    value("finish/toning/toner", "selenium"),
    value("finish/edgeBurn/stops", -0.5),
  ];
  const response = await fetch(`${yelm.url}/api/prints/${id}/revisions`, {
    method: "POST",
    headers: { "content-type": "application/json" },
    body: JSON.stringify({
      id: `busy-${seed}`,
      base: head,
      changes,
      label: "Everything",
      station: "Shape",
      at: new Date().toISOString(),
    }),
  });
  expect([response.status, await response.clone().text()]).toEqual([201, expect.anything()]);
  expect(recipe.shape.grade).toBe(2);
  return ((await response.json()) as PrintRecord).recipe;
}

/** Where the canvas lies in the scaled picture. */
async function scaleOf(page: Page): Promise<number> {
  return Number(await page.getByTestId("picture-canvas").getAttribute("data-scale"));
}

test("the browser and this process compute the same picture to the bit, grain and dither included", async ({
  page,
}) => {
  const prints = await printsByFile();
  for (const [i, print] of prints.entries()) {
    const recipe = await makeBusy(print.id, i + 1);
    await page.goto(`${yelm.url}/prints/${print.id}`);
    await settle(page);
    const scale = await scaleOf(page);
    const { width, height, rgba } = await readCanvas(page);
    const { engine, size } = await openHere(FILES[i]);
    const prepared = engine.prepare(recipe);
    expect(scaledSize(prepared.frame, scale)).toEqual({ width, height });
    const view = { x: 0, y: 0, width, height, scale, level: exactLevel({ width, height }, scale, levelCount(size)) };
    const here = engine.renderRgba(prepared, view);
    let differing = 0;
    for (let b = 0; b < here.length; b++) if (here[b] !== rgba[b]) differing++;
    expect([FILES[i], differing]).toEqual([FILES[i], 0]);
  }
});

test("workers that die, render and tile worker alike, are replaced, and the picture is drawn again", async ({
  page,
}) => {
  const [print] = await printsByFile();
  await page.addInitScript(() => {
    // Keeps hold of the workers, so that the test can make one fail the way a crash does.
    const made: Worker[] = [];
    const Real = Worker;
    class Watched extends Real {
      constructor(...args: ConstructorParameters<typeof Worker>) {
        super(...args);
        // The one that keeps a picture for the next time comes and goes.
        if (!String(args[0]).includes("keep-worker")) made.push(this);
      }
    }
    Object.assign(window, { Worker: Watched, workersMade: made });
  });
  await page.goto(`${yelm.url}/prints/${print.id}`);
  await settle(page);
  const before = await readCanvas(page);
  const count = () => page.evaluate(() => (window as unknown as { workersMade: Worker[] }).workersMade.length);
  // With those that wait for the next print, which die like the others.
  let workers = 0;
  const settled = async () => {
    const before = workers;
    workers = await count();
    return workers >= 2 && workers === before;
  };
  await expect.poll(settled, { intervals: [900] }).toBe(true);
  await page.evaluate(() => {
    // The newest first: those that wait die before they are needed.
    for (const worker of (window as unknown as { workersMade: Worker[] }).workersMade.toReversed()) {
      worker.terminate();
      worker.dispatchEvent(new ErrorEvent("error", { message: "out of memory" }));
    }
  });
  await page.keyboard.press("2");
  await page.getByLabel("Exposure, number", { exact: true }).fill("1");
  await page.getByLabel("Exposure, number", { exact: true }).press("Enter");
  await settle(page);
  await expect.poll(count).toBe(2 * workers);
  const after = await readCanvas(page);
  const mean = (rgba: Uint8Array) => rgba.reduce((s, v) => s + v, 0) / rgba.length;
  expect(mean(after.rgba)).toBeGreaterThan(mean(before.rgba) + 10);
});

test("tiles that vanish or are cut short on the disk are made again, unseen by the user", async ({ page }) => {
  const [, print] = await printsByFile();
  await yelm.kill();
  await rm(join(yelm.data, "tiles"), { recursive: true });
  await yelm.up();
  await page.goto(`${yelm.url}/prints/${print.id}`);
  await settle(page);
  await expect(page.getByText(/could not be read/)).toHaveCount(0);
  expect((await readCanvas(page)).rgba.some((v) => v > 100)).toBe(true);
});
