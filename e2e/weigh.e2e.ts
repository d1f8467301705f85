import { expect, test, type Page } from "@playwright/test";
import type { Print, Recipe } from "@yelm/core";
import { greyAt, lightnessOfCode, readCanvas, settle, weighOpen, Yelm } from "./yelm.ts";

let yelm: Yelm;
test.beforeAll(async () => {
  yelm = await Yelm.start(["orrow-0101.dng", "orrow-0107.dng"]);
});
test.afterAll(() => yelm.stop());

/** Opens a fresh print of a negative at Weigh. */
async function openWeigh(page: Page, fileName = "orrow-0101.dng"): Promise<string> {
  const negatives = await yelm.get<{ id: string; fileName: string }[]>("/negatives");
  const { id: negativeId } = negatives.find((one) => one.fileName === fileName)!;
  const made = await fetch(`${yelm.url}/api/prints`, {
    method: "POST",
    headers: { "content-type": "application/json" },
    body: JSON.stringify({ negativeId, name: "Weighed" }),
  });
  const { id } = (await made.json()) as Print;
  await page.goto(`${yelm.url}/prints/${id}`);
  await settle(page);
  await page.keyboard.press("3");
  await weighOpen(page);
  return id;
}

async function saved(page: Page, printId: string): Promise<Recipe> {
  await expect(page.getByTestId("save-mark")).toHaveAttribute("data-save", "saved");
  return (await yelm.get<Print>(`/prints/${printId}`)).recipe;
}

const rungs = (page: Page) => page.getByTestId("family-rungs");
const handle = (page: Page, family: string) => page.getByRole("slider", { name: `${family}, stops`, exact: true });
const moved = ({ weigh }: Recipe) => weigh.families.filter(({ stops }) => stops !== 0).map(({ name }) => name);

/** Places on the picture, in shares of it: the tower's brick, the green door, the sky. */
const BRICK = [0.79, 0.55] as const;
const DOOR = [0.444, 0.69] as const;
const SKY = [0.2, 0.06] as const;

async function lightnessAt(page: Page, [x, y]: readonly [number, number]): Promise<number> {
  await settle(page);
  return lightnessOfCode(await greyAt(page, x, y, 4));
}

/** A place of the picture on screen. */
async function onScreen(page: Page, [x, y]: readonly [number, number]): Promise<[number, number]> {
  const box = (await page.getByTestId("picture-canvas").boundingBox())!;
  return [box.x + x * box.width, box.y + y * box.height];
}

test("any rung's end is pulled by the pointer wherever that goes, and is saved when it is let go", async ({ page }) => {
  const id = await openWeigh(page);
  const ends = rungs(page).getByRole("slider");
  await expect(ends).not.toHaveCount(0);
  for (const index of [(await ends.count()) - 1, 0]) {
    const end = ends.nth(index);
    const name = (await end.getAttribute("aria-label"))!.replace(", stops", "");
    const at = (await end.boundingBox())!;
    const [x, y] = [at.x + at.width / 2, at.y + at.height / 2];
    await page.mouse.move(x, y);
    await page.mouse.down();
    // Over other ends, then off the chart, and back to two thirds of a zone below.
    await page.mouse.move(x, y - 60, { steps: 6 });
    await page.mouse.move(x + 300, y - 20, { steps: 4 });
    await page.mouse.move(x, y + 16, { steps: 4 });
    await page.mouse.up();
    const stops = async () => (await saved(page, id)).weigh.families.find((family) => family.name === name)?.stops ?? 0;
    await expect.poll(stops).toBeLessThan(-0.1);
    expect(Number(await handle(page, name).getAttribute("aria-valuenow"))).toBeCloseTo(await stops(), 2);
  }
});

