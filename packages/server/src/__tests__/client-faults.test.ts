import { once } from "node:events";
import { mkdtemp, rm } from "node:fs/promises";
import { request } from "node:http";
import { connect } from "node:net";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { gzipSync } from "node:zlib";
import { afterAll, beforeAll, expect, test } from "@jest/globals";
import { drawChart, shoot } from "@yelm/camera";
import { defaultRecipe, PYRAMID_VERSION, type Negative, type Roll } from "@yelm/core";
import { serve, type Service } from "../serve.ts";

let service: Service;
let data: string;
let roll: Roll;
beforeAll(async () => {
  data = await mkdtemp(join(tmpdir(), "yelm-client-"));
  service = await serve({ data, port: 0 });
  const made = await send("POST", "/api/rolls", { "content-type": "application/json" }, JSON.stringify({ title: "x" }));
  roll = JSON.parse(made.text) as Roll;
});
afterAll(async () => {
  await service.close();
  await rm(data, { recursive: true });
});

/** Sends what no well-behaved client would: the path goes out as it is. */
function send(method: string, path: string, headers: Record<string, string> = {}, body?: string | Uint8Array) {
  return new Promise<{ status: number; text: string; headers: NodeJS.Dict<string | string[]> }>((resolve, reject) => {
    const { hostname, port } = new URL(service.url);
    const sent = request({ hostname, port, method, path, headers, agent: false }, (response) => {
      const parts: Buffer[] = [];
      response.on("data", (part: Buffer) => parts.push(part));
      response.on("end", () =>
        resolve({ status: response.statusCode ?? 0, text: Buffer.concat(parts).toString(), headers: response.headers }),
      );
    });
    sent.on("error", reject);
    sent.end(body);
  });
}

const json = { "content-type": "application/json" };
const form = { "content-type": "multipart/form-data; boundary=x" };
const deep = "[".repeat(200_000) + "]".repeat(200_000);

test.each<[string, number, () => ReturnType<typeof send>]>([
  ["a % that begins no code", 400, () => send("GET", "/api/rolls/%zz")],
  ["a % in a page's address", 400, () => send("GET", "/%E0%A4%A")],
  ["an asset that is not there", 404, () => send("GET", "/assets/none-1234.js")],
  ["a charset that is none", 415, () => send("POST", "/api/rolls", { "content-type": "application/json; charset=klingon" }, "{}")],
  ["a packing that is none", 415, () => send("POST", "/api/rolls", { ...json, "content-encoding": "zip" }, "{}")],
  ["packed bytes that are not", 400, () => send("POST", "/api/rolls", { ...json, "content-encoding": "gzip" }, "{}")],
  ["JSON cut short", 400, () => send("POST", "/api/rolls", json, '{"title":')],
  ["a form without an end", 400, () => send("POST", `/api/rolls/${roll.id}/captures`, form, '--x\r\nContent-Disposition: form-data; name="file"; filename="a.dng"\r\n\r\nabc')],
  ["a form without a boundary", 400, () => send("POST", `/api/rolls/${roll.id}/captures`, { "content-type": "multipart/form-data" }, "abc")],
  ["a form with a broken part", 400, () => send("POST", `/api/rolls/${roll.id}/captures`, form, "--x\r\nbroken\r\n\r\nabc\r\n--x--")],
  ["a body nested without end", 400, () => send("POST", "/api/rolls", json, `{"title":${deep}}`)],
  ["a setting nested without end", 400, () => send("PUT", "/api/settings/keys", json, `{"a":${deep}}`)],
  ["a body beyond the limit", 413, () => send("POST", "/api/rolls", { ...json, "content-encoding": "gzip" }, gzipSync(Buffer.alloc(30e6, 32)))],
  ["an export that is none", 404, () => send("GET", "/api/exports/none/file")],
  ["a tile that is none", 404, () => send("GET", "/api/negatives/none/tiles/1/0/0/0")],
])("%s is the client's fault, and told so", async (_, status, ask) => {
  const answer = await ask();
  expect(answer.status).toBe(status);
  const { error } = JSON.parse(answer.text) as { error: { message: string } };
  expect(error.message).toMatch(/^Expected/);
  // No path of this machine in any answer.
  expect(answer.text).not.toContain(data);
  expect(answer.text).not.toContain(process.cwd());
}); // prettier-ignore

