// Speed and memory, as ratios measured in one run; writes docs/performance.md and .cache/bench/result.json.
// Usage: npm run bench [-- --quick | --drags FILE | --before REVISION]; with a capture of one's own only drags are measured, and nothing
// is written; with a revision the same is measured of that one's code, in turns with this.
import { mkdirSync, writeFileSync } from "node:fs";
import { cpus, totalmem } from "node:os";
import { join } from "node:path";
import { measureBefore } from "./bench/before.mjs";
import { measureDrags } from "./bench/drags.mjs";
import { measureExports } from "./bench/exports.mjs";
import { measureKernels } from "./bench/kernels.mjs";
import { CACHE } from "./bench/material.mjs";
import { report } from "./bench/report.mjs";
import { stepNs, watchStolen } from "./bench/speed.mjs";
import { measureStages } from "./bench/stages.mjs";
import { ROOT } from "./run.mjs";
import { findChromium, setUp } from "./setup.mjs";

const quick = process.argv.includes("--quick");
const after = (flag) => (process.argv.includes(flag) ? process.argv[process.argv.indexOf(flag) + 1] : undefined);
const [ownCapture, revision] = [after("--drags"), after("--before")];
await setUp();
mkdirSync(CACHE, { recursive: true });
const machine = {
  cpu: cpus()[0].model,
  cores: cpus().length,
  memoryGiB: Math.round(totalmem() / 2 ** 30),
  node: process.version,
};
const chromium = await findChromium();
if (ownCapture) {
  console.log(JSON.stringify(await measureDrags(chromium, ownCapture), null, 1));
  process.exit();
}
/** The machine's own speed before each part and at the end, and how much of it others took during each. */
const speeds = [];
const stolen = [];
const timed = async (measure) => {
  speeds.push(stepNs());
  const share = watchStolen();
  const result = await measure();
  stolen.push(share());
  return result;
};
const drags = await timed(() => measureDrags(chromium));
const kernels = await timed(measureKernels);
const stages = await timed(measureStages);
const exported = await timed(() => measureExports(quick ? [4, 24] : [1, 4, 24, 45, 100]));
speeds.push(stepNs());
const before = revision && (await measureBefore(chromium, revision));
const result = { machine, speeds, stolen, kernels, stages, exported, drags, before };
writeFileSync(join(CACHE, "result.json"), JSON.stringify(result, null, 2));
const text = report(result);
console.log(text);
if (!quick) writeFileSync(join(ROOT, "docs", "performance.md"), text);
