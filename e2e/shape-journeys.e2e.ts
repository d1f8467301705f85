import { expect, test, type Page } from "@playwright/test";
import type { Negative, Recipe } from "@yelm/core";
import { allSaved, greyAt, lightnessOfCode, readCanvas, savedRecipe, settle, Yelm } from "./yelm.ts";

let yelm: Yelm;
let negatives: Negative[];
test.beforeAll(async () => {
  yelm = await Yelm.start(["orrow-0101.dng", "orrow-0103.dng", "orrow-0108.dng", "orrow-0109.dng"]);
  negatives = await yelm.get<Negative[]>("/negatives");
});
test.afterAll(() => yelm.stop());

/** Opens a picture's first print in Shape. @returns what the server has of it. */
async function openShape(page: Page, file: string): Promise<() => Promise<Recipe["shape"]>> {
  const { id: negativeId } = negatives.find(({ fileName }) => fileName === file)!;
  const [{ id }] = await yelm.get<{ id: string }[]>(`/prints?negative=${negativeId}`);
  await page.goto(`${yelm.url}/prints/${id}`);
  await settle(page);
  await page.keyboard.press("4");
  await expect(page.getByTestId("key")).toBeVisible();
  return async () => (await savedRecipe(yelm, page, id)).shape;
}

async function begin(page: Page, name: string): Promise<void> {
  await page.keyboard.press("l");
  await page.getByRole("button", { name: new RegExp(`^${name}`) }).click();
  await expect(page.getByRole("region", { name: "Ways to begin" })).toHaveCount(0);
  await settle(page);
}

async function pinned(page: Page, x: number, y: number, key: string, count: number): Promise<void> {
  const box = (await page.getByTestId("picture-canvas").boundingBox())!;
  await page.mouse.click(box.x + x * box.width, box.y + y * box.height);
  const row = page
    .getByRole("list", { name: "Spots" })
    .getByRole("listitem")
    .nth(count - 1);
  await expect(row.getByRole("button").first()).not.toContainText("–");
  await page.keyboard.press(key);
  await expect(row).toContainText("placed on");
}

/** L* below which a share of the picture lies. */
async function tones(page: Page): Promise<(share: number) => number> {
  const { rgba } = await readCanvas(page);
  const codes = rgba.filter((_, i) => i % 4 === 1).sort();
  return (share) => lightnessOfCode(codes[Math.floor(share * (codes.length - 1))]);
}

test("a misty marsh becomes a full-range print: opened flat, then three spots placed", async ({ page }) => {
  const shape = await openShape(page, "orrow-0103.dng");
  const plain = await tones(page);
  await begin(page, "Flat");
  expect((await shape()).openShadows).toBeGreaterThan(0.5);
  const flat = await tones(page);
  expect(flat(0.002)).toBeGreaterThan(2);
  expect(flat(0.998)).toBeLessThan(98);
  await page.keyboard.press("p");
  await pinned(page, 0.25, 0.12, "9", 1);
  await pinned(page, 0.06, 0.9, "1", 2);
  await pinned(page, 0.6, 0.5, "6", 3);
  await page.keyboard.press("Escape");
  await settle(page);
  const full = await tones(page);
  expect(full(0.98) - full(0.02)).toBeGreaterThan(plain(0.98) - plain(0.02) + 10);
  await page.reload();
  await settle(page);
  await page.keyboard.press("4");
  const rows = page.getByRole("list", { name: "Spots" }).getByRole("listitem");
  for (const [i, zone] of ["IX", "I", "VI"].entries()) await expect(rows.nth(i)).toContainText(`placed on ${zone}`);
});

