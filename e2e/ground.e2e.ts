import { join } from "node:path";
import { expect, test, type Page } from "@playwright/test";
import type { Print, Recipe, SheetEntry } from "@yelm/core";
import { allSaved, readCanvas, ROOT, settle, Yelm } from "./yelm.ts";

let yelm: Yelm;
test.beforeAll(async () => {
  yelm = await Yelm.start(["orrow-0101.dng", "orrow-0103.dng", "orrow-0107.dng"]);
});
test.afterAll(() => yelm.stop());

async function openGround(page: Page, fileName: string): Promise<string> {
  const negatives = await yelm.get<{ id: string; fileName: string }[]>("/negatives");
  const { id } = negatives.find((one) => one.fileName === fileName)!;
  const [print] = await yelm.get<Print[]>(`/prints?negative=${id}`);
  await page.goto(`${yelm.url}/prints/${print.id}`);
  await settle(page);
  await page.keyboard.press("2");
  await expect(page.getByRole("heading", { name: "Ground" })).toBeVisible();
  return print.id;
}

async function saved(page: Page, printId: string): Promise<Recipe> {
  await allSaved(page);
  return (await yelm.get<Print>(`/prints/${printId}`)).recipe;
}

const unfold = (page: Page, title: string) => page.getByRole("button", { name: title, exact: true }).click();

test("a roll is sorted through by keys: rated, found again, put away and brought back", async ({ page }) => {
  const [roll] = await yelm.get<{ id: string }[]>("/rolls");
  await page.goto(`${yelm.url}/rolls/${roll.id}`);
  const frames = page.getByTestId("frames").locator("li");
  await expect(frames).toHaveCount(3);
  await page.keyboard.press("ArrowRight");
  await page.keyboard.press("y");
  await page.keyboard.press("d");
  await expect(page.getByRole("radio", { name: /^keep 1/ })).toBeVisible();
  await expect(page.getByRole("radio", { name: /^no 1/ })).toBeVisible();
  await page.getByRole("radio", { name: /^keep/ }).click();
  await expect(frames).toHaveCount(1);
  await page.getByRole("radio", { name: /^all/ }).click();
  await frames
    .nth(0)
    .locator("a")
    .click({ modifiers: ["Control"] });
  await frames
    .nth(2)
    .locator("a")
    .click({ modifiers: ["Shift"] });
  await expect(page.getByText("3 chosen")).toBeVisible();
  await page.keyboard.press("Delete");
  await expect(page.getByText("3 negatives were put away for 30 days of use.")).toBeVisible();
  await expect(frames).toHaveCount(0);
  await page.getByRole("button", { name: "Bring back" }).click();
  await expect(frames).toHaveCount(3);
  await page.getByLabel("Find by name").fill("0107");
  await expect(frames).toHaveCount(1);
});

test("two thousand negatives scroll: only what is near the window is in the page", async ({ page }) => {
  const [roll] = await yelm.get<{ id: string }[]>("/rolls");
  const sheet = await yelm.get<SheetEntry[]>(`/rolls/${roll.id}/sheet`);
  await page.route("**/sheet", (route) =>
    route.fulfill({
      json: Array.from({ length: 2000 }, (_, i) => ({
        ...sheet[i % 3],
        id: `${sheet[i % 3].id}-${i}`,
        title: `Frame ${i}`,
        fileName: `f${String(i).padStart(5, "0")}.dng`,
        takenAt: null,
      })),
    }),
  );
  await page.goto(`${yelm.url}/rolls/${roll.id}`);
  const frames = page.getByTestId("frames").locator("li");
  await expect(page.getByText("Frame 0", { exact: true })).toBeVisible();
  expect(await frames.count()).toBeLessThan(60);
  await page.locator("main").evaluate((main) => (main.scrollTop = main.scrollHeight));
  await expect(page.getByText("Frame 1999")).toBeVisible();
  expect(await frames.count()).toBeLessThan(60);
  await page.keyboard.press("ArrowRight");
  await expect(page.getByText("Frame 0", { exact: true })).toBeVisible();
});

test("the simulated camera shoots a bracket onto the card, and the roll that reads it has the frames", async ({
  page,
}) => {
  await page.goto(yelm.url);
  await expect(page.getByRole("link", { name: /Test roll/ })).toBeVisible();
  await page.keyboard.press("n");
  await expect(page.getByText("Drop captures here")).toBeVisible();
  await page.keyboard.press("l");
  await page.getByRole("button", { name: "Read the card into this roll" }).click();
  await page.getByRole("radio", { name: "The lane at night" }).click();
  await page.getByRole("radio", { name: "ISO 1600" }).click();
  await page.getByRole("radio", { name: /three/ }).click();
  await page.getByRole("button", { name: "Shoot onto the card" }).click();
  await expect(page.getByText(/On the card: halden/)).toBeVisible({ timeout: 90_000 });
  await page.getByRole("button", { name: "Close" }).click();
  await expect(page.getByTestId("frames").locator("li")).toHaveCount(3, { timeout: 60_000 });
});

