import { spawn, type ChildProcess } from "node:child_process";
import { mkdtemp, rm } from "node:fs/promises";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { fileURLToPath } from "node:url";
import { expect, type Page } from "@playwright/test";
import type { Recipe } from "@yelm/core";
import sharp from "sharp";

export const ROOT = fileURLToPath(new URL("..", import.meta.url));
const YELM = join(ROOT, "packages/server/bin/yelm.js");

/** A server of its own for a test: real process, real data folder, which can be killed and started again. */
export class Yelm {
  readonly data: string;
  url = "";
  #port = 0;
  #child: ChildProcess | undefined;

  private constructor(data: string) {
    this.data = data;
  }

  /** Starts on a fresh data folder with these files of the demo roll imported. */
  static async start(files: readonly string[] = []): Promise<Yelm> {
    const yelm = new Yelm(await mkdtemp(join(tmpdir(), "yelm-e2e-")));
    if (files.length > 0) {
      const paths = files.map((file) => join(ROOT, "demo/negatives", file));
      await finished(spawn(process.execPath, [YELM, "import", "--data", yelm.data, "--roll", "Test roll", ...paths]));
    }
    await yelm.up();
    return yelm;
  }

  /** Starts (again) on the port it had. */
  async up(): Promise<void> {
    const child = spawn(process.execPath, [YELM, "serve", "--data", this.data, "--port", String(this.#port)]);
    this.#child = child;
    let output = "";
    this.url = await new Promise((resolve, reject) => {
      const hear = (chunk: Buffer) => {
        output += chunk.toString();
        const found = /http:\/\/127\.0\.0\.1:(\d+)/.exec(output);
        if (found) resolve(found[0]);
      };
      child.stdout.on("data", hear);
      child.stderr.on("data", hear);
      child.once("exit", (code) => reject(new Error(`The server ended with ${String(code)}: ${output}`)));
    });
    this.#port = Number(new URL(this.url).port);
  }

  /** Ends the process at once, as a power cut would. */
  async kill(): Promise<void> {
    const gone = new Promise((resolve) => this.#child?.once("exit", resolve));
    this.#child?.kill("SIGKILL");
    await gone;
  }

  async stop(): Promise<void> {
    await this.kill();
    await rm(this.data, { recursive: true, force: true });
  }

  async get<T>(path: string): Promise<T> {
    return (await (await fetch(`${this.url}/api${path}`)).json()) as T;
  }
}

/** A print as a PNG that the server wrote: sRGB codes, three a pixel. */
export async function exported(yelm: Yelm, printId: string, longEdge: number) {
  const started = await fetch(`${yelm.url}/api/exports`, {
    method: "POST",
    headers: { "content-type": "application/json" },
    body: JSON.stringify({ printIds: [printId], options: { format: "png", longEdge } }),
  });
  const [job] = (await started.json()) as { id: string }[];
  const state = async () => (await yelm.get<{ state: string }>(`/exports/${job.id}`)).state;
  await expect.poll(state, { timeout: 60_000 }).toBe("done");
  const file = await (await fetch(`${yelm.url}/api/exports/${job.id}/file`)).arrayBuffer();
  return sharp(file).toColourspace("srgb").removeAlpha().raw({ depth: "uchar" }).toBuffer({ resolveWithObject: true });
}

function finished(child: ChildProcess): Promise<void> {
  return new Promise((resolve, reject) => {
    let errors = "";
    child.stderr?.on("data", (chunk: Buffer) => (errors += chunk.toString()));
    child.once("exit", (code) => (code === 0 ? resolve() : reject(new Error(errors))));
  });
}

/** Waits until the server has every edit of the page. */
export async function allSaved(page: Page): Promise<void> {
  await expect(page.getByTestId("save-mark")).toHaveAttribute("data-save", "saved");
}

/** A print's recipe as the server has it, with every edit of the page. */
export async function savedRecipe(yelm: Yelm, page: Page, printId: string): Promise<Recipe> {
  await allSaved(page);
  return (await yelm.get<{ recipe: Recipe }>(`/prints/${printId}`)).recipe;
}

/** Waits until the canvas shows the exact picture of the present recipe. */
export async function settle(page: Page): Promise<void> {
  await expect(page.locator('[data-testid="picture-canvas"][data-density="2"]')).toBeVisible();
  await page.waitForTimeout(60);
  await expect(page.locator('[data-testid="picture-canvas"][data-density="2"]')).toBeVisible();
}

/** Waits until Weigh has looked at the picture's colours and knows the price. */
export async function weighOpen(page: Page): Promise<void> {
  await expect(page.getByTestId("family-rungs")).toBeVisible();
  await expect(page.getByText("measuring…")).toHaveCount(0);
}

/** The canvas's own pixels: RGBA and size. */
export async function readCanvas(page: Page): Promise<{ width: number; height: number; rgba: Uint8Array }> {
  const read = await page.evaluate(() => {
    const canvas = document.querySelector<HTMLCanvasElement>('[data-testid="picture-canvas"]')!;
    const { width, height } = canvas;
    const { data } = canvas.getContext("2d")!.getImageData(0, 0, width, height);
    let text = "";
    for (let i = 0; i < data.length; i += 32768) text += String.fromCharCode(...data.subarray(i, i + 32768));
    return { width, height, text: btoa(text) };
  });
  return { width: read.width, height: read.height, rgba: Buffer.from(read.text, "base64") };
}

/** Mean grey of a patch of the canvas, 0–255, given in shares of it. */
export async function greyAt(page: Page, x: number, y: number, radius = 6): Promise<number> {
  const { width, height, rgba } = await readCanvas(page);
  const cx = Math.round(x * width);
  const cy = Math.round(y * height);
  let sum = 0;
  let count = 0;
  for (let py = cy - radius; py <= cy + radius; py++)
    for (let px = cx - radius; px <= cx + radius; px++) {
      sum += rgba[4 * (py * width + px) + 1];
      count++;
    }
  return sum / count;
}

/** L* of an sRGB code. */
export function lightnessOfCode(code: number): number {
  const v = code / 255;
  const y = v <= 0.04045 ? v / 12.92 : ((v + 0.055) / 1.055) ** 2.4;
  return y > 0.008856451679 ? 116 * Math.cbrt(y) - 16 : 903.2962963 * y;
}
