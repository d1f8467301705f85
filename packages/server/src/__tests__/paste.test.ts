import { mkdtemp, rm } from "node:fs/promises";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { afterAll, beforeAll, expect, test } from "@jest/globals";
import { drawChart, shoot } from "@yelm/camera";
import { defaultRecipe, type PasteAnswer, type Print, type Recipe, type Roll } from "@yelm/core";
import { serve, type Service } from "../serve.ts";
import { asking } from "./asking.ts";

let service: Service;
let data: string;
let prints: Print[];
const ask = asking(() => service.url);
beforeAll(async () => {
  data = await mkdtemp(join(tmpdir(), "yelm-paste-"));
  service = await serve({ data, port: 0 });
  const { body: roll } = await ask<Roll>("POST", "/rolls", { title: "Roll" });
  const form = new FormData();
  form.append("file", new Blob([Buffer.from(await shoot(drawChart("patches", 160, 120), { seed: 1 }))]), "a.dng");
  await fetch(`${service.url}/api/rolls/${roll.id}/captures`, { method: "POST", body: form });
  const [first] = (await ask<Print[]>("GET", "/prints")).body;
  const more = await Promise.all(
    ["b", "c"].map((name) => ask<Print>("POST", "/prints", { negativeId: first.negativeId, name, from: first.id })),
  );
  prints = [first, ...more.map(({ body }) => body)];
});
afterAll(async () => {
  await service.close();
  await rm(data, { recursive: true });
});

const heads = async () => (await ask<Print[]>("GET", "/prints")).body.map(({ id, head }) => [id, head].join()).sort();
const source = (): Recipe => {
  const recipe = defaultRecipe();
  return { ...recipe, ground: { ...recipe.ground, exposureEv: 1 }, shape: { ...recipe.shape, grade: 3 } };
};

test("parts go to every print in a revision each, told with its head before and after, and go back by them", async () => {
  const ids = prints.map(({ id }) => id);
  const body = { recipe: source(), groups: ["points", "toning"], to: ids, label: "Parts of “x” pasted" };
  const { status, body: answer } = await ask<PasteAnswer>("POST", "/prints/paste", body);
  expect([status, answer.unchanged]).toEqual([200, 0]);
  expect(answer.changed.map(({ id, groups }) => [id, groups])).toEqual(ids.map((id) => [id, ["points"]]));
  const after = (await ask<Print[]>("GET", "/prints")).body;
  for (const { recipe, id, head } of after) {
    expect([recipe.shape.grade, recipe.ground.exposureEv]).toEqual([3, 0]);
    expect(head).toBe(answer.changed.find((one) => one.id === id)!.after);
  }
  expect((await ask<PasteAnswer>("POST", "/prints/paste", body)).body).toEqual({ changed: [], unchanged: 3 });
  for (const { id, before, after: base } of answer.changed)
    expect((await ask("POST", `/prints/${id}/head`, { base, target: before })).status).toBe(200);
  for (const { recipe } of (await ask<Print[]>("GET", "/prints")).body) expect(recipe).toEqual(defaultRecipe());
});

test("when one of the prints is not there, or a part is unknown, none is changed", async () => {
  const before = await heads();
  const to = [prints[0].id, "nobody", prints[1].id];
  const missing = await ask<{ error: { code: string } }>("POST", "/prints/paste", { recipe: source(), groups: ["points"], to, label: "x" }); // prettier-ignore
  expect([missing.status, missing.body.error.code]).toEqual([404, "not_found"]);
  const unknown = await ask<{ error: { code: string; field: string } }>("POST", "/prints/paste", { recipe: source(), groups: ["everything"], to: [prints[0].id], label: "x" }); // prettier-ignore
  expect([unknown.status, unknown.body.error.code]).toEqual([400, "bad_request"]);
  const broken = await ask<{ error: { code: string } }>("POST", "/prints/paste", { recipe: { version: 99 }, groups: ["points"], to: [prints[0].id], label: "x" }); // prettier-ignore
  expect([broken.status, broken.body.error.code]).toEqual([400, "bad_recipe"]);
  expect(await heads()).toEqual(before);
});
