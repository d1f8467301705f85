import { readFile } from "node:fs/promises";
import { expect, test } from "@playwright/test";
import sharp from "sharp";
import type { Look, Recipe } from "@yelm/core";
import { allSaved, exported, readCanvas, settle, Yelm } from "./yelm.ts";

let yelm: Yelm;
test.beforeAll(async () => {
  yelm = await Yelm.start(["orrow-0104.dng"]);
});
test.afterAll(() => yelm.stop());

test("a look from the wall, stacked and by half; a tone by two baths, kept as a look of one's own, and taken off again", async ({
  page,
}) => {
  const [{ id }] = await yelm.get<{ id: string }[]>("/prints");
  const recipe = async () => (await yelm.get<{ recipe: Recipe }>(`/prints/${id}`)).recipe;
  await page.goto(`${yelm.url}/prints/${id}`);
  await settle(page);
  await page.keyboard.press("6");
  const before = await recipe();

  await test.step("two looks, one on the other, the second by half", async () => {
    await page.keyboard.press("l");
    const wall = page.getByRole("region", { name: "The wall" });
    await expect(wall.getByText("Fitting")).toHaveCount(0);
    expect(await wall.getByTestId("sketch").count()).toBeGreaterThanOrEqual(15);
    await wall.getByRole("button", { name: "lay another on it" }).nth(1).click();
    await expect(wall.getByText("laid on already")).toBeVisible();
    await expect(wall.getByText("Fitting")).toHaveCount(0);
    await wall.getByLabel("Amount, number").fill("50");
    await page.keyboard.press("Enter");
    await wall.getByRole("button", { name: /^Gritty/ }).click();
    await expect(wall).toHaveCount(0);
    await settle(page);
  });
  await allSaved(page);
  const stacked = await recipe();
  expect(stacked.finish.grain.granularity).toBe(15);
  expect([stacked.ground, stacked.light]).toEqual([before.ground, before.light]);

  await test.step("sepia, then selenium; one key takes the tone off and puts it back", async () => {
    await page.getByRole("radiogroup", { name: "Toner", exact: true }).getByText("sepia").click();
    await page.getByRole("radiogroup", { name: "Second bath" }).getByText("selenium").click();
    await expect(page.getByTestId("tone-strength")).toContainText(/subtle|clear|strong/);
    await settle(page);
    const spread = async () => {
      const { width, height, rgba } = await readCanvas(page);
      const at = 4 * (Math.floor(0.3 * height) * width + Math.floor(0.3 * width));
      return Math.max(...rgba.subarray(at, at + 3)) - Math.min(...rgba.subarray(at, at + 3));
    };
    expect(await spread()).toBeGreaterThan(6);
    await page.keyboard.press("x");
    await settle(page);
    expect(await spread()).toBeLessThanOrEqual(1);
    await expect.poll(async () => (await recipe()).finish.toning.on).toBe(false);
    await page.keyboard.press("x");
    await expect.poll(async () => (await recipe()).finish.toning).toMatchObject({ on: true, toner: "sepia", second: "selenium" }); // prettier-ignore
  });

  await test.step("kept as a look, it hangs on the wall and is a file that comes back", async () => {
    await page.keyboard.press("Shift+L");
    await page.getByLabel("Name of the look").fill("By the window");
    await page.getByRole("button", { name: "Keep the look" }).click();
    await expect(page.getByText("“By the window” hangs on the wall.")).toBeVisible();
    const [kept] = await yelm.get<Look[]>("/looks");
    expect(kept.recipe.finish.toning.second).toBe("selenium");
    expect(kept.fit?.middle).toBeGreaterThan(1);
    await page.keyboard.press("l");
    const wall = page.getByRole("region", { name: "The wall" });
    const [download] = await Promise.all([
      page.waitForEvent("download"),
      wall.getByRole("link", { name: "By the window as a file" }).click(),
    ]);
    const text = await readFile(await download.path(), "utf8");
    await page.keyboard.press("Escape");
    const file = { name: "window.json", mimeType: "application/json", buffer: Buffer.from(text) };
    await page.getByLabel("A look from a file").setInputFiles(file);
    await expect.poll(async () => (await yelm.get<Look[]>("/looks")).length).toBe(2);
    const broken = { ...file, buffer: Buffer.from(text.slice(0, 50)) };
    await page.getByLabel("A look from a file").setInputFiles(broken);
    await expect(page.getByText(/is no look: it is not JSON/)).toBeVisible();
  });

  await test.step("taken back step by step the recipe is what it was, to the letter", async () => {
    await expect
      .poll(
        async () => {
          await page.keyboard.press("Control+z");
          return JSON.stringify(await recipe());
        },
        { intervals: [400] },
      )
      .toBe(JSON.stringify(before));
  });
});

