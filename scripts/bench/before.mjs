// The same drags and the same full-size file by an earlier revision and by this code, in turns, so that the machine's hour is in both.
import { copyFileSync, existsSync, mkdirSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { pathToFileURL } from "node:url";
import { node, ROOT, run, step } from "../run.mjs";
import { median, rawFile } from "./material.mjs";

const ROUNDS = 3;
const MEGAPIXELS = 24;

/**
 * @param revision - of this repository, whose `scripts/bench` measures drags and exports.
 * @returns rows of what was measured: name, medians over the rounds before and after.
 */
export async function measureBefore(executablePath, revision) {
  const folder = await checkOut(revision);
  const capture = await rawFile(MEGAPIXELS);
  const cache = join(folder, ".cache", "bench");
  mkdirSync(cache, { recursive: true });
  copyFileSync(capture, join(cache, `detail-${MEGAPIXELS}.dng`));
  const rounds = [];
  for (let i = 0; i < ROUNDS; i++) {
    console.log(`· before and after, round ${i + 1} of ${ROUNDS}`);
    const [before, after] = [await ask(folder, "measureDrags", executablePath), await ask(ROOT, "measureRows", executablePath)]; // prettier-ignore
    rounds.push({ before, after });
  }
  const of = (when, value) => median(rounds.map((round) => value(round[when])));
  const row = (name, value) => ({ name, before: of("before", value), after: of("after", value) });
  return {
    revision,
    rounds: ROUNDS,
    rows: [
      ...rounds[0].after.drags.rows.flatMap(({ name }, i) => [
        row(`${name}: sharp, median`, ({ drags }) => drags.rows[i].sharpMs),
        row(`${name}: sharp, p95`, ({ drags }) => drags.rows[i].sharpP95Ms),
      ]),
      row("opening by its address, first computed picture", ({ drags }) => drags.openedColdMs),
      row("import, upload to finished tiles", ({ drags }) => drags.importMs),
      row(`${MEGAPIXELS} MP at full size, one thread, without its file`, ({ exported }) => exported.renderMs),
    ],
  };
}

/** The revision with its own packages, built, in a folder of its own that is kept for the next time. */
async function checkOut(revision) {
  const folder = join(tmpdir(), `yelm-before-${revision}`);
  if (!existsSync(folder))
    await step(`checking out ${revision}`, "git", ["worktree", "add", "--detach", folder, revision]);
  await step(`setting up ${revision}`, node, ["scripts/setup.mjs"], { cwd: folder });
  return folder;
}

/** What the bench in a folder measures, in a process of its own. */
async function ask(folder, drags, executablePath) {
  const at = (name) => JSON.stringify(pathToFileURL(join(folder, "scripts", "bench", name)).href);
  const script = `
    const { ${drags}: drag } = await import(${at("drags.mjs")});
    const { measureExports } = await import(${at("exports.mjs")});
    const drags = await drag(${JSON.stringify(executablePath)});
    const { rows } = await measureExports([${MEGAPIXELS}]);
    console.log("\\n" + JSON.stringify({ drags, exported: rows[0] }));`;
  const { code, output } = await run(node, ["--input-type=module", "-e", script], { cwd: folder, quiet: true });
  if (code !== 0) throw new Error(output);
  return JSON.parse(output.trim().split("\n").at(-1));
}
