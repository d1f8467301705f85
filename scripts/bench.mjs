// Speed and memory, as ratios measured in one run. Usage: npm run bench [-- --quick] ; writes docs/performance.md and .cache/bench/result.json.
import { mkdirSync, writeFileSync } from "node:fs";
import { cpus, totalmem } from "node:os";
import { join } from "node:path";
import { measureDrags } from "./bench/drags.mjs";
import { measureExports } from "./bench/exports.mjs";
import { measureKernels } from "./bench/kernels.mjs";
import { CACHE } from "./bench/material.mjs";
import { measureStages } from "./bench/stages.mjs";
import { report } from "./bench/report.mjs";
import { ROOT } from "./run.mjs";
import { findChromium, setUp } from "./setup.mjs";

const quick = process.argv.includes("--quick");
await setUp();
mkdirSync(CACHE, { recursive: true });
const machine = {
  cpu: cpus()[0].model,
  cores: cpus().length,
  memoryGiB: Math.round(totalmem() / 2 ** 30),
  node: process.version,
};
const kernels = await measureKernels();
const stages = await measureStages();
const exported = await measureExports(quick ? [4, 24] : [1, 4, 24, 45, 100]);
const drags = await measureDrags(await findChromium());
const result = { machine, kernels, stages, exported, drags };
writeFileSync(join(CACHE, "result.json"), JSON.stringify(result, null, 2));
const text = report(result);
console.log(text);
if (!quick) writeFileSync(join(ROOT, "docs", "performance.md"), text);
