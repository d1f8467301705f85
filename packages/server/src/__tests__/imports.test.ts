import { spawn, type ChildProcess } from "node:child_process";
import { mkdtemp, readdir, readFile, rm, writeFile } from "node:fs/promises";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { fileURLToPath } from "node:url";
import { afterEach, beforeEach, describe, expect, test } from "@jest/globals";
import { drawChart, shoot } from "@yelm/camera";
import type { Card, ImportJob, Negative, Roll, SheetEntry } from "@yelm/core";
import { addDays } from "date-fns";
import { serve, type Service } from "../serve.ts";
import { KEPT_DAYS, purgeDeleted } from "../services/purge.ts";

const YELM = fileURLToPath(new URL("../../bin/yelm.js", import.meta.url));
let data: string;
beforeEach(async () => {
  data = await mkdtemp(join(tmpdir(), "yelm-imports-"));
});
afterEach(async () => {
  await rm(data, { recursive: true, force: true });
});

async function ask<T>(url: string, method: string, path: string, body?: unknown): Promise<T> {
  const response = await fetch(`${url}/api${path}`, {
    method,
    headers: body === undefined ? {} : { "content-type": "application/json" },
    body: body === undefined ? undefined : JSON.stringify(body),
  });
  const text = await response.text();
  if (!response.ok) throw new Error(text);
  return (text ? JSON.parse(text) : undefined) as T;
}

async function put(url: string, rollId: string, id: string, bytes: Uint8Array, name: string): Promise<ImportJob> {
  const form = new FormData();
  form.append("file", new Blob([Buffer.from(bytes)]), name);
  const response = await fetch(`${url}/api/rolls/${rollId}/imports/${id}`, { method: "PUT", body: form });
  expect(response.status).toBe(202);
  return (await response.json()) as ImportJob;
}

async function until<T>(what: () => Promise<T>, holds: (value: T) => boolean, ms = 40_000): Promise<T> {
  const end = Date.now() + ms;
  for (;;) {
    const value = await what();
    if (holds(value)) return value;
    if (Date.now() > end) throw new Error(`Waited too long; the last was ${JSON.stringify(value).slice(0, 400)}`);
    await new Promise((resolve) => setTimeout(resolve, 60));
  }
}

const open = ({ state }: ImportJob) => state === "waiting" || state === "running";
const small = (seed: number) => shoot(drawChart("patches", 120, 90), { seed });

/** Yelm in a process of its own, which can be killed. */
async function start(): Promise<{ url: string; child: ChildProcess }> {
  const child = spawn(process.execPath, [YELM, "serve", "--data", data, "--port", "0"], {
    stdio: ["ignore", "pipe", 2],
  });
  const url = await new Promise<string>((resolve) =>
    child.stdout!.on("data", (chunk: Buffer) => {
      const found = /http:\S+/.exec(String(chunk));
      if (found) resolve(found[0]);
    }),
  );
  return { url, child };
}