test("merged neighbours are parted by one act, and it stays", async ({ page }) => {
  const id = await openWeigh(page);
  const door = () => lightnessAt(page, DOOR);
  const before = await door();
  const pairs = page.getByRole("list", { name: "Merged neighbours" }).getByRole("listitem");
  await expect(pairs.first()).toContainText("have become one grey");
  // The green door is in one of the worst pairs.
  const pair = pairs.filter({ hasText: "green" });
  // Pointing at a pair shows where the two touch, until it is parted.
  await pair.hover();
  await expect(page.getByTestId("family-dots")).toBeVisible();
  const count = await pairs.count();
  await pair.getByRole("button", { name: "Part them" }).click();
  await expect(page.getByText(/^Moved .* stops\./)).toBeVisible();
  await expect(pairs).not.toHaveCount(count);
  await page.mouse.move(900, 20);
  // Farther by hand: one rung is pulled down.
  await handle(page, "green").focus();
  for (let i = 0; i < 4; i++) await page.keyboard.press("ArrowDown");
  await settle(page);
  expect(Math.abs((await door()) - before)).toBeGreaterThan(4);
  const recipe = await saved(page, id);
  expect(moved(recipe)).toContain("green");
  await page.reload();
  await settle(page);
  await weighOpen(page);
  expect(Math.abs((await door()) - before)).toBeGreaterThan(4);
  // All of it goes back step by step.
  for (let i = 0; i < 4; i++) await page.keyboard.press("Control+z");
  expect(moved(await saved(page, id))).toEqual([]);
});

test("what parting would do is seen while the pointer rests on it; nothing is taken until it is", async ({ page }) => {
  const id = await openWeigh(page, "orrow-0107.dng");
  const greys = async () => {
    const found: number[] = [];
    for (const place of [[0.2, 0.3], [0.5, 0.5], [0.8, 0.6], [0.3, 0.8]] as const) found.push(await lightnessAt(page, place)); // prettier-ignore
    return found;
  };
  const farthest = (a: number[], b: number[]) => Math.max(...a.map((v, i) => Math.abs(v - b[i])));
  const before = await greys();
  const revisions = async () => (await yelm.get<unknown[]>(`/prints/${id}/revisions`)).length;
  const made = await revisions();
  await page.getByRole("button", { name: /^Part all/ }).hover();
  await expect.poll(async () => farthest(await greys(), before)).toBeGreaterThan(3);
  await page.mouse.move(900, 780);
  await expect.poll(async () => farthest(await greys(), before)).toBeLessThan(0.3);
  expect(await revisions()).toBe(made);

  // The notice's Undo takes back the parting, and nothing that was done since.
  await page.getByRole("button", { name: /^Part all/ }).click();
  await page.getByTestId("notice").getByRole("button", { name: "Undo" }).click();
  await expect.poll(async () => farthest(await greys(), before)).toBeLessThan(0.3);
  await page.getByRole("button", { name: /^Part all/ }).click();
  await expect(page.getByTestId("notice")).toContainText("Moved");
  await page.mouse.move(900, 780);
  await page.keyboard.press("4");
  await page.getByRole("slider", { name: "Grade" }).focus();
  await page.keyboard.press("ArrowRight");
  const { head } = await saved(page, id).then(() => yelm.get<Print>(`/prints/${id}`));
  await page.getByTestId("notice").getByRole("button", { name: "Undo" }).click();
  await expect(page.getByText("Something else was done since")).toBeVisible();
  expect((await yelm.get<Print>(`/prints/${id}`)).head).toBe(head);
});

test("a rung pulled with the mouse moves its family; pinned families are left alone by the solver", async ({
  page,
}) => {
  const id = await openWeigh(page);
  await rungs(page)
    .getByRole("button", { name: /^greyish sky blue/ })
    .click();
  const before = await lightnessAt(page, SKY);
  const box = (await handle(page, "greyish sky blue").boundingBox())!;
  const [x, y] = [box.x + box.width / 2, box.y + box.height / 2];
  await page.mouse.move(x, y);
  await page.mouse.down();
  await page.mouse.move(x, y + 62, { steps: 8 });
  // Nothing lies over the picture while it is judged, whichever rungs are crossed.
  await expect(page.getByTestId("family-dots")).toHaveCount(0);
  await page.mouse.up();
  const after = await lightnessAt(page, SKY);
  expect(after).toBeLessThan(before - 10);
  expect((await saved(page, id)).weigh.families.find(({ name }) => name === "greyish sky blue")!.stops).toBeLessThan(
    -0.7,
  );
  await page.getByRole("button", { name: "Pin", exact: true }).click();
  await page.getByRole("button", { name: "To Zone VII", exact: true }).click();
  await expect(page.getByText(/Not all the way: what would have to move is pinned/)).toBeVisible();
  await page.getByRole("button", { name: "Pinned", exact: true }).click();
  await page.getByRole("button", { name: "To Zone VII", exact: true }).click();
  await expect(page.getByText(/^Moved greyish sky blue/)).toBeVisible();
  expect(await lightnessAt(page, SKY)).toBeGreaterThan(after + 15);
});