test("a recipe too large for the engine is refused before it is checked, and without being read through", async () => {
  const { film } = defaultRecipe().weigh;
  const points = Array.from({ length: 2000 }, (_, i) => [i / 2000, 0.5, 1]);
  let read = 0;
  const strokes = Array.from({ length: 200 }, (_, i) => ({
    // What no schema would let pass: its fault would be told if the schema came first.
    id: i,
    radius: 0.01,
    softness: 1,
    flow: 1,
    erase: false,
    get points() {
      read++;
      return points;
    },
  }));
  const area = { id: "a", name: "a", on: true, invert: false, by: "film", red: 1, green: 0, blue: 0, film, shape: { kind: "brush", strokes } }; // prettier-ignore
  const recipe = { ...defaultRecipe(), weigh: { ...defaultRecipe().weigh, areas: [area] } };
  const { checkRecipe } = await import("../validate.ts");
  expect(() => checkRecipe(recipe)).toThrow("at most 200,000 values");
  // Each stroke has 8,000 values and a few: the bound is reached in the twenty-fifth of the two hundred.
  expect(read).toBeGreaterThan(0);
  expect(read).toBeLessThanOrEqual(26);
});

test("pages may load nothing from elsewhere", async () => {
  const { headers } = await send("GET", "/");
  const policy = String(headers["content-security-policy"]);
  expect(policy).toContain("font-src 'self'");
  expect(policy).not.toMatch(/https?:/);
});

test("a print's page says beforehand what it will ask for; nothing but an id gets into that", async () => {
  const { headers } = await send("GET", "/prints/a-1");
  expect(headers.link).toContain("</api/prints/a-1/kept-thumbnail>; rel=preload");
  for (const path of ["/prints/a%0d%0aX-Y:1", "/prints/a%3E", `/prints/${"a".repeat(100)}`, "/rolls/a-1"]) {
    const answer = await send("GET", path);
    expect(answer.headers.link).toBeUndefined();
    expect(answer.headers["x-y"]).toBeUndefined();
  }
});

test("tiles come whole to one who is slow to take them, while others are served", async () => {
  const sent = new FormData();
  sent.append("file", new Blob([await shoot(drawChart("patches", 1024, 768))]), "patches.dng");
  const brought = await fetch(`${service.url}/api/rolls/${roll.id}/captures`, { method: "POST", body: sent });
  const { negative } = (await brought.json()) as { negative: Negative };
  const path = (column: number) => `/api/negatives/${negative.id}/tiles/${PYRAMID_VERSION}/0/${column}/0`;
  const read = async (column: number) =>
    Buffer.from(await (await fetch(`${service.url}${path(column)}`)).arrayBuffer());
  const alone = [await read(0), await read(1)];
  expect(alone[0].equals(alone[1])).toBe(false);
  const { hostname, port } = new URL(service.url);
  const socket = connect(Number(port), hostname);
  const taken: Buffer[] = [];
  socket.on("data", (part) => taken.push(part)).pause();
  const asked = [0, 1, 0, 1, 0, 1, 0];
  for (const [i, column] of asked.entries())
    socket.write(
      `GET ${path(column)} HTTP/1.1\r\nHost: ${hostname}:${port}\r\nConnection: ${i < 6 ? "keep-alive" : "close"}\r\n\r\n`,
    );
  for (let k = 0; k < 4; k++) await Promise.all([read(1), read(0)]);
  socket.resume();
  await once(socket, "close");
  let rest = Buffer.concat(taken);
  for (const column of asked) {
    const body = rest.indexOf("\r\n\r\n") + 4;
    const tile = rest.subarray(body, body + alone[column].length);
    expect(tile.equals(alone[column])).toBe(true);
    rest = rest.subarray(body + tile.length);
  }
  expect(rest.length).toBe(0);
});
