import { readFile, writeFile } from "node:fs/promises";
import { join } from "node:path";
import { AxeBuilder } from "@axe-core/playwright";
import { expect, test, type Route } from "@playwright/test";
import type { Recipe } from "@yelm/core";
import { greyAt, readCanvas, ROOT, settle, weighOpen, Yelm } from "./yelm.ts";

interface Named {
  id: string;
  name: string;
}

interface Place {
  x: number;
  y: number;
  width: number;
  height: number;
}

let yelm: Yelm;
test.beforeAll(async () => {
  yelm = await Yelm.start(["orrow-0108.dng"]);
});
test.afterAll(() => yelm.stop());

test("files are brought in together; a broken one says why and the rest goes on", async ({ page }, info) => {
  const demo = join(ROOT, "demo/negatives");
  const broken = info.outputPath("broken.dng");
  const whole = await readFile(join(demo, "orrow-0103.dng"));
  await writeFile(broken, whole.subarray(0, 90_000).fill(7, 0, 64));
  await page.goto(yelm.url);
  await expect(page.getByRole("link", { name: /Test roll/ })).toBeVisible();
  await page.keyboard.press("n");
  await expect(page.getByText("Drop captures here")).toBeVisible();
  await page
    .getByTestId("file-input")
    .setInputFiles([join(demo, "orrow-0104.dng"), broken, join(demo, "orrow-0105.dng"), join(demo, "orrow-0108.dng")]);
  const tray = page.getByTestId("import-tray");
  await expect(tray.getByText("2 brought in, 1 already here, 1 not")).toBeVisible();
  await expect(tray.getByText(/broken, cut short or of an unknown kind/)).toBeVisible();
  await expect(page.getByTestId("frames").locator("li")).toHaveCount(2);
  await page.getByTestId("frames").locator("a").first().click();
  await settle(page);
});

test("a print that opens stands there small before its data are, from the roll and by its address, at the picture's place", async ({
  page,
}) => {
  const [print] = await yelm.get<Named[]>("/prints");
  const small = page.getByTestId("stand-in");
  const slow = (route: Route) => new Promise((done) => setTimeout(done, 1200)).then(() => route.continue());
  await page.goto(yelm.url);
  await page.getByRole("link", { name: /Test roll/ }).click();
  const frame = page.getByTestId("frames").locator(`a[href="/prints/${print.id}"]`);
  await expect.poll(() => frame.locator("img").evaluate((image: HTMLImageElement) => image.naturalWidth)).toBeGreaterThan(0); // prettier-ignore
  // Everything of the print but its small picture.
  await page.route(({ pathname }) => pathname.includes(print.id) && /\/api\/.*(?<!thumbnail)$/.test(pathname), slow);
  const seen = async () => {
    // Asked in one go: the page puts the small picture from one of its elements into another while it opens.
    const first = await page.waitForFunction(() => {
      const image = document.querySelector<HTMLImageElement>('[data-testid="stand-in"]');
      const { x, y, width, height } = image?.getBoundingClientRect() ?? new DOMRect();
      const late = document.querySelector('[data-testid="picture-canvas"]') !== null;
      return image?.naturalWidth && width > 0 && { x, y, width, height, late };
    });
    const { late, ...box } = (await first.jsonValue()) as Place & { late: boolean };
    expect(late).toBe(false);
    await settle(page);
    const picture = (await page.getByTestId("picture-canvas").boundingBox())!;
    // The image is fitted into its box, as the picture is into the pane.
    const middle = ({ x, y, width, height }: Place) => [x + width / 2, y + height / 2];
    middle(box).forEach((at, i) => expect(Math.abs(at - middle(picture)[i])).toBeLessThan(1.5));
    expect(Math.abs(box.width - picture.width)).toBeLessThan(2);
    await expect(small).toHaveCount(0);
  };
  await frame.click();
  await seen();
  await page.goto(`${yelm.url}/prints/${print.id}`);
  await seen();
});

