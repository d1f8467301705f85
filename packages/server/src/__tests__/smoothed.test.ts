import { mkdtemp, rm } from "node:fs/promises";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { afterAll, beforeAll, expect, test } from "@jest/globals";
import { drawChart, shoot, shootJpeg } from "@yelm/camera";
import { PYRAMID_VERSION, REC2020, type ImportResult, type Negative, type Print, type Roll } from "@yelm/core";
import { serve, type Service } from "../serve.ts";
import { asking } from "./asking.ts";

let data: string;
let service: Service;
let jpeg: Negative;
let raw: Negative;
const ask = asking(() => service.url);
const KEPT = `${PYRAMID_VERSION}`;
const SMOOTHED = `${PYRAMID_VERSION}s`;

async function bringIn(roll: Roll, bytes: Uint8Array, name: string): Promise<Negative> {
  const form = new FormData();
  form.append("file", new Blob([Buffer.from(bytes)]), name);
  const response = await fetch(`${service.url}/api/rolls/${roll.id}/captures`, { method: "POST", body: form });
  return ((await response.json()) as ImportResult).negative;
}

/** A tile's three planes, as half floats of light; null when there is none of that version. */
async function tile(version: string): Promise<readonly Float64Array[] | null> {
  const response = await fetch(`${service.url}/api/negatives/${jpeg.id}/tiles/${version}/0/0/0`);
  if (response.status === 404) return null;
  expect(response.status).toBe(200);
  const halves = new Uint16Array(await response.arrayBuffer());
  const n = jpeg.width * jpeg.height;
  const value = (h: number) => (h >> 15 ? -1 : 1) * (1 + (h & 1023) / 1024) * 2 ** (((h >> 10) & 31) - 15);
  return [0, 1, 2].map((c) => Float64Array.from(halves.subarray(c * n, (c + 1) * n), value));
}

beforeAll(async () => {
  data = await mkdtemp(join(tmpdir(), "yelm-smoothed-"));
  service = await serve({ data, port: 0 });
  const { body: roll } = await ask<Roll>("POST", "/rolls", { title: "Weir" });
  const scene = drawChart("patches", 160, 120);
  jpeg = await bringIn(roll, await shootJpeg(scene, { stops: 0, quality: 60, seed: 2 }), "weir.jpg");
  raw = await bringIn(roll, await shoot(scene, { seed: 3 }), "weir.dng");
});
afterAll(async () => {
  await service.close();
  await rm(data, { recursive: true });
});

test("colour noise of a JPEG is smoothed as it comes in, or as in the file when asked, and luminance the same", async () => {
  expect([jpeg.capture.smoothed, raw.capture.smoothed]).toEqual([true, undefined]);
  const smoothed = (await tile(SMOOTHED))!;
  expect(await tile(KEPT)).toBeNull();
  const [print] = (await ask<Print[]>("GET", `/prints?negative=${jpeg.id}`)).body;
  const address = `${service.url}/api/prints/${print.id}/thumbnail?edge=160&v=${print.head}`;
  const picture = async () => (await fetch(address)).arrayBuffer();
  const before = Buffer.from(await picture());
  const first = (await fetch(address)).headers;
  // Shown at once, so it must be asked for again, and is told to be the same until its colours are others.
  expect(first.get("cache-control")).toContain("stale-while-revalidate");
  const asked = { "If-None-Match": first.get("etag")!, "Cache-Control": "max-age=0" };
  const isKept = async () => (await fetch(address, { headers: asked })).status === 304;
  expect(await isKept()).toBe(true);
  const answer = await ask<Negative>("PUT", `/negatives/${jpeg.id}/smoothed`, { smoothed: false });
  expect([answer.status, answer.body.capture.smoothed]).toEqual([200, false]);
  const kept = (await tile(KEPT))!;
  expect(await tile(SMOOTHED)).toBeNull();
  let chroma = 0;
  let light = 0;
  for (let i = 0; i < jpeg.width * jpeg.height; i++) {
    const off = [0, 1, 2].map((c) => smoothed[c][i] - kept[c][i]);
    chroma = Math.max(chroma, ...off.map(Math.abs));
    light = Math.max(light, Math.abs(off.reduce((sum, v, c) => sum + REC2020.luminance[c] * v, 0)));
  }
  expect(chroma).toBeGreaterThan(4e-3);
  // Half floats of light up to one.
  expect(light).toBeLessThan(1e-3);
  expect(await isKept()).toBe(false);
  await ask("PUT", `/negatives/${jpeg.id}/smoothed`, { smoothed: true });
  expect(await tile(SMOOTHED)).toEqual(smoothed);
  expect(Buffer.compare(Buffer.from(await picture()), before)).toBe(0);
  expect(await isKept()).toBe(true);
});

test("a negative of before keeps its colours, and tiles that do not go with it are made again", async () => {
  const { smoothed, ...older } = jpeg.capture;
  expect(smoothed).toBe(true);
  await service.context
    .db("negatives")
    .where({ id: jpeg.id })
    .update({ capture: JSON.stringify(older) });
  expect(await tile(SMOOTHED)).toBeNull();
  const kept = await tile(KEPT);
  expect(kept).not.toBeNull();
  expect((await ask<Negative>("GET", `/negatives/${jpeg.id}`)).body.capture.smoothed).toBe(false);
  await service.close();
  service = await serve({ data, port: 0 });
  expect(await tile(KEPT)).toEqual(kept);
});

test("whoever still asks for tiles as they were does not have them made so again", async () => {
  await ask("PUT", `/negatives/${jpeg.id}/smoothed`, { smoothed: false });
  let isMade = false;
  const asked = (async () => {
    while (!isMade) {
      const all = Array.from({ length: 8 }, () => fetch(`${service.url}/api/negatives/${jpeg.id}/tiles/${KEPT}/0/0/0`));
      for (const answer of await Promise.all(all)) {
        expect([200, 404]).toContain(answer.status);
        await answer.arrayBuffer();
      }
    }
  })();
  await ask("PUT", `/negatives/${jpeg.id}/smoothed`, { smoothed: true });
  isMade = true;
  await asked;
  expect((await ask<Negative>("GET", `/negatives/${jpeg.id}`)).body.capture.smoothed).toBe(true);
  expect(await tile(SMOOTHED)).not.toBeNull();
});

test("what has no finished colours is refused, and so is what is no answer", async () => {
  const refused = await ask<{ error: { message: string } }>("PUT", `/negatives/${raw.id}/smoothed`, {
    smoothed: false,
  });
  expect([refused.status, refused.body.error.message]).toEqual([
    400,
    "Expected a file of finished colours but weir.dng has none.",
  ]);
  expect((await ask("PUT", `/negatives/${jpeg.id}/smoothed`, { smoothed: "yes" })).status).toBe(400);
  expect((await ask("PUT", `/negatives/nobody/smoothed`, { smoothed: true })).status).toBe(404);
});
