import { expect, test, type Page } from "@playwright/test";
import type { Print, PrintNotes, SetEntry } from "@yelm/core";
import { readCanvas, settle, Yelm } from "./yelm.ts";

const FILES = ["0101", "0103", "0104", "0106", "0108", "0112"].map((number) => `orrow-${number}.dng`);
let yelm: Yelm;
test.beforeAll(async () => {
  yelm = await Yelm.start(FILES);
});
test.afterAll(() => yelm.stop());

/** The first print of a negative. */
async function printOf(number: string): Promise<Print> {
  const negatives = await yelm.get<{ id: string; fileName: string }[]>(`/negatives?roll=${await rollId()}`);
  const negative = negatives.find(({ fileName }) => fileName.includes(number))!;
  return (await yelm.get<Print[]>(`/prints?negative=${negative.id}`))[0];
}
const rollId = async () => (await yelm.get<{ id: string }[]>("/rolls"))[0].id;
const notesOf = (id: string) => yelm.get<PrintNotes>(`/prints/${id}/notes`);

/** A loop drawn by hand, places in shares of the picture pane. */
async function loop(page: Page, cx: number, cy: number, rx: number, ry: number): Promise<void> {
  const box = (await page.getByTestId("picture").boundingBox())!;
  for (let i = 0; i <= 20; i++) {
    const angle = (Math.PI * i) / 10;
    const [x, y] = [box.x + box.width * (cx + rx * Math.cos(angle)), box.y + box.height * (cy + ry * Math.sin(angle))];
    await page.mouse.move(x, y);
    if (i === 0) await page.mouse.down();
  }
  await page.mouse.up();
}