test("a mat with a caption, worn edges and grain: the file is what the screen shows", async ({ page }) => {
  const [{ id, negativeId }] = await yelm.get<{ id: string; negativeId: string }[]>("/prints");
  void id;
  const made = await page.request.post(`${yelm.url}/api/prints`, { data: { negativeId, name: "For the wall" } });
  const fresh = ((await made.json()) as { id: string }).id;
  await page.goto(`${yelm.url}/prints/${fresh}`);
  await settle(page);
  await page.keyboard.press("6");
  const type = async (label: string, number: string) => {
    await page.getByLabel(`${label}, number`, { exact: true }).first().fill(number);
    await page.keyboard.press("Enter");
  };
  await page.getByRole("radio", { name: "medium", exact: true }).first().click();
  await type("Edges faded", "60");
  await type("Border", "2");
  await type("Mat", "9");
  await type("Line", "0.4");
  await type("Room for text", "6");
  await page.getByLabel("Caption", { exact: true }).fill("Third proof, by the window");
  await page.keyboard.press("Enter");
  await expect(page.getByRole("img", { name: "Third proof, by the window" })).toBeVisible();
  await settle(page);
  await allSaved(page);
  await expect
    .poll(async () => (await yelm.get<{ recipe: Recipe }>(`/prints/${fresh}`)).recipe.finish.mount)
    .toMatchObject({ border: 0.02, mat: 0.09, room: 0.06, caption: "Third proof, by the window" });

  // The sheet as it stands on the screen, pixel by pixel.
  await page.mouse.move(5, 5);
  const pane = (await page.getByTestId("picture").boundingBox())!;
  const shot = await sharp(await page.screenshot({ clip: pane }))
    .removeAlpha()
    .raw()
    .toBuffer({ resolveWithObject: true });
  const layers = await page
    .getByTestId("mount")
    .locator("i")
    .evaluateAll((all) =>
      all.map((one) => {
        const { x, y, width, height } = one.getBoundingClientRect();
        return { x, y, width, height };
      }),
    );
  const sheet = layers.reduce((largest, one) => (one.width > largest.width ? one : largest));
  const [left, top] = [Math.round(sheet.x - pane.x), Math.round(sheet.y - pane.y)];
  const [width, height] = [Math.round(sheet.width), Math.round(sheet.height)];

  const written = await exported(yelm, fresh, Math.max(width, height));
  expect(Math.abs(written.info.width - width)).toBeLessThanOrEqual(1);
  expect(Math.abs(written.info.height - height)).toBeLessThanOrEqual(1);
  let [sum, count, lettered] = [0, 0, 0];
  for (let y = 2; y < height - 2; y++)
    for (let x = 2; x < width - 2; x++) {
      const a = shot.data[((top + y) * shot.info.width + left + x) * shot.info.channels];
      const b = written.data[(y * written.info.width + x) * written.info.channels];
      sum += Math.abs(a - b);
      count++;
      // Letters stand below the picture, dark on the light mat, in both.
      if (y > height * 0.87 && a < 120 && b < 120) lettered++;
    }
  expect(sum / count).toBeLessThan(1.5);
  expect(lettered).toBeGreaterThan(60);

  // Opened again it lies on its mat before the page knows its recipe.
  const picture = (await page.getByTestId("picture-canvas").boundingBox())!;
  const late = ({ pathname }: URL) => pathname.includes(fresh) && /\/api\/.*(?<!thumbnail)$/.test(pathname);
  // The small picture that a roll asks for.
  expect((await page.request.get(`${yelm.url}/api/prints/${fresh}/thumbnail?edge=640`)).ok()).toBe(true);
  await page.route(late, (route) => new Promise((done) => setTimeout(done, 1500)).then(() => route.continue()));
  await page.goto(`${yelm.url}/prints/${fresh}`);
  const opening = await page.waitForFunction(() => {
    const image = document.querySelector('svg > image[data-testid="stand-in"]');
    if (!image || getComputedStyle(image).visibility === "hidden") return false;
    const box = image.getBoundingClientRect();
    const isOpen = document.querySelector('[data-testid="picture-canvas"]') !== null;
    return box.width > 0 && { x: box.x, y: box.y, width: box.width, height: box.height, isOpen };
  });
  const { isOpen, ...small } = (await opening.jsonValue()) as typeof picture & { isOpen: boolean };
  expect(isOpen).toBe(false);
  for (const key of ["x", "y", "width", "height"] as const)
    expect(Math.abs(small[key] - picture[key])).toBeLessThan(1.5);
  await settle(page);
});