test("families are moved, picked, named, split and joined on the picture", async ({ page }) => {
  const id = await openWeigh(page);
  const [x, y] = await onScreen(page, SKY);
  await page.mouse.move(x - 8, y);
  await expect(rungs(page).getByRole("button", { name: /^greyish sky blue/, pressed: true })).toBeVisible();
  await expect(page.getByTestId("family-dots")).toHaveCount(0);
  await page.keyboard.press("u");
  await page.mouse.move(x, y);
  await expect(page.getByTestId("family-dots")).toBeVisible();
  await expect(page.getByTestId("family-overlay").getByText("Zone")).toBeVisible();
  await page.mouse.down();
  await page.mouse.move(x, y + 90, { steps: 6 });
  await page.mouse.up();
  await page.keyboard.press("Escape");
  expect(moved(await saved(page, id))).toEqual(["greyish sky blue"]);
  await page.getByRole("button", { name: "Maybe sky? Call it so" }).click();
  await expect(handle(page, "sky")).toHaveCount(1);
  const count = (await saved(page, id)).weigh.families.length;
  await page.getByRole("button", { name: "Split" }).click();
  await expect.poll(async () => (await saved(page, id)).weigh.families.length).toBe(count + 1);
  await page.keyboard.press("Control+z");
  await page.keyboard.press("y");
  await page.mouse.click(...(await onScreen(page, DOOR)));
  await expect(handle(page, "green, picked")).toHaveCount(1);
  await expect(page.getByLabel("Name of the family")).toBeVisible();
  await page.getByLabel("Name of the family").fill("door");
  await page.getByLabel("Name of the family").press("Enter");
  await expect.poll(async () => (await saved(page, id)).weigh.families.map(({ name }) => name)).toContain("door");
  await rungs(page).getByRole("button", { name: /^terracotta/ }).click({ modifiers: ["Shift"] }); // prettier-ignore
  await page.getByRole("button", { name: "Make one" }).click();
  await expect.poll(async () => (await saved(page, id)).weigh.families.length).toBe(count);
  // As a print of before has it: told, shown while pointed at, brought over in one act.
  await page.getByRole("button", { name: /^Hue and lightness/ }).click();
  await page.getByRole("radio", { name: "the nearer one’s" }).click();
  const over = page.getByRole("button", { name: "Share it as light mixes" });
  await settle(page);
  const nearest = await readCanvas(page);
  await over.hover();
  const differs = async () =>
    Buffer.compare(Buffer.from((await readCanvas(page)).rgba), Buffer.from(nearest.rgba)) !== 0;
  await expect.poll(differs).toBe(true);
  expect((await saved(page, id)).weigh.passage).toBe("nearness");
  await over.click();
  await expect(over).toHaveCount(0);
  await expect.poll(async () => (await saved(page, id)).weigh.passage).toBe("mixture");
});