test("from the sentence through the stations to a second look without findings; the plan stays, and is undone", async ({
  page,
}) => {
  const { id } = await printOf("0101");
  await page.goto(`${yelm.url}/prints/${id}`);
  await settle(page);

  await test.step("a fresh print opens at Intend, which reads the capture", async () => {
    await expect(page.getByRole("main", { name: "Intend sheet" })).toBeVisible();
    await expect(page.getByTestId("capture-reading")).toContainText(/The light spans \d+\.\d stops/);
    await expect(page.getByTestId("capture-reading")).toContainText("The eye goes to");
  });

  await test.step("one sentence, a key, the subject in one gesture; undo and redo as everywhere", async () => {
    // Keeping takes its time: what is taken back is still on its way.
    await page.route("**/notes", async (route) => {
      await new Promise((done) => setTimeout(done, 400));
      await route.continue();
    });
    await page.getByLabel("What the picture is to say").fill("The warm house against a sky that steps back.");
    await page.keyboard.press("Enter");
    await page.keyboard.press("v");
    await loop(page, 0.52, 0.5, 0.2, 0.18);
    await expect(page.getByTestId("plan").getByText("the subject")).toBeVisible();
    await page.keyboard.press("Control+z");
    await expect(page.getByTestId("plan").getByText("the subject")).toHaveCount(0);
    await page.keyboard.press("Control+Shift+z");
    await expect(page.getByTestId("plan").getByText("the subject")).toBeVisible();
    await expect.poll(async () => (await notesOf(id)).notes.plan.marks.map(({ kind }) => kind)).toEqual(["subject"]);
    await page.unrouteAll({ behavior: "wait" });
  });

  await test.step("it is found exactly, and lies over the picture in any station while its key is held", async () => {
    await page.getByRole("button", { name: "Find it" }).click();
    await expect.poll(async () => (await notesOf(id)).notes.plan.marks[0].shape.kind).toBe("region");
    await page.keyboard.press("2");
    await expect(page.getByTestId("plan")).toHaveCount(0);
    await page.keyboard.down("Shift");
    await page.keyboard.down("Z");
    await expect(page.getByTestId("plan")).toBeVisible();
    await page.keyboard.up("Z");
    await page.keyboard.up("Shift");
    await expect(page.getByTestId("plan")).toHaveCount(0);
  });

  await test.step("what a second look finds is mended, one act each, or meant so, until nothing is left", async () => {
    await page.keyboard.press("7");
    const findings = page.getByRole("list", { name: "Findings" });
    await expect(findings).toHaveAttribute("data-pending", "false", { timeout: 60_000 });
    expect(await findings.getByRole("listitem").count()).toBeGreaterThan(0);
    const white = findings.locator('[data-kind="clipped white"]');
    await white.getByRole("button", { name: "White point at the first speck" }).click();
    await expect(white).toHaveCount(0, { timeout: 60_000 });
    for (let i = 0; i < 8; i++) {
      await expect(findings).toHaveAttribute("data-pending", "false", { timeout: 60_000 });
      const first = findings.getByRole("listitem").first();
      if ((await first.count()) === 0) break;
      await first.getByRole("button", { name: "It is meant so" }).click();
      await page.getByLabel("Why it is meant so").fill("seen, and wanted");
      await page.keyboard.press("Enter");
    }
    await expect(page.getByTestId("no-findings")).toContainText("What did is meant so.");
    const { notes } = await notesOf(id);
    expect(notes.meant.every(({ reason }) => reason === "seen, and wanted")).toBe(true);
    expect((await printOf("0101")).recipe.shape.whitePoint).toBeGreaterThan(2.48);
  });

  await test.step("a state is named, compared by wipe, and returned to", async () => {
    await page.keyboard.press("Shift+A");
    await page.getByLabel("Name of the state").fill("Before the grade");
    await page.keyboard.press("Enter");
    await expect(page.getByRole("list", { name: "Named states" })).toContainText("Before the grade");
    const { head } = await printOf("0101");
    await page.keyboard.press("4");
    await page.getByLabel("Grade, number").fill("3.4");
    await page.keyboard.press("Enter");
    await expect.poll(async () => (await printOf("0101")).recipe.shape.grade).toBe(3.4);
    await page.keyboard.press("7");
    await page.getByRole("list", { name: "Named states" }).getByRole("button", { name: "Compare" }).click();
    await expect(page.locator('[data-testid="other-picture"][data-drawn="true"]')).toBeVisible();
    await page.keyboard.press("i");
    await expect(page.getByTestId("difference")).toContainText("Against Before the grade: lighter by up to");
    await page.keyboard.press("Escape");
    await page.getByRole("button", { name: /^Before the grade/ }).click();
    await expect.poll(async () => (await printOf("0101")).head).toBe(head);
  });

  await test.step("another negative’s print lies beside it, and the subject’s contrast is told over the work", async () => {
    const { id: other } = await printOf("0108");
    await page.getByLabel("Compare with").selectOption(JSON.stringify({ kind: "elsewhere", id: other }));
    const beside = page.locator('[data-testid="elsewhere-picture"][data-drawn="true"]');
    await expect(beside).toBeVisible();
    await page.getByRole("radio", { name: "side by side" }).click();
    await expect(beside).toBeVisible();
    await page.keyboard.press("Escape");
    await page.getByRole("button", { name: "Its history over the work" }).click();
    await expect(page.getByTestId("selective-history")).toContainText(/From \d+\.\d to \d+\.\d times/);
  });
});

test("a spread of six prints is brought down to one", async ({ page }) => {
  await page.goto(`${yelm.url}/rolls/${await rollId()}`);
  await page.keyboard.press("Control+a");
  await page.getByRole("button", { name: /^Spread/ }).click();
  const spread = page.getByLabel("Spread", { exact: true });
  await expect(spread.getByRole("img")).toHaveCount(6);
  for (let left = 5; left >= 1; left--) {
    await page.keyboard.press("ArrowRight");
    await page.keyboard.press("x");
    await expect(spread.getByRole("img")).toHaveCount(left);
  }
  await expect(page.getByText("One is left")).toBeVisible();
  await page.keyboard.press("x");
  await expect(spread.getByRole("img")).toHaveCount(1);
  await page.keyboard.press("Control+z");
  await expect(spread.getByRole("img")).toHaveCount(2);
});

test("three of a roll are matched to one, seen first, and taken back at once", async ({ page }) => {
  const roll = await rollId();
  const set = () => yelm.get<SetEntry[]>(`/rolls/${roll}/set`);
  await page.goto(`${yelm.url}/rolls/${roll}/set`);
  await expect(page.getByRole("table", { name: "Prints of the set" })).toBeVisible({ timeout: 60_000 });
  const before = await set();
  await page
    .getByRole("radio", { name: /^Pattern/ })
    .nth(2)
    .click();
  for (const i of [1, 3, 5])
    await page
      .getByRole("checkbox", { name: /^Match/ })
      .nth(i)
      .click();
  const plan = page.getByRole("list", { name: "What would change" });
  await expect(plan.getByRole("listitem")).toHaveCount(3);
  await expect(plan).toContainText("exposure");
  expect(await set()).toEqual(before);
  await page.getByRole("button", { name: "Match 3 prints" }).click();
  await expect(page.getByText(/Matched to .* on 3 prints\./)).toBeVisible();
  const after = await set();
  for (const i of [1, 3, 5]) expect(Math.abs(after[i].tones.middle - after[2].tones.middle)).toBeLessThan(0.2);
  await page.getByRole("button", { name: "Undo" }).click();
  await expect(page.getByText("All of it was taken back.")).toBeVisible();
  expect((await set()).map(({ head }) => head)).toEqual(before.map(({ head }) => head));
});