test("the server dies while files are copied and developed: all of them arrive after it is back", async ({ page }) => {
  await page.goto(yelm.url);
  await expect(page.getByRole("link", { name: /Test roll/ })).toBeVisible();
  await page.keyboard.press("n");
  await expect(page.getByText("Drop captures here")).toBeVisible();
  const files = [
    "orrow-0102.dng",
    "orrow-0104.dng",
    "orrow-0105.dng",
    "orrow-0106.dng",
    "orrow-0108.dng",
    "orrow-0109.dng",
  ];
  await page.getByTestId("file-input").setInputFiles(files.map((file) => join(ROOT, "demo/negatives", file)));
  await expect(page.getByTestId("import-tray")).toBeVisible();
  await page.waitForTimeout(400);
  await yelm.kill();
  await expect(page.getByTestId("import-tray")).toContainText("Bringing in");
  await page.waitForTimeout(1500);
  await yelm.up();
  await expect(page.getByTestId("frames").locator("li")).toHaveCount(files.length, { timeout: 60_000 });
  await expect(page.getByTestId("import-tray")).toContainText(/\d brought in/);
});

test("exposure proposed and taken, white balance traced, noise told", async ({ page }) => {
  const id = await openGround(page, "orrow-0107.dng");
  await expect(page.getByTestId("headroom")).toContainText("in the capture");
  await expect(page.getByTestId("sensor-full")).toBeAttached();
  const take = page.getByRole("button", { name: /^Take/ });
  await expect(take).toBeVisible();
  await page.keyboard.press("j");
  await expect(take).toHaveCount(0);
  const { ground } = await saved(page, id);
  expect(ground.exposureEv).not.toBe(0);
  await page.getByRole("radio", { name: "lamp" }).click();
  await expect(page.getByTestId("zone-trace")).toContainText("It moves the greys");
  await unfold(page, "Noise");
  await expect(page.getByLabel("Noise", { exact: true })).toContainText("By the file's own statement");
  await page.getByLabel("Calm it, number").fill("60");
  await page.keyboard.press("Enter");
  expect((await saved(page, id)).ground.calm).toBeCloseTo(0.6, 5);
});

test("a level and two uprights are drawn; a ratio of one's own; the size on paper follows", async ({ page }) => {
  const id = await openGround(page, "orrow-0101.dng");
  const pane = (await page.getByTestId("picture").boundingBox())!;
  const draw = async (x0: number, y0: number, x1: number, y1: number) => {
    await page.mouse.move(pane.x + x0, pane.y + y0);
    await page.mouse.down();
    await page.mouse.move(pane.x + x1, pane.y + y1, { steps: 4 });
    await page.mouse.up();
  };
  await page.keyboard.press("a");
  await draw(150, 300, 650, 318);
  let recipe = await saved(page, id);
  expect(recipe.ground.angleDegrees).toBeCloseTo(-2.06, 1);
  await page.keyboard.press("Shift+a");
  await draw(180, 160, 200, 480);
  await draw(620, 160, 600, 480);
  recipe = await saved(page, id);
  expect(recipe.ground.lens.keystoneVertical).not.toBe(0);
  await page.keyboard.press("Control+z");
  await page.keyboard.press("Control+z");
  recipe = await saved(page, id);
  expect([recipe.ground.angleDegrees, recipe.ground.lens.keystoneVertical]).toEqual([0, 0]);
  await page.getByLabel("Own ratio").fill("12:5");
  await page.keyboard.press("Enter");
  await expect(page.getByRole("radio", { name: "12:5" })).toHaveAttribute("aria-checked", "true");
  recipe = await saved(page, id);
  expect(recipe.ground.crop!.width / recipe.ground.crop!.height).toBeCloseTo(2.4, 3);
  await page.getByRole("radio", { name: "240 ppi" }).click();
  await expect(page.getByText("22.9 × 9.5 cm on paper")).toBeVisible();
});

