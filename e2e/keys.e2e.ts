import { expect, test, type Page } from "@playwright/test";
import sharp from "sharp";
import type { Recipe } from "@yelm/core";
import { allSaved, greyAt, settle, Yelm } from "./yelm.ts";

let yelm: Yelm;
let printId: string;
test.beforeAll(async () => {
  yelm = await Yelm.start(["orrow-0101.dng"]);
  const [negative] = await yelm.get<{ id: string }[]>("/negatives");
  [{ id: printId }] = await yelm.get<{ id: string }[]>(`/prints?negative=${negative.id}`);
});
test.afterAll(() => yelm.stop());

const recipe = async () => (await yelm.get<{ recipe: Recipe }>(`/prints/${printId}`)).recipe;

test("a part of a name finds the control and puts the cursor in it; a key of one's own does its act", async ({
  page,
}) => {
  await page.goto(`${yelm.url}/prints/${printId}`);
  await settle(page);
  await page.keyboard.press("k");
  await page.getByPlaceholder("An act, a control, a print: part of its name").fill("granul");
  await page.keyboard.press("Enter");
  await expect(page.getByRole("slider", { name: "Granularity" })).toBeFocused();
  await page.keyboard.press("ArrowRight");
  await expect.poll(async () => (await recipe()).finish.grain.granularity).toBe(1);
  await page.getByRole("slider", { name: "Granularity" }).blur();
  await page.keyboard.press("?");
  const keys = page.getByRole("dialog", { name: "Keys" });
  await keys.getByRole("button", { name: "Key of Ticket" }).click();
  await page.keyboard.press("j");
  await expect(keys.getByRole("button", { name: "Key of Ticket" })).toHaveText("J");
  await page.keyboard.press("Escape");
  await expect(keys).toHaveCount(0);
  await page.reload();
  await settle(page);
  await page.keyboard.press("j");
  await expect(
    page.getByRole("complementary", { name: "Ticket" }).or(page.getByTestId("ticket")).first(),
  ).toBeVisible();
});

test("a ramp darkens one side only, in Light and in an area of Weigh; every shape shows while Space is held", async ({
  page,
}) => {
  await page.goto(`${yelm.url}/prints/${printId}`);
  await settle(page);
  const canvas = page.getByTestId("picture-canvas");
  const draw = async () => {
    const box = (await canvas.boundingBox())!;
    const y = box.y + box.height / 2;
    await page.mouse.move(box.x + 0.45 * box.width, y);
    await page.mouse.down();
    await page.mouse.move(box.x + 0.6 * box.width, y, { steps: 6 });
    await page.mouse.up();
  };
  await page.keyboard.press("5");
  const [left, right] = [await greyAt(page, 0.15, 0.5), await greyAt(page, 0.9, 0.5)];
  await page.keyboard.press("a");
  await draw();
  await page.getByLabel("Stops, number").fill("-2");
  await page.getByLabel("Stops, number").press("Enter");
  await settle(page);
  const after = [await greyAt(page, 0.15, 0.5), await greyAt(page, 0.9, 0.5)];
  const changed = [left - after[0], right - after[1]].map((v) => Math.abs(v));
  expect(Math.max(...changed)).toBeGreaterThan(15);
  expect(Math.min(...changed)).toBeLessThan(1);
  await allSaved(page);
  const { light } = await recipe();
  expect(light.moves.map(({ shape }) => shape.kind)).toEqual(["ramp"]);

  await page.keyboard.press("Escape");
  await page.keyboard.press("3");
  await page.getByRole("tab", { name: "Areas" }).click();
  await page.keyboard.press("a");
  await draw();
  await expect.poll(async () => (await recipe()).weigh.areas.map(({ shape }) => shape.kind)).toEqual(["ramp"]);

  await page.keyboard.press("Escape");
  await expect(page.getByTestId("shape-overlay").locator("line")).not.toHaveCount(0);
  await page.keyboard.press("5");
  await page.keyboard.down("Space");
  await expect(page.getByTestId("shape-overlay").locator("line")).not.toHaveCount(0);
  await page.keyboard.up("Space");
});