test("one look over the whole roll, two prints adjusted: a cold and warm tone by two baths, grain at 100 % and at print distance", async ({
  page,
}) => {
  const roll = await rollId();
  const prints = () => yelm.get<Print[]>(`/prints?roll=${roll}`);
  await page.goto(`${yelm.url}/rolls/${roll}/set`);
  const match = page.getByRole("checkbox", { name: /^Match/ });
  await expect(match).toHaveCount(FILES.length, { timeout: 60_000 });
  const before = await prints();

  await test.step("the look is fitted to each", async () => {
    for (let i = 0; i < FILES.length; i++) await match.nth(i).click();
    const looks = page.getByRole("region", { name: "A look on many" });
    await looks.getByLabel("Look").selectOption({ label: "Gritty" });
    await looks.getByRole("button", { name: `Lay it on ${FILES.length}` }).click();
    await expect(page.getByText(/“Gritty” laid on 6 prints\./)).toBeVisible({ timeout: 60_000 });
    const after = await prints();
    const changed = after.filter(({ id, head }) => before.find((one) => one.id === id)?.head !== head);
    expect(changed).toHaveLength(FILES.length);
    expect(new Set(changed.map(({ recipe }) => recipe.shape.whitePoint)).size).toBeGreaterThan(2);
    for (const { recipe } of changed) expect(recipe.finish.grain.granularity).toBe(30);
  });

  await test.step("one gets cold darks and warm lights over two baths", async () => {
    const { id } = await printOf("0104");
    await page.goto(`${yelm.url}/prints/${id}`);
    await settle(page);
    await page.keyboard.press("6");
    await page.getByRole("radiogroup", { name: "Toner", exact: true }).getByText("gold").click();
    await page.getByRole("radiogroup", { name: "Second bath" }).getByText("selenium").click();
    for (const [label, value] of [
      ["Tone the darks", "60"],
      ["Tone the lights", "60"],
    ] as const) {
      // prettier-ignore
      await page.getByLabel(`${label}, number`).fill(value);
      await page.keyboard.press("Enter");
    }
    await settle(page);
    const { width, height, rgba } = await readCanvas(page);
    // Red less blue, by how light the place is.
    const [dark, light] = [[0, 0], [0, 0]]; // prettier-ignore
    for (let i = 0; i < width * height; i++) {
      const [r, , b] = rgba.subarray(4 * i, 4 * i + 3);
      const sum = r < 70 ? dark : r > 170 ? light : null;
      if (!sum) continue;
      sum[0] += r - b;
      sum[1]++;
    }
    expect(light[0] / light[1] - dark[0] / dark[1]).toBeGreaterThan(4);
    // The picture is there before the server has taken the change.
    await expect
      .poll(async () => (await printOf("0104")).recipe.finish.toning)
      .toMatchObject({ toner: "gold", second: "selenium" });
  });

  await test.step("of another the grain is judged at 100 % and as on paper, and made coarser", async () => {
    const { id } = await printOf("0101");
    await page.goto(`${yelm.url}/prints/${id}`);
    await settle(page);
    await page.keyboard.press("6");
    const scale = () => page.getByTestId("picture-canvas").getAttribute("data-scale").then(Number);
    const fit = await scale();
    await page.keyboard.press("g");
    await settle(page);
    expect(await scale()).toBe(1);
    await page.keyboard.press("Shift+X");
    await settle(page);
    const onPaper = await scale();
    expect(onPaper).toBeGreaterThan(fit);
    expect(onPaper).not.toBe(1);
    await page.getByLabel("Granularity, number").fill("24");
    await page.keyboard.press("Enter");
    await expect.poll(async () => (await printOf("0101")).recipe.finish.grain.granularity).toBe(24);
  });
});
