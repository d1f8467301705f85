// In Chromium: how long after a control moves the picture shows it, import, and opening a print.
import { spawn } from "node:child_process";
import { mkdtempSync, readFileSync, rmSync } from "node:fs";
import { tmpdir } from "node:os";
import { basename, join } from "node:path";
import { chromium } from "@playwright/test";
import { node } from "../run.mjs";
import { fullRecipe, median, paintedRecipe, percentile, rawFile, YELM } from "./material.mjs";

const CHROMIUM = JSON.parse(readFileSync(new URL("../chromium.json", import.meta.url), "utf8"));

const STEPS = 40;
/** A window whose picture is about one megapixel. */
const VIEWPORT = { width: 1740, height: 980 };
const DRAGS = [
  ["curve: grade", "4", "Grade", "stages 6–8"],
  ["light move: stops", "5", "Stops", "stages 5–8"],
  ["local contrast", "4", "Mid tones", "stages 4–8"],
  ["weight", "3", "Red light", "stages 3–8"],
  ["family: stops", "3", "Stops", "stages 3–8"],
];

/** For so long a roll is looked at before a capture is brought in, milliseconds. */
const LOOKED_AT_MS = 6000;

/** After so long the browser has kept a picture for the next time, milliseconds. */
const KEPT_MS = 4000;

/**
 * Everything in the browser.
 * @param file - path of a capture to drag on; a raw file of 24 MP by default.
 */
export function measureDrags(executablePath, file) {
  return withPrints(
    executablePath,
    file,
    async ({ browser, page, url, rollId, printId, paintedId, stillId, importMs }) => {
      const openedCold = await open(page, `${url}/prints/${printId}`);
      const openedWarm = await open(page, `${url}/prints/${printId}`);
      // What was shown last is kept in the browser: where that is gone, opening is computing.
      const forget = () => page.evaluate(() => caches.delete("yelm-pictures"));
      await forget();
      const openedAgain = await open(page, `${url}/prints/${printId}`);
      const viewMP = await canvasMP(page);
      const longTasksOpening = await page.evaluate(() => window.longTasks.splice(0));
      const { rows, longTasks } = await dragRows(page);
      const firstTouch = await touchFirst(page, `${url}/prints/${stillId}`);
      await open(page, `${url}/prints/${paintedId}`);
      await forget();
      const openedPainted = await open(page, `${url}/prints/${paintedId}`);
      const insideOnce = await openInside(page, `${url}/rolls/${rollId}`, `/prints/${printId}`);
      const insideWarm = await openInside(page, `${url}/rolls/${rollId}`, `/prints/${printId}`, `/prints/${paintedId}`);
      await forget();
      const insidePainted = await openInside(
        page,
        `${url}/rolls/${rollId}`,
        `/prints/${paintedId}`,
        `/prints/${printId}`,
      );
      await open(page, `${url}/prints/${paintedId}`);
      const painting = await paint(page);
      console.log(
        `· painting on twenty moves: median ${median(painting).toFixed(0)} ms, p95 ${percentile(painting, 0.95).toFixed(0)}; opened to sharp in ${openedPainted.sharp.toFixed(0)} ms`,
      );
      const scaling = [];
      for (const workers of [1, 2, 4])
        scaling.push({ workers, ...(await withWorkers(browser, `${url}/prints/${printId}`, workers)) });
      return {
        rows,
        viewMP,
        importMs,
        openedCold,
        openedWarm,
        openedAgain,
        openedPainted,
        firstTouch,
        insideOnce,
        insideWarm,
        insidePainted,
        paintMs: median(painting),
        paintP95Ms: percentile(painting, 0.95),
        longTasks,
        longTasksOpening,
        scaling,
      };
    },
  );
}

/** Import, opening with nothing kept, and the drags alone. */
export function measureRows(executablePath) {
  return withPrints(executablePath, undefined, async ({ page, url, printId, importMs }) => {
    const { first } = await open(page, `${url}/prints/${printId}`);
    return { rows: (await dragRows(page)).rows, importMs, openedColdMs: first };
  });
}

/** A server with a capture and its prints, and a page in the browser, for as long as `work` takes. */
async function withPrints(executablePath, file, work) {
  const capture = file ?? (await rawFile(24));
  const data = mkdtempSync(join(tmpdir(), "yelm-bench-"));
  const server = spawn(node, [YELM, "serve", "--data", data, "--port", "0"]);
  const url = await new Promise((resolve) =>
    server.stdout.on("data", (chunk) => {
      const found = /http:\/\/127\.0\.0\.1:\d+/.exec(String(chunk));
      if (found) resolve(found[0]);
    }),
  );
  const browser = await chromium.launch({
    executablePath,
    args: CHROMIUM.args,
  });
  try {
    const prints = await prepare(url, capture);
    const page = await browser.newPage({ viewport: VIEWPORT });
    await page.addInitScript(watchPage);
    return await work({ browser, page, url, ...prints });
  } finally {
    await browser.close();
    server.kill("SIGTERM");
    await new Promise((resolve) => server.once("exit", resolve));
    rmSync(data, { recursive: true, force: true });
  }
}