test("prints of one negative: new, duplicate, put away and brought back, next by key", async ({ page }) => {
  const [print] = await yelm.get<Named[]>("/prints");
  await page.goto(`${yelm.url}/prints/${print.id}`);
  await settle(page);
  const names = page.locator("footer img + span");
  await page.keyboard.press("n");
  await expect(names).toHaveText(["First print", "Print 2"]);
  await expect(page.getByLabel("Name of the print")).toHaveValue("Print 2");
  await page.keyboard.press("Shift+C");
  await expect(names).toHaveText(["First print", "Print 2", "Print 3"]);
  await expect(page.getByLabel("Name of the print")).toHaveValue("Print 3");
  await page.keyboard.press("Shift+Delete");
  await expect(names).toHaveText(["First print", "Print 2"]);
  await expect(page.getByLabel("Name of the print")).toHaveValue("First print");
  await page.getByRole("button", { name: "Bring it back" }).click();
  await expect(names).toHaveText(["First print", "Print 2", "Print 3"]);
  await expect(page.getByLabel("Name of the print")).toHaveValue("Print 3");
  await page.keyboard.press(".");
  await expect(page.getByLabel("Name of the print")).toHaveValue("First print");
});

test("the ticket lists, strikes out and puts back; the history goes anywhere", async ({ page }) => {
  const [print] = await yelm.get<Named[]>("/prints");
  await page.goto(`${yelm.url}/prints/${print.id}`);
  await settle(page);
  await page.keyboard.press("3");
  await page.getByRole("tab", { name: "Weights" }).click();
  await page.getByRole("button", { name: "Red", exact: true }).click();
  await page.keyboard.press("t");
  const ticket = page.getByTestId("ticket");
  const line = ticket.getByRole("switch", { name: /red 1\.00, green 0\.00, blue 0\.00/ });
  await line.click();
  await expect(page.getByLabel("Red light, number")).toHaveValue("0.26");
  await ticket.getByRole("switch").click();
  await expect(page.getByLabel("Red light, number")).toHaveValue("1.00");
  await ticket.getByRole("tab", { name: "History" }).click();
  await ticket.getByRole("button", { name: /^Made/ }).click();
  await expect(page.getByLabel("Red light, number")).toHaveValue("0.26");
  await ticket.getByRole("button", { name: /^Red/ }).click();
  await expect(page.getByLabel("Red light, number")).toHaveValue("1.00");
});

test("two windows on one print: both changes are kept", async ({ page, context }) => {
  const [print] = await yelm.get<Named[]>("/prints");
  const other = await context.newPage();
  for (const window of [page, other]) {
    await window.goto(`${yelm.url}/prints/${print.id}`);
    await settle(window);
  }
  const type = async (window: typeof page, station: string, label: string, value: string) => {
    await window.keyboard.press(station);
    await window.getByLabel(`${label}, number`, { exact: true }).fill(value);
    await window.getByLabel(`${label}, number`, { exact: true }).press("Enter");
    await expect(window.getByTestId("save-mark")).toHaveAttribute("data-save", "saved");
  };
  await type(page, "2", "Exposure", "0.5");
  // What one window does, the other shows without being asked.
  await other.keyboard.press("2");
  await expect(other.getByLabel("Exposure, number", { exact: true })).toHaveValue("+½");
  // Cut off, the other goes on; then both have changed the grade, and one of them something else too.
  const cut = (route: Route) => route.abort();
  await other.route("**/api/prints/**", cut);
  await other.keyboard.press("4");
  for (const [label, value] of [
    ["Mid point", "0.5"],
    ["Grade", "3"],
  ]) {
    await other.getByLabel(`${label}, number`, { exact: true }).fill(value);
    await other.getByLabel(`${label}, number`, { exact: true }).press("Enter");
  }
  await expect(other.getByTestId("save-mark")).toHaveAttribute("data-save", "away");
  await type(page, "4", "Grade", "4");
  await other.unroute("**/api/prints/**", cut);
  await expect(
    other.getByText(/changed in another window too\. Both changed the same: grade: the other window/),
  ).toBeVisible();
  await expect(other.getByTestId("save-mark")).toHaveAttribute("data-save", "saved");
  const { recipe } = await yelm.get<{ recipe: Recipe }>(`/prints/${print.id}`);
  expect([recipe.ground.exposureEv, recipe.shape.grade, recipe.shape.midPoint]).toEqual([0.5, 4, 0.5]);
  for (const window of [page, other])
    await expect(window.getByLabel("Grade, number", { exact: true })).toHaveValue("4.0");
});

