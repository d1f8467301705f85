import { mkdtemp, readdir, rm, writeFile } from "node:fs/promises";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { afterAll, beforeAll, expect, test } from "@jest/globals";
import { createRandom, drawChart, shoot, spoil } from "@yelm/camera";
import type { Negative } from "@yelm/core";
import sharp from "sharp";
import { closeContext, openContext } from "../serve.ts";
import type { Context } from "../services/context.ts";
import { importCapture, listNegatives } from "../services/negatives.ts";
import { createRoll } from "../services/rolls.ts";

const SEED = 20261024;
// `npm run fuzz` brings in ten thousand.
const ROUNDS = 250;
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
    await writeFile(path, spoil(bytes, random));
    const outcome = await importCapture(context, roll.id, path, name).then(
      ({ status }) => status,
      (error: { code?: string; message: string }) => error.code ?? error.message,
    );
    expect([SEED, i, outcome]).toEqual([
      SEED,
      i,
      expect.stringMatching(/^(imported|duplicate|unreadable_file|unsupported_file|too_large)$/),
    ]);
    await rm(path);
    if (outcome === "imported") imported++;
  }
  const negatives: Negative[] = await listNegatives(context, roll.id);
  expect(negatives).toHaveLength(imported);
  expect(await readdir(context.folder.incoming)).toEqual([]);
  expect((await readdir(context.folder.tiles)).sort()).toEqual(negatives.map(({ hash }) => hash).sort());
}, 300_000);
