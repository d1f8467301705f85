import { mkdtemp, readdir, rm } from "node:fs/promises";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { afterAll, beforeAll, expect, test } from "@jest/globals";
import { drawChart, shoot } from "@yelm/camera";
import {
  changesBetween,
  defaultNotes,
  defaultRecipe,
  moveOf,
  walkRevisions,
  withMoves,
  type ArchiveAnswer,
  type Negative,
  type Notes,
  type Print,
  type PrintHistory,
  type PrintNotes,
  type Recipe,
  type Roll,
} from "@yelm/core";
import { serve, type Service } from "../serve.ts";
import { asking } from "./asking.ts";

type Failure = { readonly error: { readonly code: string; readonly message: string; readonly field?: string } };

let here: Service;
let there: Service;
let folders: string[];
let roll: Roll;
let prints: Print[];
let archive: Buffer;
const ask = asking(() => here.url);
const askThere = asking(() => there.url);

const recipes: Recipe[] = [1, 2, 3].map((grade) => ({
  ...withMoves(defaultRecipe(), [
    moveOf("Ramp", { kind: "ramp", x: 0.5, y: 0.2, angleDegrees: 90, reach: 0.2, sides: "one" }, -0.5),
  ]),
  shape: { ...defaultRecipe().shape, grade },
}));
const outline = { kind: "outline" as const, points: [[0.2, 0.2], [0.4, 0.2], [0.3, 0.4]] as [number, number][], spread: 0.02 }; // prettier-ignore

async function change(id: string, to: Recipe): Promise<Print> {
  const { body: print } = await ask<Print>("GET", `/prints/${id}`);
  const body = { id: crypto.randomUUID(), base: print.head, changes: changesBetween(print.recipe, to), label: "x", station: "Shape", at: new Date().toISOString() }; // prettier-ignore
  const answer = await ask<Print>("POST", `/prints/${id}/revisions`, body);
  expect([answer.status, answer.text.slice(0, 0)]).toEqual([201, ""]);
  return answer.body;
}

async function send(url: string, bytes: Uint8Array) {
  const form = new FormData();
  form.append("file", new Blob([Buffer.from(bytes)]), "roll.zip");
  const response = await fetch(`${url}/api/rolls/archive`, { method: "POST", body: form });
  return { status: response.status, body: (await response.json()) as ArchiveAnswer & Failure };
}

async function bringIn(url: string, seed: number): Promise<void> {
  const form = new FormData();
  form.append("file", new Blob([Buffer.from(await shoot(drawChart("patches", 160, 120), { seed }))]), `n${seed}.dng`);
  expect((await fetch(`${url}/api/rolls/${roll.id}/captures`, { method: "POST", body: form })).status).toBe(201);
}

beforeAll(async () => {
  folders = [await mkdtemp(join(tmpdir(), "yelm-here-")), await mkdtemp(join(tmpdir(), "yelm-there-"))];
  [here, there] = [await serve({ data: folders[0], port: 0 }), await serve({ data: folders[1], port: 0 })];
  roll = (await ask<Roll>("POST", "/rolls", { title: "Pond / house", note: "What it is about.", light: "low sun" }))
    .body;
  for (const seed of [1, 2]) await bringIn(here.url, seed);
  const negatives = (await ask<Negative[]>("GET", "/negatives")).body;
  await ask("PATCH", "/negatives", { ids: [negatives[0].id], rating: "keep" });
  await ask("PATCH", `/negatives/${negatives[0].id}`, { title: "The pond" });
  const [first] = (await ask<Print[]>("GET", `/prints?negative=${negatives[0].id}`)).body;
  const early = await change(first.id, recipes[0]);
  const middle = await change(first.id, recipes[1]);
  await change(first.id, recipes[2]);
  const notes: Notes = {
    plan: { sentence: "The house alone.", key: "low", marks: [{ id: "m", kind: "subject", shape: outline }] },
    states: [
      { id: "s2", name: "Later", note: "", revision: middle.head, at: "2026-01-02T00:00:00.000Z" },
      { id: "s1", name: "Early", note: "calmer", revision: early.head, at: "2026-01-01T00:00:00.000Z" },
    ],
    meant: [{ finding: "halo", reason: "as a drawing", at: "2026-01-03T00:00:00.000Z" }],
  };
  expect((await ask("PUT", `/prints/${first.id}/notes`, { id: "n1", base: "fresh", notes, label: "x" })).status).toBe(
    200,
  );
  await ask("POST", "/prints", { negativeId: negatives[0].id, name: "Żółw – second", from: first.id });
  prints = (await ask<Print[]>("GET", "/prints")).body;
  const response = await fetch(`${here.url}/api/rolls/${roll.id}/archive`);
  expect(response.headers.get("content-type")).toBe("application/zip");
  archive = Buffer.from(await response.arrayBuffer());
});
afterAll(async () => {
  await Promise.all([here.close(), there.close()]);
  for (const folder of folders) await rm(folder, { recursive: true });
});