test("a neutral is picked, eased, and the greys follow", async ({ page }) => {
  const [first] = await yelm.get<Named[]>("/prints");
  await page.goto(`${yelm.url}/prints/${first.id}`);
  await settle(page);
  await page.keyboard.press("n");
  await expect(page.getByLabel("Name of the print")).not.toHaveValue("First print");
  await settle(page);
  await page.keyboard.press("3");
  await page.getByRole("tab", { name: "Weights" }).click();
  await page.getByRole("button", { name: "Blue", exact: true }).click();
  await settle(page);
  const before = await greyAt(page, 0.4, 0.42, 4);
  await page.keyboard.press("2");
  await page.keyboard.press("v");
  await expect(page.getByText("Click something that should be neutral")).toBeVisible();
  // The jug in blue window light.
  const pane = (await page.getByTestId("picture").boundingBox())!;
  await page.mouse.click(pane.x + 0.43 * pane.width, pane.y + 0.4 * pane.height);
  const kelvin = page.getByLabel("Temperature, number", { exact: true });
  await expect(kelvin).toBeVisible();
  expect(Number(await kelvin.inputValue())).toBeGreaterThan(6900);
  await settle(page);
  const neutral = await greyAt(page, 0.4, 0.42, 4);
  expect(neutral).toBeLessThan(before - 3);
  await page.getByLabel("Follow, number", { exact: true }).fill("30");
  await page.getByLabel("Follow, number", { exact: true }).press("Enter");
  await settle(page);
  const eased = await greyAt(page, 0.4, 0.42, 4);
  expect(eased).toBeGreaterThan(neutral + 1);
  expect(eased).toBeLessThan(before);
  await page.getByRole("radio", { name: "as shot" }).click();
  await settle(page);
  expect(Math.abs((await greyAt(page, 0.4, 0.42, 4)) - before)).toBeLessThan(1);
});

test("zoom to 100 % and back, pan, and nothing outside the window scrolls", async ({ page }) => {
  const [print] = await yelm.get<Named[]>("/prints");
  for (const [width, height] of [
    [1024, 768],
    [1280, 800],
    [2560, 1440],
  ]) {
    await page.setViewportSize({ width, height });
    await page.goto(`${yelm.url}/prints/${print.id}`);
    await settle(page);
    const overflow = await page.evaluate(() => [
      document.documentElement.scrollWidth - innerWidth,
      document.documentElement.scrollHeight - innerHeight,
    ]);
    expect([width, ...overflow]).toEqual([width, 0, 0]);
    const pane = (await page.getByTestId("picture").boundingBox())!;
    expect(pane.width).toBeGreaterThan(width * 0.45);
  }
  const canvas = page.getByTestId("picture-canvas");
  await page.setViewportSize({ width: 1280, height: 800 });
  await page.keyboard.press("g");
  await expect(canvas).toHaveAttribute("data-scale", "1");
  await settle(page);
  const before = await canvas.evaluate((element) => element.style.transform);
  const pane = (await page.getByTestId("picture").boundingBox())!;
  await page.mouse.move(pane.x + 300, pane.y + 300);
  await page.mouse.down();
  await page.mouse.move(pane.x + 120, pane.y + 220, { steps: 4 });
  await page.mouse.up();
  await settle(page);
  expect(await canvas.evaluate((element) => (element as HTMLCanvasElement).width)).toBeGreaterThan(500);
  expect(typeof before).toBe("string");
  await page.keyboard.press("f");
  await settle(page);
  const whole = await canvas.getAttribute("data-scale");
  expect(Number(whole)).toBeLessThan(1);
  for (const scale of ["1", whole!]) {
    await page.mouse.dblclick(pane.x + 300, pane.y + 300);
    await expect(canvas).toHaveAttribute("data-scale", scale);
  }
});

test("every screen passes the accessibility check, by night and by day", async ({ page }) => {
  const [print] = await yelm.get<Named[]>("/prints");
  const [roll] = await yelm.get<Named[]>("/rolls");
  for (const theme of ["night", "day"]) {
    await page.addInitScript((name) => localStorage.setItem("yelm-look", JSON.stringify({ theme: name })), theme);
    const check = async (what: string) => {
      // The two differ in their colours alone.
      const axe = new AxeBuilder({ page });
      if (theme === "night") axe.withTags(["wcag2a", "wcag2aa", "wcag21aa", "wcag22aa"]);
      else axe.withRules(["color-contrast"]);
      const { violations } = await axe.analyze();
      expect(
        violations.map(({ id, nodes }) => [theme, what, id, nodes.slice(0, 3).map((n) => n.target.join(" "))]),
      ).toEqual([]);
    };
    await page.goto(yelm.url);
    await page.waitForSelector("article img");
    await check("rolls");
    await page.goto(`${yelm.url}/rolls/${roll.id}`);
    await page.waitForSelector("main li img");
    await check("contact sheet");
    await page.goto(`${yelm.url}/prints/${print.id}`);
    await settle(page);
    for (const station of ["2", "3", "4", "5", "6", "8"]) {
      await page.keyboard.press(station);
      await page.waitForTimeout(150);
      if (station === "3") await weighOpen(page);
      await check(`station ${station}`);
    }
    await page.keyboard.press("k");
    await check("palette");
  }
});

