import { expect, test, type Page } from "@playwright/test";
import type { Negative } from "@yelm/core";
import { exported, greyAt, readCanvas, savedRecipe, settle, Yelm } from "./yelm.ts";

let yelm: Yelm;
let negatives: Negative[];
test.beforeAll(async () => {
  yelm = await Yelm.start(["orrow-0103.dng", "orrow-0104.dng", "orrow-0111.dng"]);
  negatives = await yelm.get<Negative[]>("/negatives");
});
test.afterAll(() => yelm.stop());

type Place = readonly [number, number];

/** Opens a picture's first print in Light. */
async function openLight(page: Page, file: string) {
  const { id: negativeId } = negatives.find(({ fileName }) => fileName === file)!;
  const [{ id }] = await yelm.get<{ id: string }[]>(`/prints?negative=${negativeId}`);
  await page.goto(`${yelm.url}/prints/${id}`);
  await settle(page);
  await page.keyboard.press("5");
  const box = (await page.getByTestId("picture-canvas").boundingBox())!;
  const at = ([x, y]: Place): [number, number] => [box.x + x * box.width, box.y + y * box.height];
  return {
    id,
    moves: async () => (await savedRecipe(yelm, page, id)).light.moves,
    /** With the pointer, a button held, along places. */
    drag: async (...along: readonly Place[]) => {
      await page.mouse.move(...at(along[0]));
      await page.mouse.down();
      for (const place of along.slice(1)) await page.mouse.move(...at(place), { steps: 8 });
      await page.mouse.up();
    },
  };
}

async function type(page: Page, label: string, value: string): Promise<void> {
  const field = page.getByLabel(`${label}, number`, { exact: true });
  await field.fill(value);
  await field.press("Enter");
}

test("eyes are lifted, the darker one less; the background is burned with spill, by a curve too; halved, opened again, and the file is the screen", async ({
  page,
}) => {
  const { id, moves, drag } = await openLight(page, "orrow-0104.dng");
  const [BRIGHT, DARK, SHELF, HAIR, RUFF] = [[0.478, 0.425], [0.572, 0.425], [0.165, 0.475], [0.43, 0.25], [0.6, 0.88]] as const; // prettier-ignore
  const greys = async (...places: readonly Place[]) => {
    const all: number[] = [];
    for (const [x, y] of places) all.push(await greyAt(page, x, y, 2));
    return all;
  };
  const before = await greys(BRIGHT, DARK, SHELF, RUFF);
  for (const [[x, y], stops] of [
    [BRIGHT, "+2/3"],
    [DARK, "+1/3"],
  ] as const) {
    await page.keyboard.press("e");
    await drag([x, y], [x + 0.035, y + 0.03]);
    await type(page, "Stops", stops);
  }
  await expect.poll(async () => (await moves()).map(({ stops }) => Math.round(3 * stops))).toEqual([2, 1]);
  await settle(page);
  const lifted = await greys(BRIGHT, DARK, SHELF, RUFF);
  expect(lifted[0] - before[0]).toBeGreaterThan(lifted[1] - before[1]);
  expect(lifted[1] - before[1]).toBeGreaterThan(4);
  expect(lifted.slice(2)).toEqual(before.slice(2));

  await page.keyboard.press("Escape");
  await page.keyboard.press("p");
  await type(page, "Flow", "100");
  await drag([0.05, 0.2], [0.25, 0.2], [0.25, 0.45], [0.08, 0.5], [0.2, 0.65]);
  await type(page, "Stops", "-1.5");
  await page.keyboard.press("Escape");
  await settle(page);
  const [shelf, hair] = await greys(SHELF, HAIR);
  expect(shelf).toBeLessThan(before[2] - 10);
  await page.getByRole("button", { name: "Curve of the move" }).click();
  const chart = page.getByTestId("curve");
  await chart.scrollIntoViewIfNeeded();
  const box = (await chart.boundingBox())!;
  await page.mouse.move(box.x + 0.5 * box.width, box.y + 0.6 * box.height);
  await page.mouse.down();
  await page.mouse.move(box.x + 0.5 * box.width, box.y + 0.75 * box.height, { steps: 5 });
  await page.mouse.up();
  await expect.poll(async () => (await moves())[2].curve.length).toBe(3);
  await settle(page);
  const curved = await greys(SHELF, HAIR, RUFF);
  expect(curved[0]).toBeLessThan(shelf - 3);
  expect([Math.abs(curved[1] - hair) < 2, curved[2]]).toEqual([true, before[3]]);

  await page.keyboard.press("Shift+H");
  await expect.poll(async () => (await moves()).map(({ amountPercent }) => amountPercent)).toEqual([50, 50, 50]);
  await settle(page);
  const halved = await readCanvas(page);
  await page.reload();
  await settle(page);
  const again = await readCanvas(page);
  expect(Buffer.compare(Buffer.from(again.rgba), Buffer.from(halved.rgba))).toBe(0);
  const { data, info } = await exported(yelm, id, again.width);
  expect([info.width, Math.abs(info.height - again.height) <= 1]).toEqual([again.width, true]);
  const off: number[] = [];
  for (let y = 0; y < Math.min(info.height, again.height); y += 3)
    for (let x = 0; x < info.width; x += 3)
      off.push(Math.abs(data[(y * info.width + x) * info.channels] - again.rgba[4 * (y * again.width + x)]));
  off.sort((p, q) => p - q);
  expect(off.reduce((sum, v) => sum + v, 0) / off.length).toBeLessThan(1);
  expect(off[Math.floor(0.99 * off.length)]).toBeLessThanOrEqual(4);
});

