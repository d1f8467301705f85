// Everything that must hold: formatting, lint, types, unit and server tests, then the real interface in Chromium.
import { node, run, step } from "./run.mjs";
import { findChromium, setUp } from "./setup.mjs";

const bin = (path) => `node_modules/${path}`;

/** Unit tests below some folders. @returns the exit code. */
async function unitTests(...folders) {
  const jest = ["--experimental-vm-modules", "--disable-warning=ExperimentalWarning", bin("jest/bin/jest.js")];
  return (await run(node, [...jest, ...folders.map((folder) => `/packages/${folder}/src/`)])).code;
}

let failed = 0;
// What needs no database, while its driver is compiled.
await setUp(async () => {
  // Two at a time, each of which keeps one core busy.
  const lint = run(node, [bin("eslint/bin/eslint.js"), "."], { quiet: true });
  await step("formatting", node, [bin("prettier/bin/prettier.cjs"), "--check", "."]);
  await step("types of pages and tests", "npm", ["run", "--silent", "typecheck"]);
  const linted = await lint;
  if (linted.code !== 0) {
    console.error(linted.output);
    process.exit(1);
  }
  console.log("· lint");
  failed |= await unitTests("core", "camera");
});
const chromium = await findChromium();
failed |= await unitTests("server", "web");
const e2e = await run(node, [bin("@playwright/test/cli.js"), "test", "--config", "e2e/playwright.config.ts"], {
  env: { CHROMIUM_PATH: chromium },
});
if (failed || e2e.code) {
  console.error(`Tests failed: ${[failed && "unit and server", e2e.code && "interface"].filter(Boolean).join(", ")}.`);
  process.exit(1);
}
console.log("All tests passed.");
