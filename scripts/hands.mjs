// A hand that does anything, in the real interface: random stations, tools, strokes, amounts, undo and zoom on the demo's negatives. Usage:
//   npm run hands [-- ROUNDS [SEED]]
// Ends with code 1 when the page has an error, a picture fails or never comes, or what is shown after the last act is not, to the bit,
// what is shown once the page is loaded again.
import { createRandom } from "@yelm/camera";
import { startDemo } from "./demo-server.mjs";
import { setUp } from "./setup.mjs";

const ROUNDS = Number(process.argv[2] ?? 20);
const SEED = Number(process.argv[3] ?? 20261127);
const ACTS = 40;
const TOOLS = ["p", "e", "a", "v", "Shift+A", "Shift+V", "Shift+J", "Shift+K"];
const KEYS = ["o", "i", "h", "[", "]", "r", "Shift+O", "Shift+D"];
const CANVAS = '[data-testid="picture-canvas"]';
const FAILED = "The last picture stays";

await setUp();
const random = createRandom(SEED);
const one = (list) => list[Math.floor(random() * list.length)];
const { url, browser, end } = await startDemo();
const faults = [];
try {
  const page = await browser.newPage({ viewport: { width: 1280, height: 800 } });
  page.setDefaultTimeout(4000);
  let log = [];
  const fault = (what) => {
    faults.push(what);
    console.error(`${what}; after: ${log.slice(-8).join(" | ")}`);
  };
  page.on("pageerror", (error) => fault(`the page: ${error.message}`));
  const api = async (path, options) =>
    (
      await fetch(`${url}/api${path}`, options && { headers: { "content-type": "application/json" }, ...options })
    ).json();
  const settle = async () => {
    await page.waitForSelector(`${CANVAS}[data-density="2"]`, { timeout: 60_000 });
    await page.waitForTimeout(300);
    await page.waitForSelector(`${CANVAS}[data-density="2"]`, { timeout: 60_000 });
  };
  const shown = () =>
    page.evaluate(async (canvas) => {
      const { width, height } = document.querySelector(canvas);
      const { data: codes } = document.querySelector(canvas).getContext("2d").getImageData(0, 0, width, height);
      const hash = new Uint8Array(await crypto.subtle.digest("SHA-256", codes));
      return `${width} × ${height} ${[...hash].join()}`;
    }, CANVAS);
  const negatives = await api("/negatives");
  for (let round = 0; round < ROUNDS; round++) {
    const negative = one(negatives);
    const name = `Hand ${round}`;
    const { id } = await api("/prints", { method: "POST", body: JSON.stringify({ negativeId: negative.id, name }) });
    log = [];
    await page.goto(`${url}/prints/${id}`);
    await settle();
    const box = await page.locator(CANVAS).boundingBox();
    const place = () => [box.x + (0.05 + 0.9 * random()) * box.width, box.y + (0.05 + 0.9 * random()) * box.height];
    for (let i = 0; i < ACTS; i++) {
      try {
        await act(page, place, (what) => log.push(what));
      } catch (error) {
        // What cannot be reached at present is no fault.
        log.push(`(${error.message.split("\n")[0].slice(0, 60)})`);
      }
      if (await page.getByText(FAILED).count()) {
        fault(`${negative.fileName}: ${await page.getByText(FAILED).first().innerText()}`);
        break;
      }
    }
    for (const key of ["Escape", "Escape", "Escape", "f"]) await page.keyboard.press(key);
    await page.mouse.move(5, 400);
    try {
      await settle();
      await page.waitForTimeout(1200);
      await settle();
      const before = await shown();
      await page.reload();
      await settle();
      if ((await shown()) !== before) fault(`${negative.fileName}: the picture is another one after a reload`);
    } catch (error) {
      fault(`${negative.fileName}: no picture, ${error.message.split("\n")[0]}`);
    }
    console.log(`${round + 1} of ${ROUNDS}: ${negative.fileName}, ${log.length} acts`);
  }
} finally {
  await end();
}
console.log(faults.length === 0 ? "No fault." : `${faults.length} faults.`);
process.exitCode = faults.length > 0 ? 1 : 0;

/** Anything that a hand may do. */
async function act(page, place, did) {
  const kind = random();
  if (kind < 0.25) {
    const station = String(2 + Math.floor(6 * random()));
    did(`station ${station}`);
    await page.keyboard.press(station);
    await page.waitForTimeout(120);
  } else if (kind < 0.5) {
    const tool = one(TOOLS);
    did(`tool ${tool}`);
    await page.keyboard.press(tool);
    await page.mouse.move(...place());
    await page.mouse.down();
    for (let k = 0; k < 4; k++) await page.mouse.move(...place(), { steps: 3 });
    await page.mouse.up();
  } else if (kind < 0.8) {
    const amounts = await page.locator("main input.amount-number:visible").all();
    if (amounts.length === 0) return;
    const amount = one(amounts);
    const value = ((random() - 0.5) * (random() < 0.5 ? 100 : 4)).toFixed(2);
    did(`${await amount.getAttribute("aria-label")} ${value}`);
    await amount.fill(value, { timeout: 1500 });
    await amount.press("Enter");
  } else if (kind < 0.87) {
    did("undo");
    await page.keyboard.press("Control+z");
  } else if (kind < 0.92) {
    did("zoom");
    await page.keyboard.press(random() < 0.5 ? "g" : "f");
  } else if (kind < 0.96) {
    const key = one(KEYS);
    did(`key ${key}`);
    await page.keyboard.press(key);
  } else {
    did("escape");
    await page.keyboard.press("Escape");
  }
}