describe("imports", () => {
  test("go on where they were after the server is killed, at any of several points, and leave nothing behind", async () => {
    let { url, child } = await start();
    const roll = await ask<Roll>(url, "POST", "/rolls", { title: "Killed" });
    const count = 14;
    for (let i = 0; i < count; i++) await put(url, roll.id, `capture-${i}`, await small(900 + i), `killed-${i}.dng`);
    // Sent again after an answer that was lost, it is the same import.
    expect(await put(url, roll.id, "capture-0", await small(900), "killed-0.dng")).toMatchObject({ id: "capture-0" });
    for (const afterMs of [40, 150, 350]) {
      await new Promise((resolve) => setTimeout(resolve, afterMs));
      child.kill("SIGKILL");
      await new Promise((resolve) => child.once("exit", resolve));
      ({ url, child } = await start());
    }
    const jobs = await until(
      () => ask<ImportJob[]>(url, "GET", "/imports"),
      (list) => !list.some(open),
    );
    expect(jobs.map(({ id, state }) => [id, state])).toEqual(
      Array.from({ length: count }, (_, i) => [`capture-${i}`, expect.stringMatching(/imported|duplicate/)]),
    );
    const sheet = await ask<SheetEntry[]>(url, "GET", `/rolls/${roll.id}/sheet`);
    expect(sheet).toHaveLength(count);
    expect(sheet.every(({ best, printCount }) => best !== null && printCount === 1)).toBe(true);
    child.kill("SIGTERM");
    await new Promise((resolve) => child.once("exit", resolve));
    expect(await readdir(join(data, "incoming"))).toEqual([]);
    expect((await readdir(join(data, "tiles"))).filter((name) => name.endsWith(".part"))).toEqual([]);
  }, 120_000);

  test("a broken file tells its reason and the rest goes on; what waits can be stopped", async () => {
    const service = await serve({ data, port: 0 });
    try {
      const { url } = service;
      const roll = await ask<Roll>(url, "POST", "/rolls", { title: "Mixed" });
      await put(url, roll.id, "whole-one", await small(1), "one.dng");
      await put(url, roll.id, "broken-two", (await small(2)).subarray(0, 300), "two.dng");
      await put(url, roll.id, "whole-three", await small(3), "three.dng");
      const jobs = await until(
        () => ask<ImportJob[]>(url, "GET", "/imports"),
        (list) => !list.some(open),
      );
      expect(jobs.map(({ state }) => state)).toEqual(["imported", "failed", "imported"]);
      expect(jobs[1].error).toMatch(/^Expected a raw file/);
      expect(jobs[1].hint).toMatch(/Copy it/);
      await ask(url, "POST", "/imports/clear");
      expect(await ask(url, "GET", "/imports")).toEqual([]);
      for (let i = 0; i < 8; i++) await put(url, roll.id, `later-${i}-00`, await small(20 + i), `later-${i}.dng`);
      await ask(url, "POST", "/imports/cancel");
      const stopped = await until(
        () => ask<ImportJob[]>(url, "GET", "/imports"),
        (list) => !list.some(open),
      );
      expect(stopped.filter(({ state }) => state === "cancelled").length).toBeGreaterThan(0);
      expect(stopped.filter(({ state }) => state !== "cancelled").every(({ state }) => state === "imported")).toBe(
        true,
      );
      // Its file goes right after a capture is told to be there.
      await until(
        () => readdir(join(data, "incoming")),
        (left) => left.length === 0,
      );
    } finally {
      await service.close();
    }
  }, 60_000);
});

describe("the card", () => {
  test("what the camera shoots arrives in the roll once, and the file on the card stays as it is", async () => {
    let service: Service = await serve({ data, port: 0 });
    try {
      const roll = await ask<Roll>(service.url, "POST", "/rolls", { title: "Card" });
      const before = await small(77);
      await writeFile(join(data, "card", "before.dng"), before);
      const card = await ask<Card>(service.url, "PUT", "/card", { rollId: roll.id });
      expect(card).toMatchObject({ folder: join(data, "card"), rollId: roll.id });
      expect(card.scenes.map(({ name }) => name)).toContain("night-lane");
      const shot = { scene: "night-lane", iso: 1600, exposureStops: 0, frames: 2, stepStops: 2 };
      const { files } = await ask<{ files: string[] }>(service.url, "POST", "/card/shots", shot);
      const sheet = await until(
        () => ask<SheetEntry[]>(service.url, "GET", `/rolls/${roll.id}/sheet`),
        (list) => list.length === 3,
      );
      expect(sheet.map(({ fileName }) => fileName).sort()).toEqual(["before.dng", ...files].sort());
      expect(sheet.filter(({ iso }) => iso === 1600)).toHaveLength(2);
      expect(Buffer.compare(await readFile(join(data, "card", "before.dng")), before)).toBe(0);
      await service.close();
      service = await serve({ data, port: 0 });
      await writeFile(join(data, "card", "after.dng"), await small(78));
      await until(
        () => ask<SheetEntry[]>(service.url, "GET", `/rolls/${roll.id}/sheet`),
        (list) => list.length === 4,
      );
      const jobs = await ask<ImportJob[]>(service.url, "GET", "/imports");
      expect(jobs.map(({ origin, state }) => `${origin} ${state}`)).toEqual(Array(4).fill("card imported"));
      await expect(ask(service.url, "POST", "/card/shots", { ...shot, scene: "../night-lane" })).rejects.toThrow(
        "Expected a scene",
      );
    } finally {
      await service.close();
    }
  }, 90_000);
});