test("film and filter: the sky goes dark behind red, factor and curves are shown, a broken table changes nothing", async ({
  page,
}) => {
  const id = await openWeigh(page);
  const before = await lightnessAt(page, SKY);
  await page.getByRole("tab", { name: "Film" }).click();
  await page.getByRole("button", { name: "Take this film" }).click();
  await page.getByRole("radiogroup", { name: "Filter" }).getByRole("radio", { name: "red" }).click();
  await expect(page.getByTestId("filter-factor")).toContainText("stops of exposure");
  expect(await lightnessAt(page, SKY)).toBeLessThan(before - 5);
  await expect(page.getByText("Over panchromatic through red, daylight")).toBeVisible();
  const film = page.getByLabel("Own film from a table");
  await film.setInputFiles({ name: "odd.csv", mimeType: "text/csv", buffer: Buffer.from("400,1\n500,x") });
  await expect(page.getByText(/odd\.csv is no film curve\. Expected “wavelength, value” on line 2/)).toBeVisible();
  expect((await saved(page, id)).weigh.film.film).toBe("panchromatic");
  await film.setInputFiles({
    name: "violet.csv",
    mimeType: "text/csv",
    buffer: Buffer.from("380,1\n450,1\n460,0\n700,0"),
  });
  await expect.poll(async () => (await saved(page, id)).weigh.film.ownFilm?.name).toBe("violet");
  await page.getByRole("radiogroup", { name: "Filter" }).getByRole("radio", { name: "none" }).click();
  expect(await lightnessAt(page, SKY)).toBeGreaterThan(before + 5);
  await page.getByRole("button", { name: "Put aside" }).click();
  expect(Math.abs((await lightnessAt(page, SKY)) - before)).toBeLessThan(1);
});

test("starting points: at least eight are rendered, one is taken; dice repeat", async ({ page }) => {
  const id = await openWeigh(page);
  await page.keyboard.press("l");
  const strip = page.getByRole("region", { name: "Starting points" });
  await expect(strip.getByTestId("sketch").nth(7)).toBeVisible();
  const means = () =>
    strip.getByTestId("sketch").evaluateAll((canvases) =>
      (canvases as HTMLCanvasElement[]).slice(0, 8).map((canvas) => {
        const { data } = canvas.getContext("2d")!.getImageData(0, 0, canvas.width, canvas.height);
        return data.reduce((sum, v, i) => (i % 4 === 3 ? sum : sum + v), 0) / data.length;
      }),
    );
  await expect.poll(async () => new Set((await means()).map((v) => v.toFixed(2))).size).toBeGreaterThan(5);
  const before = await lightnessAt(page, SKY);
  await strip.getByRole("button", { name: /^Red / }).click();
  expect(await lightnessAt(page, SKY)).toBeLessThan(before - 5);
  expect((await saved(page, id)).weigh).toMatchObject({ by: "film", film: { film: "panchromatic", filter: "red" } });
  const taken = (await saved(page, id)).weigh;
  await page.keyboard.press("l");
  await page.keyboard.press("d");
  await expect.poll(async () => (await saved(page, id)).weigh).not.toEqual(taken);
  const first = (await saved(page, id)).weigh;
  await page.keyboard.press("l");
  await expect(strip.getByTestId("sketch").first()).toBeVisible();
  await page.keyboard.press("d");
  await page.waitForTimeout(1500);
  expect((await saved(page, id)).weigh).toEqual(first);
});

test("an area has weights of its own; outside it nothing changes", async ({ page }) => {
  const id = await openWeigh(page);
  const [sky, brick] = [await lightnessAt(page, SKY), await lightnessAt(page, BRICK)];
  await page.getByRole("tab", { name: "Areas" }).click();
  await page.keyboard.press("e");
  const [x, y] = await onScreen(page, SKY);
  await page.mouse.move(x, y);
  await page.mouse.down();
  await page.mouse.move(x + 90, y + 60, { steps: 5 });
  await page.mouse.up();
  await page.getByLabel("Blue light, number").fill("-1");
  await page.getByLabel("Blue light, number").press("Enter");
  expect(await lightnessAt(page, SKY)).toBeLessThan(sky - 10);
  expect(Math.abs((await lightnessAt(page, BRICK)) - brick)).toBeLessThan(0.5);
  const { weigh } = await saved(page, id);
  expect(weigh.areas).toHaveLength(1);
  expect(weigh.areas[0]).toMatchObject({ blue: -1, on: true });
  await page.getByRole("button", { name: "Switch Area 1 off" }).click();
  expect(Math.abs((await lightnessAt(page, SKY)) - sky)).toBeLessThan(0.5);
});
