import { expect, test } from "@playwright/test";
import { greyAt, savedRecipe, settle, Yelm } from "./yelm.ts";

let yelm: Yelm;
test.beforeAll(async () => {
  yelm = await Yelm.start(["orrow-0103.dng"]);
});
test.afterAll(() => yelm.stop());

test("a sky is built zone by zone inside an outline, read at the pointer, mapped, halved, and is there again", async ({
  page,
}) => {
  const [{ id }] = await yelm.get<{ id: string }[]>("/prints");
  const moves = async () => (await savedRecipe(yelm, page, id)).light.moves;
  await page.goto(`${yelm.url}/prints/${id}`);
  await settle(page);
  await page.keyboard.press("5");
  const box = (await page.getByTestId("picture-canvas").boundingBox())!;
  const at = (x: number, y: number): [number, number] => [box.x + x * box.width, box.y + y * box.height];
  await page.keyboard.press("v");
  await page.mouse.move(...at(0.05, 0.05));
  await page.mouse.down();
  for (const [x, y] of [
    [0.5, 0.03],
    [0.95, 0.06],
    [0.96, 0.34],
    [0.5, 0.4],
    [0.05, 0.36],
    [0.05, 0.08],
  ] as const)
    // prettier-ignore
    await page.mouse.move(...at(x, y), { steps: 8 });
  await page.mouse.up();
  await expect.poll(async () => (await moves()).length).toBe(1);
  const [{ shape }] = await moves();
  expect(shape.kind === "outline" && shape.points.length).toBeGreaterThan(20);
  // Whole outline first: half a stop down by its keys, told at the pointer, nothing beyond it.
  const SKY = [0.45, 0.2] as const;
  const WATER = [0.4, 0.75] as const;
  const reading = page.getByTestId("light-reading");
  await page.mouse.move(...at(...SKY));
  await expect(reading).toContainText("−½");
  await page.mouse.move(...at(...WATER));
  await expect(reading).toContainText("No move reaches here");
  // Then each zone found inside it by itself.
  await settle(page);
  const [skyBefore, waterBefore] = [await greyAt(page, ...SKY), await greyAt(page, ...WATER)];
  await page.keyboard.press("z");
  const zones = page.getByRole("list", { name: "Zones inside the shape" }).getByRole("listitem");
  await expect(zones.first()).toContainText("%");
  const shares = await zones.allInnerTexts();
  expect(shares.length).toBeGreaterThan(2);
  await page.keyboard.press("ArrowLeft");
  await page.keyboard.press("ArrowUp");
  for (let i = 0; i < 3; i++) await page.keyboard.press("ArrowLeft");
  const built = async () => (await moves())[0].byZone.filter((stops) => stops !== 0).map((stops) => Math.round(6 * stops)); // prettier-ignore
  await expect.poll(built).toEqual([-1, -3]);
  await settle(page);
  expect(await greyAt(page, ...SKY)).toBeLessThan(skyBefore - 4);
  expect(Math.abs((await greyAt(page, ...WATER)) - waterBefore)).toBeLessThan(0.6);
  // Every press is taken back by itself.
  await page.keyboard.press("Control+z");
  await expect.poll(async () => Math.round(6 * Math.min(...(await moves())[0].byZone))).toBe(-2);
  await page.keyboard.press("Control+Shift+z");
  await page.keyboard.press("Escape");
  // A move on the whole picture, limited to the lights; then everything is halved.
  await page.keyboard.press("Shift+A");
  await page.mouse.click(...at(0.5, 0.8));
  await expect.poll(async () => (await moves()).length).toBe(2);
  await page.getByRole("textbox", { name: "From zone, number" }).fill("7");
  await page.keyboard.press("Enter");
  await expect.poll(async () => (await moves())[1].zones.from).toBe(7);
  await settle(page);
  expect(Math.abs((await greyAt(page, ...WATER)) - waterBefore)).toBeLessThan(1.5);
  await page.keyboard.press("Shift+H");
  await expect.poll(async () => (await moves()).map(({ amountPercent }) => amountPercent)).toEqual([50, 50]);
  await page.keyboard.down("j");
  await expect(page.getByTestId("burn-map")).toBeVisible();
  await page.keyboard.up("j");
  await expect(page.getByTestId("burn-map")).toHaveCount(0);
  await settle(page);
  const grey = await greyAt(page, ...SKY);
  await page.reload();
  await settle(page);
  expect(Math.abs((await greyAt(page, ...SKY)) - grey)).toBeLessThan(0.6);
});

