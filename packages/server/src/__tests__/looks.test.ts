import { mkdtemp, rm } from "node:fs/promises";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { afterAll, beforeAll, expect, test } from "@jest/globals";
import { defaultRecipe, USUAL_LOOK_PARTS, type Look } from "@yelm/core";
import { serve, type Service } from "../serve.ts";
import { asking } from "./asking.ts";

let service: Service;
let data: string;
const ask = asking(() => service.url);
beforeAll(async () => {
  data = await mkdtemp(join(tmpdir(), "yelm-looks-"));
  service = await serve({ data, port: 0 });
});
afterAll(async () => {
  await service.close();
  await rm(data, { recursive: true });
});

const look = {
  name: "Evening",
  note: "warm and soft",
  parts: [...USUAL_LOOK_PARTS],
  recipe: { ...defaultRecipe(), shape: { ...defaultRecipe().shape, grade: 3.25 } },
  fit: { beyond: [0.01, 0.002], middle: 4.4 },
};

test("a look is kept, named, put away, brought back, and is the same on the way through its file", async () => {
  const made = await ask<Look>("POST", "/looks", look);
  expect(made.status).toBe(201);
  expect(made.body).toEqual({ ...look, id: expect.any(String) });
  const { id } = made.body;
  await ask("PATCH", `/looks/${id}`, { name: "Evening, soft" });
  const file = await ask<Record<string, unknown>>("GET", `/looks/${id}/file`);
  expect(file.headers.get("content-disposition")).toContain("Evening soft.look.json");
  const again = await ask<Look>("POST", "/looks/file", file.body);
  expect(again.body).toEqual({ ...look, name: "Evening, soft", id: expect.any(String) });
  expect((await ask("DELETE", `/looks/${id}`)).status).toBe(204);
  expect((await ask<Look[]>("GET", "/looks")).body.map((one) => one.id)).toEqual([again.body.id]);
  await ask("POST", `/looks/${id}/restore`);
  expect((await ask<Look[]>("GET", "/looks")).body).toHaveLength(2);
});

test("an old recipe in a look's file is brought to the present one", async () => {
  const { light, ...older } = look.recipe;
  void light;
  const body = { ...look, kind: "yelm look", version: 1, recipe: { ...older, version: 7 } };
  const { status, body: made } = await ask<Look>("POST", "/looks/file", body);
  expect([status, made.recipe.version, made.recipe.light]).toEqual([
    201,
    defaultRecipe().version,
    defaultRecipe().light,
  ]);
});

test("what is no look is told, field by field, and nothing is kept of it", async () => {
  const before = (await ask<Look[]>("GET", "/looks")).body.length;
  const file = { kind: "yelm look", version: 1, ...look };
  const cases: readonly (readonly [unknown, RegExp])[] = [
    [{ ...file, kind: "something" }, /kind/],
    [{ ...file, version: 2 }, /version 1 but received 2/],
    [{ ...file, parts: ["points", "nothing"] }, /parts/],
    [{ ...file, parts: [] }, /parts/],
    [{ ...file, fit: { beyond: [0, 3], middle: null } }, /fit|beyond/],
    [{ ...file, recipe: { ...look.recipe, shape: { ...look.recipe.shape, grade: 9 } } }, /grade/],
    [{ ...file, recipe: "none" }, /recipe/],
    [{ ...file, more: 1 }, /./],
    [[], /./],
  ];
  for (const [body, words] of cases) {
    const { status, body: answer } = await ask<{ error: { message: string } }>("POST", "/looks/file", body);
    expect([status, answer.error.message]).toEqual([400, expect.stringMatching(words)]);
  }
  expect((await ask("GET", "/looks/none/file")).status).toBe(404);
  expect((await ask<Look[]>("GET", "/looks")).body).toHaveLength(before);
});