/** Every drag on the print that is open. */
async function dragRows(page) {
  const rows = [];
  const longTasks = [];
  for (const [name, station, label, stages] of DRAGS) {
    await page.keyboard.press(station);
    if (label === "Red light") await page.click("role=tab[name=Weights]");
    if (label === "Stops" && station === "3") {
      await page.click("role=tab[name=Families]");
      await page.click("[data-testid=family-rungs] >> text=leaf");
    }
    if (station === "5") await page.click("ol[aria-label='Light moves'] li:nth-child(3) button");
    await page.waitForTimeout(600);
    await page.evaluate(() => window.longTasks.splice(0));
    const { first, sharp, compute, draw } = await drag(page, label);
    longTasks.push(...(await page.evaluate(() => window.longTasks)));
    rows.push({
      name,
      stages,
      firstMs: median(first),
      firstP95Ms: percentile(first, 0.95),
      sharpMs: median(sharp),
      computeMs: median(compute),
      drawMs: median(draw),
      sharpP95Ms: percentile(sharp, 0.95),
    });
    console.log(
      `· ${name}: first picture ${median(first).toFixed(0)} ms, p95 ${percentile(first, 0.95).toFixed(0)}; sharp ${median(sharp).toFixed(0)}, p95 ${percentile(sharp, 0.95).toFixed(0)}; computing ${median(compute).toFixed(0)}, request to picture ${median(draw).toFixed(0)}`,
    );
  }
  return { rows, longTasks };
}

/** Size of the picture that is shown. */
async function canvasMP(page) {
  const [width, height] = await page.evaluate(() => {
    const canvas = document.querySelector("canvas");
    return [canvas.width, canvas.height];
  });
  return (width * height) / 1e6;
}

async function prepare(url, capture) {
  const post = async (path, body) =>
    (
      await fetch(`${url}/api${path}`, {
        method: "POST",
        headers: { "content-type": "application/json" },
        body: JSON.stringify(body),
      })
    ).json();
  const roll = await post("/rolls", { title: "Bench" });
  // Somebody looks at the roll for a while before captures come.
  await (await fetch(`${url}/api/rolls/${roll.id}/sheet`)).arrayBuffer();
  await new Promise((resolve) => setTimeout(resolve, LOOKED_AT_MS));
  const form = new FormData();
  form.append("file", new Blob([readFileSync(capture)]), basename(capture));
  const started = performance.now();
  const { negative } = await (
    await fetch(`${url}/api/rolls/${roll.id}/captures`, { method: "POST", body: form })
  ).json();
  const importMs = performance.now() - started;
  const full = await fullRecipe();
  const print = await post("/prints", { negativeId: negative.id, name: "Bench", recipe: full });
  const painted = await post("/prints", { negativeId: negative.id, name: "Painted", recipe: await paintedRecipe() });
  const still = full.weigh.families.map((family) => ({ ...family, stops: 0 }));
  const stillRecipe = { ...full, weigh: { ...full.weigh, families: still } };
  const stillPrint = await post("/prints", { negativeId: negative.id, name: "Still", recipe: stillRecipe });
  // What the roll shows of them, and a print keeps.
  for (const { id } of [print, painted, stillPrint])
    await (await fetch(`${url}/api/prints/${id}/thumbnail?edge=640`)).arrayBuffer();
  return { rollId: roll.id, printId: print.id, paintedId: painted.id, stillId: stillPrint.id, importMs };
}

/** Milliseconds from the start of the navigation, by the page's own clock, to what is seen first, to the sharp and the exact picture. */
async function open(page, address) {
  await page.goto("about:blank");
  await page.goto(address);
  await page.waitForSelector("canvas[data-density='2']", { timeout: 60_000 });
  await page.waitForTimeout(KEPT_MS);
  return page.evaluate(() => window.opened);
}

/** The same from a step inside the application: at a roll, after another print was seen when one is given. */
async function openInside(page, roll, path, before) {
  const step = (to) =>
    page.evaluate((to) => {
      window.watchOpening();
      history.pushState({}, "", to);
      dispatchEvent(new PopStateEvent("popstate"));
    }, to);
  // The roll's thumbnails, which the server may have to make, are not what is measured.
  const atRest = () => page.waitForFunction(() => [...document.images].every((image) => image.complete), null, { timeout: 60_000 }); // prettier-ignore
  await page.goto(roll);
  await page.waitForTimeout(1500);
  await atRest();
  for (const to of before ? [before, new URL(roll).pathname, path] : [path]) {
    await step(to);
    if (to.startsWith("/prints")) await page.waitForSelector("canvas[data-density='2']", { timeout: 60_000 });
    else await atRest();
    await page.waitForTimeout(KEPT_MS);
  }
  return page.evaluate(() => window.opened);
}