test("a sky that stands ready is held back without the reeds, the rest turned round, grouped and corrected", async ({
  page,
}) => {
  const [first] = await yelm.get<{ id: string }[]>("/prints");
  await page.goto(`${yelm.url}/prints/${first.id}`);
  await settle(page);
  await page.keyboard.press("n");
  await expect(page.getByLabel("Name of the print")).toHaveValue("Print 2");
  const id = page.url().split("/").at(-1)!;
  const light = async () => (await savedRecipe(yelm, page, id)).light;
  await settle(page);
  await page.keyboard.press("5");
  const box = (await page.getByTestId("picture-canvas").boundingBox())!;
  const at = (x: number, y: number): [number, number] => [box.x + x * box.width, box.y + y * box.height];
  const [SKY, REEDS] = [[0.45, 0.12], [0.1, 0.75]] as const; // prettier-ignore
  const [sky, reeds] = [await greyAt(page, ...SKY), await greyAt(page, ...REEDS)];
  await page.keyboard.press("Shift+V");
  const ready = page.getByRole("group", { name: "Regions that stand ready" });
  await ready.getByRole("button", { name: "sky" }).hover();
  await expect(page.getByTestId("region-border")).toBeVisible();
  await ready.getByRole("button", { name: "sky" }).click();
  await expect.poll(async () => (await light()).moves.map(({ shape }) => shape.kind)).toEqual(["region"]);
  await settle(page);
  const held = await greyAt(page, ...SKY);
  expect(held).toBeLessThan(sky - 4);
  expect(Math.abs((await greyAt(page, ...REEDS)) - reeds)).toBeLessThan(0.6);

  await test.step("a brush takes a part of the sky off again", async () => {
    await page.keyboard.press("Shift+K");
    await page.keyboard.press("p");
    await page.mouse.move(...at(0.42, 0.12));
    await page.mouse.down();
    for (let i = 0; i < 6; i++) await page.mouse.move(...at(0.42 + 0.012 * i, 0.12), { steps: 2 });
    await page.mouse.up();
    await expect.poll(async () => (await light()).moves[0].shape.kind).toBe("joined");
    await page.keyboard.press("Escape");
    const [move] = (await light()).moves;
    expect(move.shape.kind === "joined" && move.shape.parts.map(({ how }) => how)).toEqual(["join", "subtract"]);
    await settle(page);
    expect(await greyAt(page, ...SKY)).toBeGreaterThan(held + 1);
  });

  await test.step("the opposite everywhere else, both in a group of half the amount", async () => {
    await page.keyboard.press("Shift+O");
    await expect.poll(async () => (await light()).moves.map(({ stops, invert }) => [stops, invert])).toEqual([[-0.5, false], [0.5, true]]); // prettier-ignore
    await page.getByLabel("Group of the move").selectOption("new");
    await page.getByLabel("Group amount, number").fill("50");
    await page.keyboard.press("Enter");
    await expect.poll(async () => (await light()).groups.map(({ amountPercent }) => amountPercent)).toEqual([50]);
    await settle(page);
    const lifted = await greyAt(page, ...REEDS);
    expect(lifted).toBeGreaterThan(reeds + 1);
    await page.keyboard.down("Shift");
    await page.keyboard.down("B");
    await settle(page);
    expect(Math.abs((await greyAt(page, ...REEDS)) - reeds)).toBeLessThan(0.6);
    await page.keyboard.up("B");
    await page.keyboard.up("Shift");
    await settle(page);
    expect(Math.abs((await greyAt(page, ...REEDS)) - lifted)).toBeLessThan(0.6);
  });

  await test.step("local contrast for it alone; a linked copy follows", async () => {
    await page.getByRole("button", { name: "Effects of the move" }).click();
    await page.getByLabel("Local contrast, number").fill("60");
    await page.keyboard.press("Enter");
    await page.getByRole("button", { name: "Linked copy" }).click();
    await page.getByLabel("Local contrast, number").fill("20");
    await page.keyboard.press("Enter");
    await expect.poll(async () => (await light()).moves.map(({ effects }) => effects.local)).toEqual([0, 0.2, 0.2]);
  });

  await test.step("a row is dragged before the first", async () => {
    const rows = page.getByRole("list", { name: "Light moves" }).getByRole("listitem");
    const names = () => rows.allInnerTexts().then((texts) => texts.map((text) => text.split("\n")[1]));
    const [top, , last] = await names();
    await rows.nth(0).scrollIntoViewIfNeeded();
    const [from, to] = [(await rows.nth(2).boundingBox())!, (await rows.nth(0).boundingBox())!];
    await page.mouse.move(from.x + 60, from.y + from.height / 2);
    await page.mouse.down();
    await page.mouse.move(from.x + 60, from.y - 20, { steps: 5 });
    await page.mouse.move(to.x + 60, to.y + 6, { steps: 10 });
    await page.mouse.up();
    await expect.poll(names).toEqual([last, top, expect.any(String)]);
  });
});