test("the crockery's shadows are built zone by zone, its lights left alone", async ({ page }) => {
  const { moves, drag } = await openLight(page, "orrow-0111.dng");
  await page.keyboard.press("v");
  await drag([0.04, 0.5], [0.5, 0.25], [0.97, 0.55], [0.96, 0.95], [0.3, 0.97], [0.05, 0.9], [0.04, 0.52]);
  await expect.poll(async () => (await moves()).length).toBe(1);
  await type(page, "Stops", "0");
  await settle(page);
  const before = await readCanvas(page);
  await page.keyboard.press("z");
  const zones = page.getByRole("list", { name: "Zones inside the shape" }).getByRole("listitem");
  await expect(zones.first()).toContainText("%");
  // Down to the darkest that is found, and up from there: the darks lifted by sixths, each by itself.
  const count = await zones.count();
  for (let i = 0; i < count; i++) await page.keyboard.press("ArrowDown");
  for (const presses of [3, 2]) {
    for (let i = 0; i < presses; i++) await page.keyboard.press("ArrowRight");
    await page.keyboard.press("ArrowUp");
  }
  const sixths = async () => (await moves())[0].byZone.map((stops) => Math.round(6 * stops));
  await expect.poll(async () => (await sixths()).filter((stops) => stops !== 0)).toEqual([3, 2]);
  await settle(page);
  const after = await readCanvas(page);
  // What was dark inside is lighter, what was light is as it was.
  const inside = (i: number) => {
    const [x, y] = [(i % before.width) / before.width, Math.floor(i / before.width) / before.height];
    return x > 0.2 && x < 0.8 && y > 0.5 && y < 0.85;
  };
  const darkest = (await sixths()).findIndex((stops) => stops !== 0);
  const change: Record<"darks" | "lights", number[]> = { darks: [], lights: [] };
  for (let i = 0; i < before.width * before.height; i++) {
    if (!inside(i)) continue;
    const grey = before.rgba[4 * i];
    const by = after.rgba[4 * i] - grey;
    // Codes of Zone I are about 27, and 25 more for each of the next.
    if (grey < 27 + 25 * (darkest + 0.5)) change.darks.push(by);
    else if (grey > 27 + 25 * (darkest + 3)) change.lights.push(by);
  }
  const mean = (values: number[]) => values.reduce((sum, v) => sum + v, 0) / values.length;
  expect(change.darks.length).toBeGreaterThan(50);
  expect(mean(change.darks)).toBeGreaterThan(5);
  expect(Math.abs(mean(change.lights))).toBeLessThan(0.6);
  await page.keyboard.press("Control+z");
  await expect.poll(async () => (await sixths()).filter((stops) => stops !== 0)).toEqual([3, 1]);
});

test("the marsh's light is strengthened by two ramps, whose group has an amount of its own", async ({ page }) => {
  const { moves, drag } = await openLight(page, "orrow-0103.dng");
  const [LIT, SHADED, MIDDLE] = [[0.9, 0.45], [0.08, 0.6], [0.52, 0.6]] as const; // prettier-ignore
  const greys = async () => [await greyAt(page, ...LIT), await greyAt(page, ...SHADED), await greyAt(page, ...MIDDLE)];
  const before = await greys();
  for (const [along, stops] of [
    [
      [
        [0.85, 0.4],
        [0.6, 0.4],
      ],
      "+1/2",
    ],
    [
      [
        [0.15, 0.5],
        [0.4, 0.5],
      ],
      "-1/2",
    ],
  ] as const) {
    // prettier-ignore
    await page.keyboard.press("a");
    await drag(...along);
    await type(page, "Stops", stops);
    await page.keyboard.press("Escape");
    const group = page.getByLabel("Group of the move");
    await group.selectOption(stops === "+1/2" ? "new" : { label: "Group 1" });
  }
  await expect.poll(async () => new Set((await moves()).map(({ group }) => group || "none"))).toHaveProperty("size", 1);
  await settle(page);
  const ramped = await greys();
  expect(ramped[0] - before[0]).toBeGreaterThan(6);
  expect(ramped[1] - before[1]).toBeLessThan(-6);
  expect(Math.abs(ramped[2] - before[2])).toBeLessThan(2);
  await type(page, "Group amount", "200");
  await settle(page);
  const strong = await greys();
  expect(strong[0] - ramped[0]).toBeGreaterThan(4);
  expect(strong[1] - ramped[1]).toBeLessThan(-4);
});