test("a print is taken along as a file and a sheet, the whole roll as an archive, and both come back", async ({
  page,
}) => {
  const [{ id, negativeId }] = await yelm.get<{ id: string; negativeId: string }[]>("/prints");
  await page.goto(`${yelm.url}/prints/${id}`);
  await settle(page);
  await page.keyboard.press("8");
  const saved = async (act: () => Promise<void>) => {
    const [download] = await Promise.all([page.waitForEvent("download"), act()]);
    return await download.path();
  };
  const sheet = await readFile(await saved(() => page.keyboard.press("Control+Shift+Enter")));
  expect(sheet.subarray(0, 5).toString()).toBe("%PDF-");
  const file = await saved(() => page.getByRole("button", { name: "The print as a file" }).click());
  const prints = async () => (await yelm.get<unknown[]>(`/prints?negative=${negativeId}`)).length;
  const before = await prints();
  await page.getByTestId("print-file").setInputFiles({ name: "x.json", mimeType: "application/json", buffer: Buffer.from("{") }); // prettier-ignore
  await expect(page.getByText("Expected the file of a print")).toBeVisible();
  await page.getByTestId("print-file").setInputFiles({ name: "p.json", mimeType: "application/json", buffer: await readFile(file) }); // prettier-ignore
  await expect(page).not.toHaveURL(new RegExp(id));
  await settle(page);
  expect(await prints()).toBe(before + 1);
  const [roll] = await yelm.get<{ id: string }[]>("/rolls");
  await page.goto(`${yelm.url}/rolls/${roll.id}`);
  const archive = await saved(() => page.getByRole("button", { name: "Take along" }).click());
  await page.goto(yelm.url);
  await page.getByTestId("archive-file").setInputFiles({ name: "roll.zip", mimeType: "application/zip", buffer: await readFile(archive) }); // prettier-ignore
  await expect(page.getByText("0 new prints")).toBeVisible();
  await expect(page).toHaveURL(new RegExp(roll.id));
});

test("a print seen before is there to the bit before it is computed; one that was changed elsewhere is not", async ({
  page,
}) => {
  const [print] = await yelm.get<Named[]>("/prints");
  await page.goto(`${yelm.url}/prints/${print.id}`);
  await settle(page);
  const before = await readCanvas(page);
  const kept = () => page.evaluate(async (id) => (await caches.match(`/kept-pictures/${id}`)) !== undefined, print.id);
  await expect.poll(kept).toBe(true);
  // Without tiles nothing can be computed.
  let asked = 0;
  let letGo = () => {};
  const free = new Promise<void>((done) => (letGo = done));
  await page.route(/\/tiles\//, async (route) => {
    asked++;
    await free;
    await route.continue().catch(() => undefined);
  });
  await page.reload();
  const canvas = page.getByTestId("picture-canvas");
  await expect(canvas).toHaveAttribute("data-density", "kept");
  const seen = await readCanvas(page);
  expect(seen.width).toBe(before.width);
  expect(Buffer.compare(seen.rgba, before.rgba)).toBe(0);
  letGo();
  await settle(page);
  expect(Buffer.compare((await readCanvas(page)).rgba, before.rgba)).toBe(0);

  await page.goto("about:blank");
  const { head } = await yelm.get<{ head: string }>(`/prints/${print.id}`);
  const changes = [{ op: "set", path: "weigh/red", value: 0.9 }];
  const data = {
    id: "elsewhere",
    base: head,
    changes,
    label: "Elsewhere",
    station: "Weigh",
    at: new Date().toISOString(),
  };
  expect((await page.request.post(`${yelm.url}/api/prints/${print.id}/revisions`, { data })).ok()).toBe(true);
  asked = 0;
  await page.goto(`${yelm.url}/prints/${print.id}`);
  const densities = await page.evaluate(async () => {
    const seen = new Set<string>();
    const shown = () => document.querySelector<HTMLElement>('[data-testid="picture-canvas"]')?.dataset.density;
    for (let at = shown(); at !== "2"; at = shown()) {
      if (at) seen.add(at);
      await new Promise(requestAnimationFrame);
    }
    return [...seen];
  });
  expect(asked).toBeGreaterThan(0);
  expect(densities).not.toContain("kept");
});
