import { expect, test } from "@playwright/test";
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
