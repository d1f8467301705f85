import { mkdtemp, readdir, rm, writeFile } from "node:fs/promises";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { afterAll, beforeAll, expect, test } from "@jest/globals";
import { createRandom, drawChart, shoot } from "@yelm/camera";
import type { Negative } from "@yelm/core";
import sharp from "sharp";
import { closeContext, openContext } from "../serve.ts";
import type { Context } from "../services/context.ts";
import { importCapture, listNegatives } from "../services/negatives.ts";
import { createRoll } from "../services/rolls.ts";

const SEED = 20261024;
const ROUNDS = 60;
let context: Context;
let data: string;
beforeAll(async () => {
  data = await mkdtemp(join(tmpdir(), "yelm-mutated-"));
  context = await openContext(data);
});
afterAll(async () => {
  await closeContext(context);
  await rm(data, { recursive: true });
});

/** Spoils a file in one of several ways. */
function mutate(bytes: Uint8Array, random: () => number): Uint8Array {
  const out = Uint8Array.from(bytes);
  const kind = Math.floor(random() * 4);
  if (kind === 0) return out.slice(0, Math.floor(random() * out.length));
  const span = kind === 1 ? Math.min(out.length, 400) : out.length;
  const count = kind === 3 ? 200 : 1 + Math.floor(random() * 8);
  for (let i = 0; i < count; i++) out[Math.floor(random() * span)] = Math.floor(random() * 256);
  return out;
}

test("mutated files of every kind come in or give a reason; none hangs, crashes or leaves anything", async () => {
  const random = createRandom(SEED);
  const pixels = { create: { width: 70, height: 50, channels: 3 as const, background: "#a37" } };
  const originals = [
    ["a.dng", await shoot(drawChart("patches", 120, 90))],
    ["b.dng", await shoot(drawChart("patches", 120, 90), { compress: false })],
    ["c.tif", await sharp(pixels).tiff().toBuffer()],
    ["d.png", await sharp(pixels).png().toBuffer()],
    ["e.jpg", await sharp(pixels).jpeg().toBuffer()],
  ] as const;
  const roll = await createRoll(context, { title: "Mutated" });
  let imported = 0;
  for (let i = 0; i < ROUNDS; i++) {
    const [name, bytes] = originals[i % originals.length];
    const path = join(context.folder.incoming, `m${i}`);
    await writeFile(path, mutate(bytes, random));
    const started = performance.now();
    const outcome = await importCapture(context, roll.id, path, name).then(
      ({ status }) => status,
      (error: { code?: string; message: string }) => error.code ?? error.message,
    );
    expect([SEED, i, outcome]).toEqual([
      SEED,
      i,
      expect.stringMatching(/^(imported|duplicate|unreadable_file|unsupported_file|too_large)$/),
    ]);
    expect(performance.now() - started).toBeLessThan(20_000);
    if (outcome === "imported") imported++;
  }
  const negatives: Negative[] = await listNegatives(context, roll.id);
  expect(negatives).toHaveLength(imported);
  expect(await readdir(context.folder.incoming)).toEqual([]);
  expect((await readdir(context.folder.tiles)).sort()).toEqual(negatives.map(({ hash }) => hash).sort());
}, 300_000);