test("white crockery keeps the texture of its whites while the plate goes to Zone VIII and a half", async ({
  page,
}) => {
  const shape = await openShape(page, "orrow-0108.dng");
  const texture = async () => {
    const { width, height, rgba } = await readCanvas(page);
    const values: number[] = [];
    for (let y = Math.round(0.68 * height); y < 0.8 * height; y++)
      for (let x = Math.round(0.72 * width); x < 0.92 * width; x++)
        values.push(lightnessOfCode(rgba[4 * (y * width + x) + 1]));
    const mean = values.reduce((sum, v) => sum + v, 0) / values.length;
    return Math.sqrt(values.reduce((sum, v) => sum + (v - mean) ** 2, 0) / values.length);
  };
  const before = await texture();
  await page.getByRole("slider", { name: "Hold highlights" }).focus();
  await page.keyboard.press("Shift+ArrowRight");
  await page.keyboard.press("Shift+ArrowRight");
  await expect.poll(async () => (await shape()).holdHighlights).toBeCloseTo(0.5, 2);
  await page.keyboard.press("p");
  const plate = [0.36, 0.72] as const;
  await pinned(page, ...plate, "8", 1);
  // Half a zone more, pulled on the picture.
  const box = (await page.getByTestId("picture-canvas").boundingBox())!;
  const [x, y] = [box.x + plate[0] * box.width, box.y + plate[1] * box.height];
  await page.mouse.move(x, y);
  await page.mouse.down();
  await page.mouse.move(x, y - 17, { steps: 4 });
  await page.mouse.up();
  await expect.poll(async () => (await shape()).spots[0].zone).toBeCloseTo(8.5, 1);
  await settle(page);
  expect(lightnessOfCode(await greyAt(page, ...plate, 2))).toBeGreaterThan(82);
  expect(lightnessOfCode(await greyAt(page, ...plate, 2))).toBeLessThan(88);
  expect(await texture()).toBeGreaterThan(0.8 * before);
  expect((await tones(page))(0.995)).toBeLessThan(99.5);
});

test("the night lane is made low key with its lamps unclipped, and tried in strips", async ({ page }) => {
  const shape = await openShape(page, "orrow-0109.dng");
  await begin(page, "Low key");
  await expect(page.getByTestId("key")).toContainText("low key");
  await page.keyboard.down("e");
  await expect(page.getByTestId("ends-told")).toContainText(/bare paper: (nothing|a first speck|0\.0)/);
  await page.keyboard.up("e");
  await allSaved(page);
  const { grade } = await shape();
  // Five grades, then a grid with what is opened; the one taken brings its neighbours.
  await page.getByRole("slider", { name: "Grade" }).hover();
  await page.keyboard.press("Shift+T");
  const strip = page.getByRole("region", { name: /^Test strip/ });
  await expect(strip.getByTestId("sketch")).toHaveCount(5);
  await strip.getByRole("button", { pressed: false }).nth(4).click();
  await expect.poll(async () => (await shape()).grade).toBeGreaterThan(grade + 0.5);
  await expect(strip.getByRole("button", { pressed: true })).toHaveCount(1);
  await page.getByRole("slider", { name: "Open shadows" }).hover();
  await page.keyboard.press("Shift+T");
  await expect(strip.getByTestId("sketch")).toHaveCount(12);
  await page.keyboard.press("Escape");
  await expect(strip).toHaveCount(0);
});

test("a dull sky is blown to paper on purpose without losing the tower's edge; parts go to other prints and back", async ({
  page,
}) => {
  const shape = await openShape(page, "orrow-0101.dng");
  const TOWER = [0.72, 0.3] as const;
  const SKY = [0.6, 0.16] as const;
  await page.getByRole("button", { name: "Blow the lights" }).click();
  await expect.poll(async () => (await shape()).letWhite).toBe(true);
  await settle(page);
  expect(await greyAt(page, ...SKY)).toBeGreaterThan(250);
  expect(await greyAt(page, ...TOWER)).toBeLessThan(170);
  await page.keyboard.down("e");
  await expect(page.getByTestId("ends-told")).toContainText("as wanted");
  await page.keyboard.up("e");
  await page.keyboard.press("Control+Shift+C");
  await expect(page.getByRole("checkbox", { name: "points and grade" })).toBeChecked();
  await expect(page.getByRole("checkbox", { name: "exposure" })).not.toBeChecked();
  await page.getByRole("dialog").getByRole("button", { name: "Copy", exact: true }).click();
  const [{ id: rollId }] = await yelm.get<{ id: string }[]>("/rolls");
  await page.goto(`${yelm.url}/rolls/${rollId}`);
  await expect(page.getByText("orrow-0108.dng")).toBeVisible();
  await page.keyboard.press("Control+a");
  await page.keyboard.press("Control+Shift+V");
  await page.getByRole("button", { name: "Paste on 4 prints" }).click();
  await expect(page.getByText("Pasted on 3 prints: points and grade; 1 had nothing to change.")).toBeVisible();
  const wanted = async () => {
    const prints = await yelm.get<{ recipe: Recipe }[]>("/prints");
    return prints.filter(({ recipe }) => recipe.shape.letWhite).length;
  };
  expect(await wanted()).toBe(4);
  await page.getByRole("button", { name: "Undo" }).click();
  await expect.poll(wanted).toBe(1);
});
