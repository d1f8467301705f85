import { readFile } from "node:fs/promises";
import { createRequire } from "node:module";
import { join } from "node:path";
import { expect, test, type Page } from "@playwright/test";
import { greyAt, lightnessOfCode, readCanvas, ROOT, settle, Yelm } from "./yelm.ts";

const sharp = createRequire(join(ROOT, "packages/server/package.json"))("sharp") as (input: Buffer) => {
  toColourspace(space: string): ReturnType<typeof sharp>;
  raw(options?: { depth: string }): ReturnType<typeof sharp>;
  toBuffer(options: { resolveWithObject: true }): Promise<{
    data: Buffer;
    info: { width: number; height: number; channels: number };
  }>;
  metadata(): Promise<{ depth: string; space: string; icc?: Buffer; width: number; height: number }>;
};

interface Kept {
  id: string;
  name: string;
  recipe: {
    weigh: { red: number; blue: number };
    shape: { curve: number[][] };
    light: { moves: { stops: number; shape: { kind: string } }[] };
    finish: { grain: { granularity: number }; toning: { toner: string } };
  };
}

let yelm: Yelm;
test.beforeAll(async () => {
  yelm = await Yelm.start(["orrow-0101.dng", "orrow-0105.dng"]);
});
test.afterAll(() => yelm.stop());

/** Types a number into an amount of the sheet. */
async function amount(page: Page, label: string, value: string): Promise<void> {
  const field = page.getByLabel(`${label}, number`, { exact: true });
  await field.fill(value);
  await field.press("Enter");
}

const saved = (page: Page) => expect(page.getByTestId("save-mark")).toHaveAttribute("data-save", "saved");
const theOnly = async (): Promise<Kept> => (await yelm.get<Kept[]>("/prints")).find((p) => p.name === "Dark sky")!;

