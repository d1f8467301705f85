// A server with the demo roll in a data folder of its own, for scripts that drive the interface.
import { spawn } from "node:child_process";
import { mkdtempSync, readFileSync, rmSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { chromium } from "@playwright/test";
import { node, ROOT } from "./run.mjs";
import { findChromium } from "./setup.mjs";

const CHROMIUM = JSON.parse(readFileSync(new URL("./chromium.json", import.meta.url), "utf8"));

/** @returns its address, a browser, and what ends both and clears the folder. */
export async function startDemo() {
  const data = mkdtempSync(join(tmpdir(), "yelm-demo-"));
  const arguments_ = ["packages/server/bin/yelm.js", "serve", "--data", data, "--demo", "demo", "--port", "0"];
  const server = spawn(node, arguments_, { cwd: ROOT });
  const url = await new Promise((resolve, reject) => {
    server.stdout.on("data", (chunk) => {
      const found = /http:\/\/127\.0\.0\.1:\d+/.exec(String(chunk));
      if (found) resolve(found[0]);
    });
    server.once("exit", () => reject(new Error("The server ended before it was up.")));
  });
  const browser = await chromium.launch({ executablePath: await findChromium(), args: CHROMIUM.args });
  const end = async () => {
    await browser.close();
    server.kill("SIGKILL");
    rmSync(data, { recursive: true, force: true });
  };
  return { url, browser, end };
}
