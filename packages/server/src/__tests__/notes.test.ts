import { mkdtemp, rm } from "node:fs/promises";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { afterAll, beforeAll, describe, expect, test } from "@jest/globals";
import { drawChart, shoot, type Scene } from "@yelm/camera";
import {
  defaultNotes,
  type Habits,
  type MatchPlan,
  type Notes,
  type PasteAnswer,
  type Print,
  type PrintNotes,
  type Roll,
  type SetEntry,
  type WorkLog,
} from "@yelm/core";
import { serve, type Service } from "../serve.ts";
import { asking } from "./asking.ts";

let service: Service;
let data: string;
let roll: Roll;
let prints: Print[];
const ask = asking(() => service.url);

/** A chart in more or less light. */
function scene(gain: number): Scene {
  const chart = drawChart("patches", 160, 120);
  return { ...chart, rgb: chart.rgb.map((v) => v * gain) };
}

beforeAll(async () => {
  data = await mkdtemp(join(tmpdir(), "yelm-notes-"));
  service = await serve({ data, port: 0 });
  roll = (await ask<Roll>("POST", "/rolls", { title: "Three | of a kind" })).body;
  for (const [i, gain] of [1, 0.5, 0.8].entries()) {
    const form = new FormData();
    form.append("file", new Blob([Buffer.from(await shoot(scene(gain), { seed: i + 1 }))]), `orrow-${i}.dng`);
    await fetch(`${service.url}/api/rolls/${roll.id}/captures`, { method: "POST", body: form });
  }
  prints = (await ask<Print[]>("GET", `/prints?roll=${roll.id}`)).body;
});
afterAll(async () => {
  await service.close();
  await rm(data, { recursive: true });
});

const notesOf = async (id: string) => (await ask<PrintNotes>("GET", `/prints/${id}/notes`)).body;
const withSentence = (sentence: string): Notes => ({ ...defaultNotes(), plan: { ...defaultNotes().plan, sentence } });
const keep = (id: string, change: object) => ask<PrintNotes>("PUT", `/prints/${id}/notes`, change);
const revise = async ({ id }: Print, label: string, changes: object[], station = "Shape", at = new Date()) => {
  const { head } = (await ask<Print>("GET", `/prints/${id}`)).body;
  const body = {
    id: `${label.replace(/[^a-z]/gi, "")}-${id.slice(0, 8)}`,
    base: head,
    changes,
    at: at.toISOString(),
    label,
    station,
  };
  return ask<Print>("POST", `/prints/${id}/revisions`, body);
};

describe("notes", () => {
  test("are kept beside the recipe, undone and redone, sent twice without harm, and a stale change is told", async () => {
    const [{ id, head: revision }] = prints;
    const fresh = await notesOf(id);
    expect(fresh).toMatchObject({ notes: defaultNotes(), canUndo: false, canRedo: false });
    const first = {
      id: "n1",
      base: fresh.head,
      notes: withSentence("The house in the last light."),
      label: "Sentence",
    };
    expect((await keep(id, first)).body).toMatchObject({ head: "n1", canUndo: true });
    expect((await keep(id, first)).body.head).toBe("n1");
    const stale = await keep(id, { ...first, id: "n2" });
    expect([stale.status, (stale.body as unknown as { error: { code: string } }).error.code]).toEqual([
      409,
      "stale_revision",
    ]);
    await keep(id, { id: "n3", base: "n1", notes: withSentence("Quieter."), label: "Sentence" });
    const back = await ask<PrintNotes>("POST", `/prints/${id}/notes/step`, { base: "n3", to: "back" });
    expect([back.body.head, back.body.canRedo, back.body.notes.plan.sentence]).toEqual(["n1", true, "The house in the last light."]); // prettier-ignore
    const out = await ask<PrintNotes>("POST", `/prints/${id}/notes/step`, { base: "n1", to: "back" });
    expect(out.body).toMatchObject({ notes: defaultNotes(), canUndo: false, canRedo: true });
    await ask("POST", `/prints/${id}/notes/step`, { base: out.body.head, to: "forth" });
    expect((await ask<PrintNotes>("POST", `/prints/${id}/notes/step`, { base: "n1", to: "forth" })).body.head).toBe(
      "n3",
    );
    // The picture is the same all the while.
    expect((await ask<Print>("GET", `/prints/${id}`)).body.head).toBe(revision);
  });
  test("a plan goes along to a copy of the print, its states do not; wrong notes are refused by name", async () => {
    const [{ id, negativeId }] = prints;
    const { head } = await notesOf(id);
    const state = {
      id: "s",
      name: "Before the sky",
      note: "",
      revision: prints[0].head,
      at: new Date(0).toISOString(),
    };
    await keep(id, {
      id: "n4",
      base: head,
      notes: { ...withSentence("A copy says it too."), states: [state] },
      label: "State",
    });
    const copy = (await ask<Print>("POST", "/prints", { negativeId, name: "Copy", from: id })).body;
    expect((await notesOf(copy.id)).notes).toEqual(withSentence("A copy says it too."));
    await ask("DELETE", `/prints/${copy.id}`);
    const wrong = await keep(id, {
      id: "n5",
      base: "n4",
      notes: { ...defaultNotes(), plan: { sentence: 3 } },
      label: "x",
    });
    expect(wrong).toMatchObject({ status: 400, body: { error: { code: "bad_request" } } });
    expect((await ask("GET", "/prints/none/notes")).status).toBe(404);
  });
});

