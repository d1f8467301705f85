// Takes the pictures in docs/screenshots from a fresh data folder with the demo roll.
import { mkdirSync } from "node:fs";
import { join } from "node:path";
import { startDemo } from "./demo-server.mjs";
import { ROOT } from "./run.mjs";
import { setUp } from "./setup.mjs";

const OUT = join(ROOT, "docs", "screenshots");
const SIZE = { width: 1280, height: 800 };

await setUp();
const { url, browser, end } = await startDemo();
mkdirSync(OUT, { recursive: true });
try {
  const page = await browser.newPage({ viewport: SIZE });
  const keep = async (name) => {
    await page.waitForFunction(() => [...document.images].every((image) => image.complete || image.loading === "lazy"));
    await page.waitForTimeout(800);
    await page.screenshot({ path: join(OUT, `${name}.png`) });
    console.log(`docs/screenshots/${name}.png`);
  };
  const settled = async () => {
    await page.waitForSelector('canvas[data-density="2"]');
    await page.waitForLoadState("networkidle");
  };
  const prints = await (await fetch(`${url}/api/prints`)).json();
  const open = async (name) => {
    await page.goto(`${url}/prints/${prints.find((print) => print.name === name).id}`);
    await settled();
  };

  await page.goto(url);
  await page.waitForLoadState("networkidle");
  await keep("rolls");
  await page.click("article a");
  await page.waitForLoadState("networkidle");
  const frames = page.locator('[data-testid="frames"] li a');
  await frames.nth(5).waitFor();
  await page.keyboard.press("ArrowRight");
  await page.keyboard.press("y");
  await page.keyboard.press("d");
  await page.keyboard.press("y");
  await frames.nth(4).click({ modifiers: ["Control"] });
  await frames.nth(5).click({ modifiers: ["Control"] });
  await page.evaluate(() =>
    [document.scrollingElement, document.querySelector("main")].forEach((one) => (one.scrollTop = 0)),
  );
  await page.waitForFunction(() =>
    [...document.querySelectorAll("main img")].every(
      (image) => image.getBoundingClientRect().top > innerHeight || (image.complete && image.naturalWidth > 0),
    ),
  );
  await keep("contact-sheet");
  await page.keyboard.press("l");
  await page.waitForSelector("text=Simulated camera");
  await keep("card");
  await page.keyboard.press("Escape");

  await open("Dark sky, bright brick");
  await page.keyboard.press("3");
  await page.waitForSelector('[data-testid="family-rungs"]');
  await page.waitForSelector("text=measuring…", { state: "detached" });
  await page.keyboard.press("u");
  await page.mouse.move(545, 185);
  await page.waitForTimeout(400);
  await keep("weigh");
  await page.keyboard.press("Escape");
  await page.click("role=tab[name=Film]");
  await page.click("text=Take this film");
  await page.click("role=radio[name=orange]");
  await settled();
  await keep("weigh-film");
  await page.keyboard.press("Control+z");
  await page.keyboard.press("Control+z");
  await page.keyboard.press("4");
  await page.keyboard.press("p");
  const shown = await page.locator("[data-testid='picture-canvas']").boundingBox();
  for (const [x, y] of [
    [0.22, 0.1],
    [0.62, 0.55],
    [0.3, 0.45],
  ]) {
    // prettier-ignore
    await page.mouse.click(shown.x + x * shown.width, shown.y + y * shown.height);
    await page.waitForTimeout(700);
  }
  await page.mouse.move(40, 700);
  await settled();
  await keep("shape");
  await page.keyboard.press("Escape");
  await page.getByTestId("curve").scrollIntoViewIfNeeded();
  await page.locator("main").evaluate((main) => (main.scrollTop = 590));
  await keep("shape-tones");
  await page.keyboard.press("5");
  await page.click("text=Tower lifted");
  await page.mouse.move(930, 260);
  await keep("light");
  await page.keyboard.press("Escape");
  await page.keyboard.press("Shift+V");
  await page.getByRole("group", { name: "Regions that stand ready" }).getByRole("button", { name: "sky" }).hover();
  await page.waitForSelector('[data-testid="region-border"]');
  await keep("found-region");
  await page.keyboard.press("Escape");
  await page.keyboard.press("k");
  await page.keyboard.type("grain");
  await keep("every-act");
  await page.keyboard.press("Escape");
  await open("Carved");
  await page.keyboard.press("6");
  await keep("finish");
  await page.keyboard.press("l");
  await page.waitForSelector('[data-testid="sketch"] >> nth=15');
  await page.waitForSelector("text=Fitting", { state: "detached" });
  await page.waitForTimeout(4000);
  await keep("wall");
  await page.keyboard.press("Escape");
  await open("Made right");
  await page.keyboard.press("2");
  await page.getByRole("button", { name: "Clean", exact: true }).click();
  await page.keyboard.press("m");
  await page.locator("main").evaluate((main) => (main.scrollTop = 520));
  await page.click("text=healed, spot >> nth=1");
  await settled();
  await keep("clean");
  await open("Mist kept");
  await page.keyboard.press("2");
  await page.click("role=radio[name=shade]");
  await page.waitForSelector('[data-testid="zone-trace"]');
  await page.keyboard.press("x");
  await settled();
  await keep("ground");
  await page.keyboard.press("Control+z");
  await page.keyboard.press("x");
  await page.keyboard.press("8");
  await page.keyboard.press("t");
  await settled();
  await keep("deliver");
  await open("Dark sky, bright brick");
  await page.keyboard.press("1");
  await page.waitForSelector('[data-testid="capture-reading"] li >> nth=2');
  await keep("intend");
  await page.keyboard.press("7");
  await page.waitForSelector('[aria-label="Findings"][data-pending="false"]', { timeout: 90_000 });
  await keep("judge");
  const [roll] = await (await fetch(`${url}/api/rolls`)).json();
  await page.goto(`${url}/rolls/${roll.id}/set`);
  await page.waitForSelector("table");
  await page.waitForTimeout(2500);
  await keep("set");
  await open("High key");
  await page.keyboard.press("Shift+N");
  await page.keyboard.press("4");
  await settled();
  await keep("day-bench");
} finally {
  await end();
}