/** What is on screen in the pane of the picture. */
async function paneNow(page: Page): Promise<Buffer> {
  const clip = (await page.getByTestId("picture").boundingBox())!;
  return sharp(await page.screenshot({ clip })).greyscale().raw().toBuffer(); // prettier-ignore
}

/** Share of the pane's pixels that differ by more than a code or two. */
function differing(before: Buffer, now: Buffer): number {
  return now.reduce((count, code, i) => count + (Math.abs(code - before[i]) > 2 ? 1 : 0), 0) / now.length;
}

test("what is shown while a key is held is seen then, and gone when it is let go", async ({ page }) => {
  await page.goto(`${yelm.url}/prints/${printId}`);
  await settle(page);
  const box = (await page.getByTestId("picture-canvas").boundingBox())!;
  const stand = () => page.mouse.move(box.x + 0.8 * box.width, box.y + 0.5 * box.height, { steps: 2 });
  for (const [station, keys] of [
    ["4", ["B", "C", "Shift+F", "Shift+S", "Shift+G", "H"]],
    ["5", ["Y", "Shift+G"]],
  ] as const)
    for (const key of keys) {
      await page.keyboard.press("Escape");
      await page.keyboard.press(station);
      await stand();
      await settle(page);
      const before = await paneNow(page);
      const held = key.split("+").map((one) => (one.length > 1 || key.includes("+") ? one : one.toLowerCase()));
      for (const one of held) await page.keyboard.down(one);
      const shows = async () => differing(before, await paneNow(page));
      await expect.poll(shows, { message: `${key} in station ${station}` }).toBeGreaterThan(0.02);
      for (const one of held.toReversed()) await page.keyboard.up(one);
      await expect.poll(shows, { message: `${key} let go in station ${station}` }).toBeLessThan(0.005);
    }
});

test("the loupe shows the print at full size beside the pointer, inside the pane, and follows it", async ({ page }) => {
  await page.goto(`${yelm.url}/prints/${printId}`);
  await settle(page);
  const pane = (await page.getByTestId("picture").boundingBox())!;
  const box = (await page.getByTestId("picture-canvas").boundingBox())!;
  const glass = page.getByTestId("loupe");
  /** Mean of what the loupe shows, about its middle. */
  const shown = () =>
    glass.locator("canvas").evaluate((canvas: HTMLCanvasElement) => {
      const size = 12 * devicePixelRatio;
      const { data } = canvas.getContext("2d")!.getImageData((canvas.width - size) / 2, (canvas.height - size) / 2, size, size); // prettier-ignore
      return data.reduce((sum, code, i) => sum + (i % 4 === 1 ? code : 0), 0) / (data.length / 4);
    });
  await page.keyboard.down("Shift");
  for (const [x, y] of [
    [0.3, 0.2],
    [0.97, 0.9],
    [0.5, 0.75],
  ] as const) {
    await page.mouse.move(box.x + x * box.width, box.y + y * box.height, { steps: 2 });
    await page.keyboard.down("G");
    await expect(glass).toBeVisible();
    const grey = await greyAt(page, x, y, 3);
    if (x < 0.9) await expect.poll(async () => Math.abs((await shown()) - grey)).toBeLessThan(12);
    const { left, right, top, bottom } = await glass.evaluate((element) => element.getBoundingClientRect());
    expect(left).toBeGreaterThanOrEqual(pane.x);
    expect(right).toBeLessThanOrEqual(pane.x + pane.width);
    expect(top).toBeGreaterThanOrEqual(pane.y);
    expect(bottom).toBeLessThanOrEqual(pane.y + pane.height);
    await page.keyboard.up("G");
    await expect(glass).toHaveCount(0);
  }
  await page.keyboard.up("Shift");
});