test("a roll opens elsewhere as it was: captures to the bit, prints, plans, states and what is meant; twice changes nothing", async () => {
  const { status, body } = await send(there.url, archive);
  expect([status, body.negatives, body.prints, body.failed]).toEqual([201, 2, 3, []]);
  expect(body.roll).toMatchObject({ id: roll.id, title: roll.title, note: roll.note, light: roll.light });
  const [own, its] = await Promise.all(
    [ask, askThere].map(async (one) => (await one<Negative[]>("GET", `/negatives?roll=${roll.id}`)).body),
  );
  expect(its.map(({ hash, title, fileName }) => [hash, title, fileName])).toEqual(
    own.map(({ hash, title, fileName }) => [hash, title, fileName]),
  );
  const sheet = (await askThere<{ rating: string | null; printCount: number }[]>("GET", `/rolls/${roll.id}/sheet`))
    .body;
  expect(sheet.map(({ rating, printCount }) => [rating, printCount])).toEqual([["keep", 2], [null, 1]]); // prettier-ignore
  for (const { id, name, recipe } of prints) {
    const came = (await askThere<Print>("GET", `/prints/${id}`)).body;
    expect([came.name, came.recipe]).toEqual([name, recipe]);
  }
  const { id } = prints.find(({ recipe, name }) => recipe.shape.grade === 3 && name === "First print")!;
  const { notes } = (await askThere<PrintNotes>("GET", `/prints/${id}/notes`)).body;
  const { plan, meant } = (await ask<PrintNotes>("GET", `/prints/${id}/notes`)).body.notes;
  expect([notes.plan, notes.meant]).toEqual([plan, meant]);
  const { print, revisions } = (await askThere<PrintHistory>("GET", `/prints/${id}/history`)).body;
  const byId = new Map(revisions.map((revision) => [revision.id, revision]));
  expect(
    notes.states.map(({ name, note, revision }) => [name, note, walkRevisions(print.recipe, print.head, revision, byId)]),
  ).toEqual([["Early", "calmer", recipes[0]], ["Later", "", recipes[1]]]); // prettier-ignore

  expect((await send(there.url, archive)).body).toMatchObject({ negatives: 2, prints: 0, failed: [] });
  expect((await askThere<Print[]>("GET", "/prints")).body.length).toBe(3);
});

test("an archive that was interrupted after a capture, before its prints, leaves no print too many", async () => {
  const third = await mkdtemp(join(tmpdir(), "yelm-again-"));
  const service = await serve({ data: third, port: 0 });
  const one = asking(() => service.url);
  try {
    // As it is then: the roll and a capture are there, with the print that every new capture gets.
    const { id, title, createdAt } = roll;
    await service.context.db("rolls").insert({ id, title, createdAt });
    await bringIn(service.url, 1);
    expect((await one<Print[]>("GET", "/prints")).body.map(({ name }) => name)).toEqual(["First print"]);
    expect((await send(service.url, archive)).body).toMatchObject({ prints: 3, failed: [] });
    const left = (await one<Print[]>("GET", "/prints")).body.map(({ id }) => id).sort();
    expect(left).toEqual(prints.map(({ id }) => id).sort());
  } finally {
    await service.close();
    await rm(third, { recursive: true });
  }
});

test("a damaged capture is told and the rest comes in; what is no archive leaves nothing behind", async () => {
  const third = await mkdtemp(join(tmpdir(), "yelm-third-"));
  const service = await serve({ data: third, port: 0 });
  try {
    // A byte in the middle of the last capture: entries are stored as they are.
    const broken = Buffer.from(archive);
    broken[broken.lastIndexOf(Buffer.from("captures/0002", "latin1"), broken.length - 2000) + 4000] ^= 0xff;
    const { status, body } = await send(service.url, broken);
    expect([status, body.negatives, body.prints]).toEqual([201, 1, 2]);
    expect(body.failed).toEqual([{ fileName: "n2.dng", reason: expect.stringMatching(/n2\.dng/) as unknown }]);
    for (const bytes of [Buffer.from("no archive"), archive.subarray(0, archive.length >> 1)]) {
      const none = await send(service.url, bytes);
      expect([none.status, none.body.error.code]).toEqual([400, "bad_request"]);
    }
    expect((await readdir(join(third, "incoming"))).filter((name) => name.endsWith(".part"))).toEqual([]);
  } finally {
    await service.close();
    await rm(third, { recursive: true });
  }
});