test("matched prints lie within 0.15 stop and 0.2 of span of their pattern when measured anew; one by one they go back", async () => {
  const [pattern, second, third] = prints;
  await revise(pattern, "Harder", [{ op: "set", path: "shape/grade", value: 2.4 }]);
  const wish = { pattern: pattern.id, to: [second.id, third.id], parts: ["exposure", "grade", "toning", "grain"] };
  const plan = (await ask<MatchPlan[]>("POST", "/prints/match/plan", wish)).body;
  expect(plan.map(({ id }) => id)).toEqual([second.id, third.id]);
  expect(plan[0].changes.join()).toMatch(/exposure \+.*grade 2.0 → 2.[3-5]/);
  const before = (await ask<SetEntry[]>("GET", `/rolls/${roll.id}/set`)).body;
  expect(before.map(({ grade }) => grade)).toEqual([2.4, 2, 2]);
  const { changed } = (await ask<PasteAnswer>("POST", "/prints/match", wish)).body;
  expect(changed).toHaveLength(2);
  const [model, ...others] = (await ask<SetEntry[]>("GET", `/rolls/${roll.id}/set`)).body;
  for (const { tones, grade } of others) {
    expect(Math.abs(tones.middle - model.tones.middle)).toBeLessThan(0.15);
    expect(Math.abs(tones.span - model.tones.span)).toBeLessThan(0.2);
    expect(Math.abs(grade - model.grade)).toBeLessThan(0.2);
  }
  for (const { id, before: target, after: base } of changed) await ask("POST", `/prints/${id}/head`, { base, target });
  expect((await ask<SetEntry[]>("GET", `/rolls/${roll.id}/set`)).body).toEqual(before);
  expect((await ask("POST", "/prints/match", { ...wish, parts: [] })).status).toBe(400);
});

test("a look is laid on many prints, each fitted to its own light, or on none", async () => {
  const to = prints.map(({ id }) => id);
  const events = (await fetch(`${service.url}/api/events`)).body!.getReader();
  const { changed } = (await ask<PasteAnswer>("POST", "/looks/high-key/lay", { to, amountPercent: 100 })).body;
  expect(changed).toHaveLength(3);
  // Whoever listens is told how far it is.
  let told = "";
  while (!told.includes('"done":3')) told += Buffer.from((await events.read()).value!).toString();
  await events.cancel();
  const progress = [...told.matchAll(/"kind":"look","id":"high-key","done":(\d),"of":3/g)].map(([, done]) =>
    Number(done),
  );
  expect(progress).toEqual([1, 2, 3]);
  const recipes = (await ask<Print[]>("GET", `/prints?roll=${roll.id}`)).body.map(({ recipe }) => recipe.shape);
  // The darker picture needs another white point than the lighter one.
  expect(new Set(recipes.map(({ whitePoint }) => whitePoint)).size).toBeGreaterThan(1);
  for (const { id, before, after } of changed) await ask("POST", `/prints/${id}/head`, { base: after, target: before });
  const heads = async () => (await ask<Print[]>("GET", `/prints?roll=${roll.id}`)).body.map(({ head }) => head);
  const untouched = await heads();
  expect((await ask("POST", "/looks/high-key/lay", { to: [...to, "none"], amountPercent: 100 })).status).toBe(404);
  expect(await heads()).toEqual(untouched);
});

test("the log tells sessions, decisions and what was taken back, in three formats; habits count them", async () => {
  const [, print] = prints;
  const hour = (n: number) => new Date(Date.UTC(2026, 9, 24, n));
  await revise(print, "=1+1|x", [{ op: "set", path: "shape/grade", value: 3 }], "Shape", hour(8));
  const kept = await revise(print, "Softer", [{ op: "set", path: "shape/grade", value: 1.5 }], "Shape", hour(9));
  await revise(print, "Taken back", [{ op: "set", path: "ground/exposureEv", value: 1 }], "Ground", hour(9));
  const { head } = (await ask<Print>("GET", `/prints/${print.id}`)).body;
  await ask("POST", `/prints/${print.id}/head`, { base: head, target: kept.body.head });
  const log = (await ask<WorkLog>("GET", `/prints/${print.id}/log`)).body;
  expect(log.prints[0].decisions.slice(-3)).toMatchObject([
    { label: "=1+1|x", station: "Shape", kept: true },
    { label: "Softer", kept: true },
    { label: "Taken back", station: "Ground", kept: false },
  ]);
  expect(log.sessions.filter(({ from }) => from.startsWith("2026-10-24")).map(({ decisions }) => decisions)).toEqual([
    1, 2,
  ]);
  const csv = await ask("GET", `/prints/${print.id}/log?format=csv`);
  expect(csv.headers.get("content-disposition")).toContain(".csv");
  expect(csv.text).toContain(`"'=1+1|x","kept"`);
  const markdown = await ask("GET", `/rolls/${roll.id}/log?format=md`);
  expect(markdown.text).toContain("# Three | of a kind");
  expect(markdown.text).toContain("| Shape | =1+1\\|x |  |");
  expect(markdown.text).toContain("> A copy says it too.");
  expect((await ask("GET", `/rolls/${roll.id}/log?format=pdf`)).status).toBe(400);
  const { stations } = (await ask<Habits>("GET", "/habits")).body;
  expect(stations.find(({ station }) => station === "Ground")).toEqual({ station: "Ground", made: 1, takenBack: 1 });
});