test("dust is healed, its source moved, seen before and after, and found by itself", async ({ page }) => {
  const id = await openGround(page, "orrow-0103.dng");
  await unfold(page, "Clean");
  await page.keyboard.press("m");
  const pane = (await page.getByTestId("picture").boundingBox())!;
  await page.mouse.click(pane.x + 420, pane.y + 190);
  await expect(page.getByText("healed, spot")).toBeVisible();
  let [spot] = (await saved(page, id)).ground.clean;
  expect(spot.kind).toBe("heal");
  const overlay = page.getByTestId("clean-overlay");
  const source = (await overlay.locator("g.cursor-move").boundingBox())!;
  await page.mouse.move(source.x + source.width / 2, source.y + source.height / 2);
  await page.mouse.down();
  await page.mouse.move(source.x + source.width / 2 + 60, source.y + source.height / 2 + 10, { steps: 4 });
  await page.mouse.up();
  const before = spot.sourceX;
  [spot] = (await saved(page, id)).ground.clean;
  expect(spot.sourceX).toBeGreaterThan(before + 0.05);
  await page.mouse.move(pane.x + 300, pane.y + 330);
  await page.mouse.down();
  await page.mouse.move(pane.x + 380, pane.y + 340, { steps: 6 });
  await page.mouse.up();
  await expect(page.getByText("healed, stroke")).toBeVisible();
  await page.keyboard.press("Delete");
  expect((await saved(page, id)).ground.clean).toHaveLength(1);
  await page.keyboard.press("Escape");
  await page.keyboard.press("z");
  await expect(page.getByText(/Looking…/)).toHaveCount(0);
  await expect(
    page.getByTestId("dust-asked").or(page.getByText("Nothing on smooth areas looks like dust.")),
  ).toBeVisible();
});

test("a file without colour says at Weigh what cannot be done, and why", async ({ page }) => {
  const [roll] = await yelm.get<{ id: string }[]>("/rolls");
  const { default: sharp } = await import("sharp");
  const grey = await sharp({ create: { width: 300, height: 200, channels: 3, background: "#777" } })
    .png()
    .toBuffer();
  await page.goto(`${yelm.url}/rolls/${roll.id}`);
  await page.getByTestId("file-input").setInputFiles({ name: "scan.png", mimeType: "image/png", buffer: grey });
  await page.getByText("scan", { exact: true }).click();
  await settle(page);
  await page.keyboard.press("3");
  await expect(page.getByText("scan.png holds no colour")).toBeVisible();
});

test("colour noise of a JPEG is smoothed, or as in the file: its prints follow on the spot, there and back", async ({
  page,
}) => {
  const [width, height] = [360, 240];
  let state = 7;
  const random = () => (state = (state * 1664525 + 1013904223) >>> 0) / 2 ** 32 - 0.5;
  // Blocks of colour that are off by a few codes, at one light, and a little noise of light.
  const off = Array.from({ length: (width * height) / 16 }, () => [7 * random(), 7 * random()]);
  const noisy = Buffer.from(
    Array.from({ length: width * height }, (_, i) => {
      const [cb, cr] = off[((i % width) >> 2) + (width / 4) * (Math.floor(i / width) >> 2)];
      const light = 120 + 2 * random();
      return [light + 1.4 * cr, light - 0.34 * cb - 0.71 * cr, light + 1.77 * cb].map(Math.round);
    }).flat(),
  );
  const { default: sharp } = await import("sharp");
  const jpeg = await sharp(noisy, { raw: { width, height, channels: 3 } })
    .jpeg({ quality: 92, chromaSubsampling: "4:4:4" })
    .toBuffer();
  const [roll] = await yelm.get<{ id: string }[]>("/rolls");
  await page.goto(`${yelm.url}/rolls/${roll.id}`);
  await page.getByTestId("file-input").setInputFiles({ name: "noisy.jpg", mimeType: "image/jpeg", buffer: jpeg });
  await page.getByText("noisy", { exact: true }).click();
  await settle(page);
  await page.keyboard.press("3");
  await page.getByRole("tab", { name: "Weights" }).click();
  await page.getByLabel("Blue light, number").fill("1");
  await page.keyboard.press("Enter");
  await page.keyboard.press("2");
  await unfold(page, "Noise");
  await settle(page);
  const picture = async (act: string, then: string) => {
    await page.getByRole("button", { name: act }).click();
    await expect(page.getByRole("button", { name: then })).toBeVisible();
    await page.waitForTimeout(400);
    await settle(page);
    return readCanvas(page);
  };
  const smoothed = await readCanvas(page);
  const kept = await picture("Have it as in the file", "Smooth it");
  await expect(page.getByRole("heading", { name: "Ground" })).toBeVisible();
  const again = await picture("Smooth it", "Have it as in the file");
  const roughness = ({ rgba }: typeof kept) => {
    let sum = 0;
    for (let i = 4; i < rgba.length; i += 4) sum += Math.abs(rgba[i] - rgba[i - 4]);
    return sum;
  };
  expect(roughness(smoothed)).toBeLessThan(0.8 * roughness(kept));
  expect(Buffer.compare(again.rgba, smoothed.rgba)).toBe(0);
});
