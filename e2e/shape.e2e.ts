import sharp from "sharp";
import { expect, test, type Page } from "@playwright/test";
import type { Recipe } from "@yelm/core";
import { allSaved, greyAt, savedRecipe, settle, Yelm } from "./yelm.ts";

let yelm: Yelm;
let negativeId: string;
test.beforeAll(async () => {
  yelm = await Yelm.start(["orrow-0103.dng"]);
  [{ id: negativeId }] = await yelm.get<{ id: string }[]>("/negatives");
});
test.afterAll(() => yelm.stop());

async function openShape(page: Page): Promise<() => Promise<Recipe["shape"]>> {
  const [{ id }] = await yelm.get<{ id: string }[]>(`/prints?negative=${negativeId}`);
  await page.goto(`${yelm.url}/prints/${id}`);
  await settle(page);
  await page.keyboard.press("4");
  return async () => (await savedRecipe(yelm, page, id)).shape;
}

const CLOUD = [0.25, 0.12] as const;
const WATER = [0.35, 0.72] as const;
const HILL = [0.6, 0.5] as const;

async function onScreen(page: Page, [x, y]: readonly [number, number]): Promise<[number, number]> {
  const box = (await page.getByTestId("picture-canvas").boundingBox())!;
  return [box.x + x * box.width, box.y + y * box.height];
}

test("a flat marsh becomes a full print by three spots: numeral, pull on the picture, pull on the ladder", async ({
  page,
}) => {
  const shape = await openShape(page);
  const rows = page.getByRole("list", { name: "Spots" }).getByRole("listitem");
  const difference = async () => (await greyAt(page, ...CLOUD)) - (await greyAt(page, ...WATER));
  const flat = await difference();
  await page.keyboard.press("p");
  await page.mouse.click(...(await onScreen(page, CLOUD)));
  await expect(rows).toHaveCount(1);
  await expect(rows.first()).toContainText("+");
  // A numeral places the spot and does not go to a station.
  await page.keyboard.press("8");
  await expect(rows.first()).toContainText("placed on VIII");
  await expect(page.getByRole("heading", { name: "Shape", exact: true })).toBeVisible();
  await page.mouse.click(...(await onScreen(page, WATER)));
  await expect(rows).toHaveCount(2);
  await expect(rows.nth(1).getByRole("button").first()).not.toContainText("–");
  // Pulled down on the picture it prints darker.
  const [x, y] = await onScreen(page, WATER);
  await page.mouse.move(x, y);
  await page.mouse.down();
  await page.mouse.move(x, y + 30, { steps: 5 });
  await page.mouse.up();
  await expect(rows.nth(1)).toContainText("placed on");
  await settle(page);
  expect(await difference()).toBeGreaterThan(flat + 20);
  // On the ladder its rung is pulled up again, and the first one stays where it was placed.
  const rung = page.getByTestId("placed-rung").nth(1).locator("circle");
  const place = (await rung.boundingBox())!;
  await allSaved(page);
  const before = (await shape()).spots[1].zone;
  await page.mouse.move(place.x + 5, place.y + 5);
  await page.mouse.down();
  await page.mouse.move(place.x + 5, place.y - 25, { steps: 5 });
  await page.mouse.up();
  await expect.poll(async () => (await shape()).spots[1].zone).toBeGreaterThan(before + 0.2);
  await expect(rows.first()).toContainText("placed on VIII");
  // A third one that contradicts the first is told with it.
  await page.mouse.click(...(await onScreen(page, HILL)));
  await expect(rows).toHaveCount(3);
  await expect(rows.nth(2).getByRole("button").first()).not.toContainText("–");
  await page.keyboard.press("9");
  await expect(page.getByRole("alert")).toContainText("contradict each other");
  await page.keyboard.press("5");
  await expect(page.getByRole("alert")).toHaveCount(0);
  // Held, the whole picture is in the greys of its zones.
  const shades = async () => {
    const clip = (await page.getByTestId("picture-canvas").boundingBox())!;
    const inner = { x: clip.x + 40, y: clip.y + 40, width: clip.width - 80, height: clip.height - 160 };
    const { data } = await sharp(await page.screenshot({ clip: inner })).greyscale().raw().toBuffer({ resolveWithObject: true }); // prettier-ignore
    const counts = new Map<number, number>();
    for (const code of data) counts.set(code, (counts.get(code) ?? 0) + 1);
    return [...counts.values()].filter((count) => count > 0.002 * data.length).length;
  };
  await page.mouse.move(5, 5);
  await page.keyboard.down("Alt");
  await page.keyboard.down("z");
  await expect(page.getByText("by zones: eleven greys")).toBeVisible();
  expect(await shades()).toBeLessThanOrEqual(11);
  await page.keyboard.up("z");
  await page.keyboard.up("Alt");
  await expect(page.getByText("by zones: eleven greys")).toHaveCount(0);
  expect(await shades()).toBeGreaterThan(40);
  await page.reload();
  await settle(page);
  await page.keyboard.press("4");
  await expect(rows).toHaveCount(3);
  await expect(rows.first()).toContainText("placed on VIII");
  await page.getByRole("button", { name: "Take spot 3 away" }).click();
  await expect(rows).toHaveCount(2);
});

test("while a point moves the picture shows what it clips; it goes to the first speck, and clipping can be wanted", async ({
  page,
}) => {
  const shape = await openShape(page);
  // A zone held on the ladder shows where it lies.
  await page.getByTestId("zone-5").hover();
  await page.mouse.down();
  await expect(page.getByTestId("hatched-zone")).toBeVisible();
  await page.mouse.up();
  await expect(page.getByTestId("hatched-zone")).toHaveCount(0);
  const slider = page.getByRole("slider", { name: "White point" });
  const box = (await slider.boundingBox())!;
  const told = page.getByTestId("ends-told");
  await page.mouse.move(box.x + box.width * 0.3, box.y + box.height / 2);
  await page.mouse.down();
  await page.mouse.move(box.x + box.width * 0.04, box.y + box.height / 2, { steps: 8 });
  await expect(told).toContainText(/bare paper: \d/);
  await expect(page.getByTestId("hatched-white")).toBeVisible();
  const hatched = () =>
    page.getByTestId("hatched-white").evaluate((canvas: HTMLCanvasElement) => {
      const { data } = canvas.getContext("2d")!.getImageData(0, 0, canvas.width, canvas.height);
      return data.filter((v, i) => i % 4 === 3 && v > 0).length;
    });
  await expect.poll(hatched).toBeGreaterThan(100);
  await page.mouse.up();
  await expect(told).toHaveCount(0);
  const group = page.getByRole("region", { name: "Points and grade" });
  await group.getByRole("button", { name: "First speck" }).last().click();
  // Marks of waiting work are gone once the server has it.
  const saved = page.getByText(/^saved/);
  await expect(saved).toBeVisible();
  await page.keyboard.down("e");
  await expect(told).toContainText(/bare paper: (a first speck|0\.0\d %)/);
  await page.keyboard.up("e");
  await expect(saved).toBeVisible();
  await page.waitForTimeout(600);
  const { whitePoint } = await shape();
  await group.getByRole("button", { name: "Back off" }).last().click();
  await expect.poll(async () => (await shape()).whitePoint - whitePoint).toBeCloseTo(1 / 6, 1);
  await group.getByRole("button", { name: "Let it go white" }).click();
  await expect.poll(async () => (await shape()).letWhite).toBe(true);
  await page.keyboard.down("e");
  await expect(told).toContainText("as wanted");
  await page.keyboard.up("e");
});