test("a print's file makes a print of its own on any negative; one that is damaged is refused by its field", async () => {
  const [first] = prints;
  const file = (await ask<Record<string, unknown>>("GET", `/prints/${first.id}/file`)).body;
  const path = `/negatives/${first.negativeId}/prints/file`;
  const made = await ask<Print>("POST", path, file);
  expect([made.status, made.body.id === first.id, made.body.recipe]).toEqual([201, false, first.recipe]);
  const count = async () => (await ask<Print[]>("GET", "/prints")).body.length;
  const before = await count();
  const refused: [object, string | undefined][] = [
    [{ ...file, version: 2 }, "version"],
    [{ ...file, plan: { sentence: 3, key: "", marks: [] } }, "plan.sentence"],
    [{ ...file, recipe: { ...first.recipe, shape: { grade: "x" } } }, undefined],
    [{ ...file, kind: "something" }, "kind"],
  ];
  for (const [input, field] of refused) {
    const { status, body } = await ask<Failure>("POST", path, input);
    expect(status).toBe(400);
    if (field) expect(body.error.field).toBe(field);
  }
  expect(await count()).toBe(before);
  expect((await ask("POST", "/negatives/none/prints/file", file)).status).toBe(404);
  expect(defaultNotes().states).toEqual([]);
});

test("a painter's print with many states comes back from its file, larger than any other request may be", async () => {
  const [first] = prints;
  const file = (await ask<{ states: object[] }>("GET", `/prints/${first.id}/file`)).body;
  const stroke = (k: number) => ({
    id: `s${k}`, radius: 0.05, softness: 0.8, flow: 0.5, erase: false,
    points: Array.from({ length: 400 }, (_, i): [number, number, number] => [0.123456 + i * 0.001, 0.234567, 0.987654]),
  }); // prettier-ignore
  const painted = withMoves(defaultRecipe(), [
    moveOf("Brush", { kind: "brush", strokes: Array.from({ length: 60 }, (_, k) => stroke(k)) }, -0.5),
  ]);
  const states = Array.from({ length: 10 }, (_, k) => ({
    name: `State ${k}`,
    note: "",
    at: `2026-01-${10 + k}T00:00:00.000Z`,
    recipe: { ...painted, shape: { ...painted.shape, grade: 1 + k / 10 } },
  }));
  const large = { ...file, recipe: painted, states };
  expect(JSON.stringify(large).length).toBeGreaterThan(5 * 2 ** 20);
  const made = await ask<Print>("POST", `/negatives/${first.negativeId}/prints/file`, large);
  expect([made.status, made.body.recipe]).toEqual([201, painted]);
  expect((await ask<PrintNotes>("GET", `/prints/${made.body.id}/notes`)).body.notes.states.length).toBe(10);
  expect((await ask("POST", "/prints", { negativeId: first.negativeId, name: "x", recipe: large })).status).toBe(413);
});

test("on another negative a print's file gives its recipe and words; what belongs to the other picture stays away", async () => {
  const [first] = prints.filter(({ recipe, name }) => recipe.shape.grade === 3 && name === "First print");
  const other = prints.find(({ negativeId }) => negativeId !== first.negativeId)!;
  const file = (await ask<object>("GET", `/prints/${first.id}/file`)).body;
  const made = (await ask<Print>("POST", `/negatives/${other.negativeId}/prints/file`, file)).body;
  expect(made.recipe).toEqual(first.recipe);
  const { notes } = (await ask<PrintNotes>("GET", `/prints/${made.id}/notes`)).body;
  expect(notes).toEqual({ ...defaultNotes(), plan: { sentence: "The house alone.", key: "low", marks: [] } });
});

test("a roll whose capture is gone from the data folder says so before an archive is begun", async () => {
  const third = await mkdtemp(join(tmpdir(), "yelm-gone-"));
  const service = await serve({ data: third, port: 0 });
  const one = asking(() => service.url);
  try {
    await send(service.url, archive);
    const path = `/rolls/${roll.id}/archive`;
    const asked = async () => (await fetch(`${service.url}/api${path}`, { method: "HEAD" })).status;
    expect(await asked()).toBe(200);
    await rm(join(third, "captures"), { recursive: true, force: true });
    expect(await asked()).toBe(404);
    const { status, body } = await one<Failure>("GET", path);
    expect([status, body.error.message]).toEqual([404, expect.stringContaining("n1.dng") as unknown]);
  } finally {
    await service.close();
    await rm(third, { recursive: true });
  }
});

test("the sheet of a print is a PDF with the picture in it, whatever letters its names have", async () => {
  for (const { id } of prints) {
    const response = await fetch(`${here.url}/api/prints/${id}/sheet`);
    const bytes = Buffer.from(await response.arrayBuffer());
    expect([response.status, bytes.subarray(0, 5).toString("latin1")]).toEqual([200, "%PDF-"]);
    expect(bytes.includes("/Subtype /Image")).toBe(true);
    expect(bytes.subarray(-1024).toString("latin1")).toContain("%%EOF");
  }
});