describe("rolls and negatives", () => {
  test("are rated, put away and brought back; after thirty days they are forgotten and the capture stays", async () => {
    const service = await serve({ data, port: 0 });
    try {
      const { url, context } = service;
      const roll = await ask<Roll>(url, "POST", "/rolls", { title: "Kept", date: "October", light: "low sun" });
      expect(roll).toMatchObject({ date: "October", light: "low sun", archivedAt: null });
      for (let i = 0; i < 3; i++) await put(url, roll.id, `rated-${i}-00`, await small(300 + i), `rated-${i}.dng`);
      const sheet = await until(
        () => ask<SheetEntry[]>(url, "GET", `/rolls/${roll.id}/sheet`),
        (list) => list.length === 3,
      );
      const [a, b] = sheet.map(({ id }) => id);
      expect(await ask(url, "PATCH", "/negatives", { ids: [a, b, "none"], rating: "keep" })).toEqual({ changed: 2 });
      await expect(ask(url, "PATCH", "/negatives", { ids: [a], rating: "best" })).rejects.toThrow(
        "one of keep, maybe, no",
      );
      await ask(url, "PATCH", "/negatives", { ids: [b], deleted: true });
      const left = await ask<SheetEntry[]>(url, "GET", `/rolls/${roll.id}/sheet`);
      expect(left.map(({ id, rating }) => [id, rating])).toEqual([
        [a, "keep"],
        [sheet[2].id, null],
      ]);
      expect((await ask<Roll>(url, "GET", `/rolls/${roll.id}`)).negativeCount).toBe(2);
      await ask(url, "PATCH", "/negatives", { ids: [b], deleted: false });
      expect(await ask(url, "GET", `/rolls/${roll.id}/sheet`)).toHaveLength(3);
      // Brought in again, what was put away comes back with its prints and rating.
      await ask(url, "PATCH", "/negatives", { ids: [b], deleted: true });
      await put(url, roll.id, "again-again", await small(301), "again.dng");
      const back = await until(
        () => ask<SheetEntry[]>(url, "GET", `/rolls/${roll.id}/sheet`),
        (list) => list.length === 3,
      );
      expect(back.find(({ id }) => id === b)).toMatchObject({ rating: "keep", fileName: "rated-1.dng" });

      await ask(url, "PATCH", "/negatives", { ids: [b], deleted: true });
      expect(await purgeDeleted(context)).toBe(0);
      const { hash } = await ask<Negative>(url, "GET", `/negatives/${b}`);
      // Days on which Yelm ran are counted. A clock half a year ahead for one start is one day, and costs nobody a negative.
      expect(await purgeDeleted(context, addDays(new Date(), 180))).toBe(0);
      for (let day = 1; day < KEPT_DAYS; day++) expect(await purgeDeleted(context, addDays(new Date(), day))).toBe(0);
      expect(await purgeDeleted(context, addDays(new Date(), KEPT_DAYS))).toBe(1);
      await expect(ask(url, "GET", `/negatives/${b}`)).rejects.toThrow("there is none");
      await expect(readFile(join(data, "captures", hash.slice(0, 2), hash))).resolves.toBeDefined();

      expect((await ask<Roll>(url, "PATCH", `/rolls/${roll.id}`, { archived: true })).archivedAt).not.toBeNull();
      await ask(url, "DELETE", `/rolls/${roll.id}`);
      expect(await ask<Roll[]>(url, "GET", "/rolls")).toEqual([]);
      expect(await ask<Roll>(url, "POST", `/rolls/${roll.id}/restore`)).toMatchObject({ negativeCount: 2 });
    } finally {
      await service.close();
    }
  }, 60_000);
});
