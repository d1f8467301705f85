import chromiumOptions from "../scripts/chromium.json" with { type: "json" };
import { existsSync } from "node:fs";
import { defineConfig } from "@playwright/test";

const chromium = [process.env.CHROMIUM_PATH, "/usr/bin/chromium", "/usr/bin/chromium-browser"].find(
  (path) => path && existsSync(path),
);

export default defineConfig({
  testDir: ".",
  testMatch: "*.e2e.ts",
  workers: 2,
  timeout: 300_000,
  expect: { timeout: 40_000 },
  reporter: [["list"]],
  outputDir: "../test-results",
  use: {
    viewport: { width: 1280, height: 800 },
    trace: "off",
    screenshot: "only-on-failure",
    launchOptions: {
      executablePath: chromium,
      args: chromiumOptions.args,
    },
  },
});