test("from the roll to a finished file, with a crash in the middle", async ({ page }) => {
  await page.goto(yelm.url);
  await page.getByRole("link", { name: /Test roll/ }).click();
  await page.getByRole("link", { name: /orrow-0101/ }).click();
  await settle(page);
  await page.getByLabel("Name of the print").fill("Dark sky");
  await page.getByLabel("Name of the print").press("Enter");
  const skyBefore = await greyAt(page, 0.3, 0.08);

  await test.step("weigh: the sky goes darker, the sum stays", async () => {
    await page.keyboard.press("3");
    await page.getByRole("tab", { name: "Weights" }).click();
    await amount(page, "Blue light", "−0.5");
    await expect(page.getByRole("button", { name: /sum 1\.00/ })).toBeVisible();
    await settle(page);
    expect(await greyAt(page, 0.3, 0.08)).toBeLessThan(skyBefore - 15);
  });

  await test.step("shape: a rung of the ladder is placed by hand", async () => {
    await page.keyboard.press("4");
    await amount(page, "Grade", "2.5");
    const rung = page.getByTestId("ladder").locator("circle", { hasText: /^0 prints/ });
    const box = (await rung.boundingBox())!;
    await page.mouse.move(box.x + 8, box.y + 8);
    await page.mouse.down();
    await page.mouse.move(box.x + 8, box.y - 22, { steps: 5 });
    await page.mouse.up();
    await saved(page);
    const { curve } = (await theOnly()).recipe.shape;
    expect(curve).toHaveLength(3);
    expect(curve[1][1]).toBeGreaterThan(curve[1][0]);
  });

  await test.step("light: an ellipse lifts, a brush burns the sky", async () => {
    await page.keyboard.press("5");
    await page.keyboard.press("e");
    const pane = (await page.getByTestId("picture").boundingBox())!;
    const at = (x: number, y: number) => [pane.x + x * pane.width, pane.y + y * pane.height] as const;
    await settle(page);
    const towerBefore = await greyAt(page, 0.73, 0.5);
    await page.mouse.move(...at(0.72, 0.5));
    await page.mouse.down();
    await page.mouse.move(...at(0.82, 0.75), { steps: 6 });
    await page.mouse.up();
    await amount(page, "Stops", "1");
    await settle(page);
    expect(await greyAt(page, 0.73, 0.5)).toBeGreaterThan(towerBefore + 12);

    const skyNow = await greyAt(page, 0.3, 0.08);
    await page.keyboard.press("p");
    await page.mouse.move(...at(0.2, 0.2));
    await page.mouse.down();
    await page.mouse.move(...at(0.5, 0.2), { steps: 12 });
    await page.mouse.up();
    await page.keyboard.press("Escape");
    await amount(page, "Stops", "-2");
    await settle(page);
    expect(await greyAt(page, 0.3, 0.08)).toBeLessThan(skyNow - 4);
    await saved(page);
  });

  await test.step("finish: grain and a tone that keeps lightness", async () => {
    await page.keyboard.press("6");
    const plain = await readCanvas(page);
    await page.getByRole("radio", { name: "sepia" }).click();
    await settle(page);
    const toned = await readCanvas(page);
    const i = 4 * (Math.floor(toned.height / 2) * toned.width + Math.floor(toned.width / 3));
    expect(toned.rgba[i]).toBeGreaterThan(toned.rgba[i + 2] + 4);
    expect(Math.abs(toned.rgba[i + 1] - plain.rgba[i + 1])).toBeLessThan(12);
    await amount(page, "Granularity", "12");
    await saved(page);
  });

  await test.step("before is held, then let go", async () => {
    await settle(page);
    const shown = await greyAt(page, 0.3, 0.08);
    await page.keyboard.down("b");
    await expect(page.getByText("before: plain luminance")).toBeVisible();
    await settle(page);
    expect(await greyAt(page, 0.3, 0.08)).toBeGreaterThan(shown + 15);
    await page.keyboard.up("b");
    await settle(page);
    expect(Math.abs((await greyAt(page, 0.3, 0.08)) - shown)).toBeLessThan(1);
  });

  await test.step("undo, redo", async () => {
    await page.keyboard.press("Control+z");
    await saved(page);
    expect((await theOnly()).recipe.finish.grain.granularity).toBe(0);
    await page.keyboard.press("Control+Shift+z");
    await saved(page);
    expect((await theOnly()).recipe.finish.grain.granularity).toBe(12);
  });

  await test.step("the server dies; edits go on, survive a reload, and arrive", async () => {
    await yelm.kill();
    await amount(page, "Granularity", "9");
    await expect(page.getByTestId("save-mark")).toHaveAttribute("data-save", "away");
    await yelm.up();
    await page.reload();
    await settle(page);
    await page.keyboard.press("6");
    await expect(page.getByLabel("Granularity, number")).toHaveValue("9");
    await saved(page);
    const { recipe } = await theOnly();
    expect(recipe.finish).toMatchObject({ grain: { granularity: 9 }, toning: { toner: "sepia" } });
    expect(recipe.light.moves.map((move) => move.shape.kind)).toEqual(["ellipse", "brush"]);
    for (let i = 0; i < 3; i++) await page.keyboard.press("Control+z");
    await saved(page);
    expect((await theOnly()).recipe.finish.toning.toner).toBe("none");
    for (let i = 0; i < 3; i++) await page.keyboard.press("Control+Shift+z");
    await saved(page);
  });

  await test.step("the files are the screen", async () => {
    await page.keyboard.press("6");
    await amount(page, "Granularity", "0");
    await settle(page);
    const screen = await readCanvas(page);
    await page.keyboard.press("8");
    for (const [i, format] of ["TIFF 16 bit", "JPEG"].entries()) {
      await page.getByRole("radio", { name: format }).click();
      await page.getByLabel("Long edge, pixels").fill(String(Math.max(screen.width, screen.height)));
      await page.keyboard.press("Escape");
      await page.getByRole("button", { name: /Write the file/ }).click();
      await expect(page.getByTestId("export")).toHaveCount(i + 1);
      const link = page.getByTestId("export").first().getByRole("link");
      await expect(page.getByTestId("export").first()).toHaveAttribute("data-state", "done");
      const [download] = await Promise.all([page.waitForEvent("download"), link.click()]);
      const file = await readFile(await download.path());
      expect(download.suggestedFilename()).toMatch(/^orrow-0101-Dark-sky\.(tif|jpg)$/);
      const metadata = await sharp(file).metadata();
      expect(metadata.icc).toBeDefined();
      expect(metadata.depth).toBe(format === "JPEG" ? "uchar" : "ushort");
      const { mean, p99 } = await differenceTo(screen, file);
      expect(mean).toBeLessThan(0.5);
      expect(p99).toBeLessThan(2);
    }
  });
});

/** |ΔL*| between the canvas and a file of the same size. */
async function differenceTo(screen: Awaited<ReturnType<typeof readCanvas>>, file: Buffer) {
  const { data, info } = await sharp(file)
    .toColourspace("rgb16")
    .raw({ depth: "ushort" })
    .toBuffer({ resolveWithObject: true });
  expect([info.width, info.height]).toEqual([screen.width, screen.height]);
  const codes = new Uint16Array(data.buffer, data.byteOffset, data.length / 2);
  const differences: number[] = [];
  for (let i = 0; i < info.width * info.height; i++)
    differences.push(
      Math.abs(lightnessOfCode(codes[info.channels * i + 1] / 257) - lightnessOfCode(screen.rgba[4 * i + 1])),
    );
  differences.sort((a, b) => a - b);
  return {
    mean: differences.reduce((a, b) => a + b, 0) / differences.length,
    p99: differences[Math.floor(0.99 * differences.length)],
  };
}
