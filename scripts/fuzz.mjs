// Brings thousands of spoiled files in, with a fixed seed, and tells what came of them. Usage:
//   npm run fuzz [-- COUNT [SEED]]
// Ends with code 1 when one crashes, hangs, goes beyond the memory allowed or leaves anything behind.
import { mkdtemp, readdir, rm, writeFile } from "node:fs/promises";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { createRandom, drawChart, shoot, spoil } from "@yelm/camera";
import sharp from "sharp";

const { openContext, closeContext } = await import("../packages/server/dist/serve.js");
const { importCapture, listNegatives } = await import("../packages/server/dist/services/negatives.js");
const { createRoll } = await import("../packages/server/dist/services/rolls.js");

const COUNT = Number(process.argv[2] ?? 10_000);
const SEED = Number(process.argv[3] ?? 20261024);
const SLOWEST_MS = 20_000;
const MOST_BYTES = 3 * 2 ** 30;
const ALLOWED = new Set(["imported", "duplicate", "unreadable_file", "unsupported_file", "too_large"]);

const random = createRandom(SEED);
const noise = Buffer.from(Uint8Array.from({ length: 70 * 50 * 3 }, () => Math.floor(random() * 256)));
const picture = () => sharp(noise, { raw: { width: 70, height: 50, channels: 3 } });
const originals = [
  ["a.dng", await shoot(drawChart("patches", 120, 90))],
  ["b.dng", await shoot(drawChart("patches", 120, 90), { compress: false, orientation: 6 })],
  ["c.tif", await picture().toColourspace("rgb16").tiff({ compression: "lzw" }).toBuffer()],
  ["d.tif", await picture().tiff({ compression: "none" }).toBuffer()],
  ["e.png", await picture().toColourspace("rgb16").png().toBuffer()],
  ["f.jpg", await picture().withMetadata({ orientation: 3 }).jpeg().toBuffer()],
];

const data = await mkdtemp(join(tmpdir(), "yelm-fuzz-"));
const context = await openContext(data);
const outcomes = {};
let slowest = 0;
let mostBytes = 0;
let wrong = 0;
try {
  const roll = await createRoll(context, { title: "Spoiled" });
  const started = performance.now();
  for (let i = 0; i < COUNT; i++) {
    const [name, bytes] = originals[i % originals.length];
    const path = join(context.folder.incoming, `m${i}`);
    await writeFile(path, spoil(bytes, random));
    const from = performance.now();
    const outcome = await importCapture(context, roll.id, path, name).then(
      ({ status }) => status,
      (error) => error.code ?? `${error.name}: ${error.message}`,
    );
    await rm(path);
    const ms = performance.now() - from;
    slowest = Math.max(slowest, ms);
    mostBytes = Math.max(mostBytes, process.memoryUsage().rss);
    outcomes[outcome] = (outcomes[outcome] ?? 0) + 1;
    if ((i + 1) % 1000 === 0) console.log(`${i + 1} files, ${Math.round(process.memoryUsage().rss / 2 ** 20)} MiB`);
    if (ALLOWED.has(outcome) && ms < SLOWEST_MS) continue;
    wrong++;
    console.log(`file ${i} (${name}, seed ${SEED}): ${outcome} after ${Math.round(ms)} ms`);
  }
  const negatives = await listNegatives(context, roll.id);
  const tiles = await readdir(context.folder.tiles);
  const left = tiles.length - new Set(negatives.map(({ hash }) => hash)).size;
  const minutes = (performance.now() - started) / 60_000;
  console.log(`${COUNT} files in ${minutes.toFixed(1)} min: ${JSON.stringify(outcomes)}`);
  console.log(
    `slowest ${Math.round(slowest)} ms, most memory ${Math.round(mostBytes / 2 ** 20)} MiB, left behind ${left}`,
  );
  if (wrong > 0 || left !== 0 || mostBytes > MOST_BYTES) process.exitCode = 1;
} finally {
  await closeContext(context);
  await rm(data, { recursive: true });
}