/** Notes when the picture comes, and tasks that hold the page up. */
function watchPage() {
  window.longTasks = [];
  new PerformanceObserver((list) =>
    list.getEntries().forEach(({ duration }) => window.longTasks.push(duration)),
  ).observe({
    type: "longtask",
  });
  window.watchOpening = (from = performance.now()) => {
    const mine = (window.opened = {});
    const note = (what) => (mine[what] ??= performance.now() - from);
    const noteStandIn = () => {
      const image = document.querySelector("img[data-testid='stand-in']");
      if (image?.complete && image.naturalWidth > 0 && image.style.visibility !== "hidden") note("standIn");
      if (image?.dataset.kept !== undefined && image.complete && image.naturalWidth > 0) note("kept");
    };
    document.addEventListener("load", noteStandIn, true);
    new MutationObserver((_changes, observer) => {
      noteStandIn();
      const { density = "0" } = document.querySelector("canvas[data-density]")?.dataset ?? {};
      if (density === "0") return;
      if (density === "kept") return void note("kept");
      note("first");
      if (density === "0.5") return;
      note("sharp");
      if (density !== "2") return;
      note("exact");
      observer.disconnect();
    }).observe(document, { subtree: true, childList: true, attributeFilter: ["data-density", "style"] });
  };
  window.watchOpening(0);
}

/** A stroke by the mouse on the picture: for each event of the pointer, milliseconds until the picture shows more. */
async function paint(page) {
  await page.keyboard.press("5");
  await page.click("ol[aria-label='Light moves'] li:nth-child(8) button");
  await page.keyboard.press("p");
  await page.waitForTimeout(500);
  const box = await page.locator("[data-testid='picture-canvas']").boundingBox();
  await page.evaluate(() => {
    const canvas = document.querySelector("[data-testid='picture-canvas']");
    window.painted = [];
    let waiting = [];
    window.addEventListener("pointermove", ({ buttons }) => buttons && waiting.push(performance.now()), true);
    new MutationObserver(() => {
      // What happened after a picture was asked for is not in it.
      const asked = Number(canvas.dataset.askedMs);
      for (const began of waiting) if (began <= asked) window.painted.push(performance.now() - began);
      waiting = waiting.filter((began) => began > asked);
    }).observe(canvas, { attributeFilter: ["data-asked-ms"] });
  });
  await page.mouse.move(box.x + 300, box.y + 300);
  await page.mouse.down();
  for (let i = 0; i < 90; i++) {
    await page.mouse.move(box.x + 300 + 4 * i, box.y + 300 + 40 * Math.sin(i / 6));
    await page.waitForTimeout(30);
  }
  await page.mouse.up();
  return page.evaluate(() => window.painted);
}

/** The first step of the first family that is moved on a print. */
async function touchFirst(page, address) {
  await open(page, address);
  await page.keyboard.press("3");
  await page.click("role=tab[name=Families]");
  await page.waitForTimeout(2000);
  await page.click("[data-testid=family-rungs] >> text=leaf");
  await page.waitForTimeout(2000);
  return (await drag(page, "Stops")).sharp[0];
}

/** Two drags with another number of workers. */
async function withWorkers(browser, address, workers) {
  const page = await browser.newPage({ viewport: VIEWPORT });
  await page.addInitScript(watchPage);
  await page.addInitScript(
    (n) => Object.defineProperty(navigator, "hardwareConcurrency", { get: () => n }),
    workers + 1,
  );
  const { exact } = await open(page, address);
  await page.keyboard.press("4");
  await page.waitForTimeout(600);
  const curve = median((await drag(page, "Grade")).sharp);
  await page.keyboard.press("3");
  await page.click("role=tab[name=Weights]");
  await page.waitForTimeout(600);
  const weight = median((await drag(page, "Red light")).sharp);
  await page.close();
  return { exactMs: exact, curveMs: curve, weightMs: weight };
}

/** Moves a slider step by step; for each step the time to the first picture and to the sharp one. */
function drag(page, label) {
  return page.evaluate(
    async ({ label, steps }) => {
      const canvas = document.querySelector("canvas");
      const input = document.querySelector(`input[type=range][aria-label="${label}"]`);
      const set = Object.getOwnPropertyDescriptor(HTMLInputElement.prototype, "value").set;
      const [low, high] = [Number(input.min), Number(input.max)];
      const start = Number(input.value);
      const first = [];
      const sharp = [];
      const compute = [];
      const draw = [];
      for (let i = 0; i < steps; i++) {
        const value = Math.min(high, Math.max(low, start + (high - low) * 0.1 * Math.sin(i / 4 + 0.3)));
        const began = performance.now();
        await new Promise((resolve) => {
          let seen = false;
          const observer = new MutationObserver(() => {
            const { density } = canvas.dataset;
            if (density === "0") return;
            if (!seen) first.push(performance.now() - began);
            seen = true;
            if (density === "0.5") return;
            sharp.push(performance.now() - began);
            compute.push(Number(canvas.dataset.computeMs));
            draw.push(Number(canvas.dataset.drawMs));
            observer.disconnect();
            resolve();
          });
          observer.observe(canvas, { attributeFilter: ["data-density"] });
          set.call(input, String(value));
          input.dispatchEvent(new Event("input", { bubbles: true }));
        });
      }
      input.dispatchEvent(new PointerEvent("pointerup", { bubbles: true }));
      return { first, sharp, compute, draw };
    },
    { label, steps: STEPS },
  );
}
