import { createHash } from "node:crypto";
import { chmod, mkdtemp, readdir, readFile, rm, stat, utimes, writeFile } from "node:fs/promises";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { afterAll, beforeAll, describe, expect, test } from "@jest/globals";
import { drawChart, shoot } from "@yelm/camera";
import {
  defaultRecipe,
  PYRAMID_VERSION,
  type ExportJob,
  type ImportResult,
  type Negative,
  type Print,
  type Revision,
  type Roll,
} from "@yelm/core";
import exifr from "exifr";
import { lightnessToLuminance, SRGB_TRANSFER } from "@yelm/core";
import sharp from "sharp";
import { capturePath } from "../files/data-folder.ts";
import { serve, type Service } from "../serve.ts";
import { TileShelf } from "../services/tile-shelf.ts";

let service: Service;
let data: string;
beforeAll(async () => {
  // A hidden folder, as the demo's own is.
  data = await mkdtemp(join(tmpdir(), ".yelm-api-"));
  service = await serve({ data, port: 0 });
});
afterAll(async () => {
  await service.close();
  await rm(data, { recursive: true });
});

async function ask<T>(method: string, path: string, body?: unknown, headers: Record<string, string> = {}) {
  const response = await fetch(`${service.url}/api${path}`, {
    method,
    headers: { ...(body === undefined ? {} : { "content-type": "application/json" }), ...headers },
    body: body === undefined ? undefined : JSON.stringify(body),
  });
  const text = await response.text();
  return { status: response.status, headers: response.headers, body: (text ? JSON.parse(text) : undefined) as T };
}

async function send(rollId: string, bytes: Uint8Array, name: string) {
  const form = new FormData();
  form.append("file", new Blob([Buffer.from(bytes)]), name);
  const response = await fetch(`${service.url}/api/rolls/${rollId}/captures`, { method: "POST", body: form });
  return {
    status: response.status,
    body: (await response.json()) as ImportResult & { error?: { code: string; message: string } },
  };
}

async function newRoll(title: string): Promise<Roll> {
  return (await ask<Roll>("POST", "/rolls", { title })).body;
}

/** A roll with one small negative of its own and its first print. */
async function prepared(seed: number): Promise<{ roll: Roll; negative: Negative; print: Print }> {
  const roll = await newRoll(`Roll ${seed}`);
  const { body } = await send(roll.id, await shoot(drawChart("patches", 160, 120), { seed }), `orrow-${seed}.dng`);
  const prints = await ask<Print[]>("GET", `/prints?negative=${body.negative.id}`);
  return { roll, negative: body.negative, print: prints.body[0] };
}

/** Every file below a folder. */
async function filesIn(folder: string): Promise<string[]> {
  const entries = await readdir(folder, { recursive: true, withFileTypes: true });
  return entries.filter((e) => e.isFile()).map((e) => join(e.parentPath, e.name));
}

describe("rolls", () => {
  test("are made, listed, changed; a wrong body is told what was expected", async () => {
    const made = await ask<Roll>("POST", "/rolls", { title: "  Pond ", place: "Orrow", note: "mist" });
    expect(made).toMatchObject({
      status: 201,
      body: { title: "Pond", place: "Orrow", note: "mist", negativeCount: 0, coverPrintIds: [] },
    });
    const changed = await ask<Roll>("PATCH", `/rolls/${made.body.id}`, { title: "The pond" });
    expect(changed.body).toEqual({ ...made.body, title: "The pond" });
    const list = await ask<Roll[]>("GET", "/rolls");
    expect(list.body).toContainEqual(changed.body);
    const wrong = await ask("PATCH", `/rolls/${made.body.id}`, { title: 7 });
    expect(wrong).toMatchObject({
      status: 400,
      body: { error: { code: "bad_request", message: "Expected string for title but received 7.", field: "title" } },
    });
    const unknown = await ask("POST", "/rolls", { colour: "red" });
    expect(unknown.body).toEqual({
      error: { code: "bad_request", message: 'Expected nothing called "colour" for the roll.' },
    });
    expect((await ask("GET", "/rolls/none")).status).toBe(404);
  });
});

describe("import", () => {
  test("keeps the original bit by bit, read-only, under its hash; a second time it is a duplicate", async () => {
    const roll = await newRoll("Import");
    const dng = await shoot(drawChart("patches", 160, 120), { seed: 501, iso: 400 });
    const first = await send(roll.id, dng, "../../etc/orrow 501.dng");
    expect(first.status).toBe(201);
    expect(first.body.negative).toMatchObject({
      fileName: "orrow 501.dng",
      title: "orrow 501",
      width: 160,
      height: 120,
      capture: { iso: 400, kind: "raw" },
    });
    const { hash, id } = first.body.negative;
    const kept = join(data, "captures", hash.slice(0, 2), hash);
    expect(Buffer.compare(await readFile(kept), dng)).toBe(0);
    expect((await stat(kept)).mode & 0o222).toBe(0);
    expect((await ask("POST", `/negatives/${id}/verify`)).body).toEqual({ intact: true, hash, expected: hash });
    const again = await send(roll.id, dng, "copy.dng");
    expect([again.status, again.body.status, again.body.negative.id]).toEqual([200, "duplicate", id]);
    expect((await ask<Negative[]>("GET", `/negatives?roll=${roll.id}`)).body).toHaveLength(1);
  });

  test("16-bit TIFF and PNG and JPEG come in through their profile", async () => {
    const roll = await newRoll("Rasters");
    const codes = Uint16Array.from({ length: 3 * 64 * 48 }, (_, i) => [52000, 21000, 9000][i % 3]);
    const image = () => sharp(codes, { raw: { width: 64, height: 48, channels: 3 } }).toColourspace("rgb16");
    for (const [name, bytes] of [
      ["a.tif", await image().tiff().toBuffer()],
      ["b.png", await image().png().toBuffer()],
      ["c.jpg", await image().toColourspace("srgb").jpeg().toBuffer()],
    ] as const) {
      const { status, body } = await send(roll.id, bytes, name);
      expect([name, status, body.negative.width, body.negative.capture.cfa]).toEqual([name, 201, 64, null]);
    }
  });

  test.each([
    ["empty.dng", () => Promise.resolve(new Uint8Array(0)), 422],
    ["noise.nef", () => Promise.resolve(Uint8Array.from({ length: 4000 }, (_, i) => (i * 31) & 255)), 422],
    [
      "cut.png",
      async () =>
        (
          await sharp({ create: { width: 90, height: 90, channels: 3, background: "#345" } })
            .png()
            .toBuffer()
        ).subarray(0, 120),
      422,
    ],
    ["web.jpg", () => Promise.resolve(new TextEncoder().encode("<html></html>")), 422],
  ])("%s is refused with its reason and leaves nothing behind", async (name, make, status) => {
    const roll = await newRoll("Broken");
    const before = await filesIn(data);
    const { status: found, body } = await send(roll.id, await make(), name);
    expect([found, body.error!.code]).toEqual([status, "unreadable_file"]);
    expect(body.error!.message).toMatch(/^Expected .+ but /);
    expect((await filesIn(data)).filter((path) => !path.includes("yelm.sqlite"))).toEqual(
      before.filter((path) => !path.includes("yelm.sqlite")),
    );
    expect((await ask<Negative[]>("GET", `/negatives?roll=${roll.id}`)).body).toEqual([]);
  });

  test("a form without a file, or with two, is refused", async () => {
    const roll = await newRoll("Forms");
    const form = new FormData();
    expect((await fetch(`${service.url}/api/rolls/${roll.id}/captures`, { method: "POST", body: form })).status).toBe(
      400,
    );
    form.append("file", new Blob(["a"]), "a");
    form.append("file", new Blob(["b"]), "b");
    expect((await fetch(`${service.url}/api/rolls/${roll.id}/captures`, { method: "POST", body: form })).status).toBe(
      400,
    );
    expect(await readdir(join(data, "incoming"))).toEqual([]);
  });
});

describe("prints", () => {
  const at = new Date(0).toISOString();
  const revise = (print: Print, id: string, base: string, value: number) =>
    ask<Print>("POST", `/prints/${print.id}/revisions`, {
      id,
      base,
      changes: [{ op: "set", path: "ground/exposureEv", value }],
      label: `Exposure ${value}`,
      station: "Ground",
      at,
    });

  test("are saved by patch against a revision; a stale one gets 409 with the current state", async () => {
    const { print } = await prepared(11);
    expect(print).toMatchObject({ name: "First print", recipe: defaultRecipe() });
    const one = await revise(print, "rev-11-1", print.head, 1);
    expect(one).toMatchObject({ status: 201, body: { head: "rev-11-1", recipe: { ground: { exposureEv: 1 } } } });
    const repeated = await revise(print, "rev-11-1", print.head, 1);
    expect([repeated.status, repeated.body.head]).toEqual([201, "rev-11-1"]);
    const stale = await revise(print, "rev-11-x", print.head, 2);
    expect(stale).toMatchObject({
      status: 409,
      body: { error: { code: "stale_revision", current: { head: "rev-11-1", recipe: { ground: { exposureEv: 1 } } } } },
    });
  });

  test("undo and redo are moves of the head, over branches too, and all revisions stay", async () => {
    const { print } = await prepared(12);
    const move = (base: string, target: string) => ask<Print>("POST", `/prints/${print.id}/head`, { base, target });
    await revise(print, "rev-12-1", print.head, 1);
    await revise(print, "rev-12-2", "rev-12-1", 2);
    expect((await move("rev-12-2", "rev-12-1")).body.recipe.ground.exposureEv).toBe(1);
    await revise(print, "rev-12-3", "rev-12-1", 3);
    expect((await move("rev-12-3", "rev-12-2")).body.recipe.ground.exposureEv).toBe(2);
    expect((await move("rev-12-2", print.head)).body.recipe).toEqual(defaultRecipe());
    expect((await move("rev-12-2", "rev-12-3")).status).toBe(409);
    expect((await move(print.head, "nothing")).status).toBe(400);
    const revisions = await ask<Revision[]>("GET", `/prints/${print.id}/revisions`);
    expect(revisions.body.map(({ id, parent }) => [id, parent])).toEqual([[print.head, null], ["rev-12-1", print.head], ["rev-12-2", "rev-12-1"], ["rev-12-3", "rev-12-1"]]); // prettier-ignore
  });

  test.each([
    ["a value out of range", [{ op: "set", path: "ground/exposureEv", value: 50 }], "bad_recipe"],
    ["a field there is not", [{ op: "set", path: "weigh/violet", value: 1 }], "bad_request"],
    ["a path outside the recipe", [{ op: "set", path: "__proto__/x", value: 1 }], "bad_request"],
    ["what every object inherits", [{ op: "set", path: "weigh/constructor/x", value: 1 }], "bad_request"],
    ["the version", [{ op: "set", path: "version", value: 2 }], "bad_request"],
    ["no change at all", [], "bad_request"],
    ["a JSON patch with places by number", [{ op: "replace", path: "/ground/exposureEv", value: 1 }], "bad_request"],
    [
      "a curve that falls back in x",
      [
        {
          op: "set",
          path: "shape/curve",
          value: [
            [0, 0],
            [0.5, 0.2],
            [0.4, 0.5],
            [1, 1],
          ],
        },
      ],
      "bad_recipe",
    ],
    ["an item that is not there", [{ op: "remove", list: "light/moves", id: "m3" }], "bad_request"],
  ])("%s is refused and nothing changes", async (_name, wrong, code) => {
    const [print] = (await ask<Print[]>("GET", "/prints")).body;
    const answer = await ask<{ error: { code: string } }>("POST", `/prints/${print.id}/revisions`, {
      id: "rev-wrong",
      base: print.head,
      changes: wrong,
      label: "x",
      station: "Ground",
      at,
    });
    expect([answer.status, answer.body.error.code]).toEqual([400, code]);
    expect((await ask<Print>("GET", `/prints/${print.id}`)).body).toEqual(print);
  });

  test("are duplicated, named, put away and brought back", async () => {
    const { negative, print } = await prepared(13);
    await revise(print, "rev-13-1", print.head, -1);
    const copy = await ask<Print>("POST", "/prints", { negativeId: negative.id, name: "Copy", from: print.id });
    expect(copy).toMatchObject({ status: 201, body: { name: "Copy", recipe: { ground: { exposureEv: -1 } } } });
    expect((await ask<Print>("PATCH", `/prints/${copy.body.id}`, { name: "Darker" })).body.name).toBe("Darker");
    expect((await ask("DELETE", `/prints/${copy.body.id}`)).status).toBe(204);
    expect((await ask("GET", `/prints/${copy.body.id}`)).status).toBe(404);
    expect((await ask<Print[]>("GET", `/prints?negative=${negative.id}`)).body).toHaveLength(1);
    expect((await ask<Print>("POST", `/prints/${copy.body.id}/restore`)).body.name).toBe("Darker");
  });

  test("have thumbnails that follow the recipe", async () => {
    const { print } = await prepared(14);
    const fetchThumb = async () =>
      Buffer.from(await (await fetch(`${service.url}/api/prints/${print.id}/thumbnail?edge=160`)).arrayBuffer());
    const before = await fetchThumb();
    expect(await sharp(before).metadata()).toMatchObject({ format: "jpeg", width: 160, height: 120 });
    await revise(print, "rev-14-1", print.head, -2);
    const [a, b] = await Promise.all([sharp(before).stats(), sharp(await fetchThumb()).stats()]);
    expect(b.channels[0].mean).toBeLessThan(a.channels[0].mean * 0.75);
    expect((await fetch(`${service.url}/api/prints/${print.id}/thumbnail?edge=99999`)).status).toBe(400);
  });
});

describe("tiles", () => {
  test("are served for good under their version; a damaged pyramid is made again", async () => {
    const { negative } = await prepared(15);
    const get = (path: string) => fetch(`${service.url}/api/negatives/${negative.id}/tiles/${path}`);
    const tile = await get(`${PYRAMID_VERSION}/0/0/0`);
    expect([tile.status, tile.headers.get("cache-control")]).toEqual([200, "public, max-age=31536000, immutable"]);
    const bytes = await tile.arrayBuffer();
    // The chart has white paper a little beyond sensor white, so a fourth plane follows.
    expect([160 * 120 * 6, 160 * 120 * 8]).toContain(bytes.byteLength);
    for (const wrong of [
      "1/0/0/0",
      ...["9/0/0", "0/1/0", "0/0/x", "0/0/-1"].map((place) => `${PYRAMID_VERSION}/${place}`),
    ])
      expect([wrong, (await get(wrong)).status]).toEqual([wrong, 404]);
    await service.close();
    await rm(join(data, "tiles", negative.hash, "level-0.f16"));
    service = await serve({ data, port: 0 });
    const again = await get(`${PYRAMID_VERSION}/0/0/0`);
    expect(Buffer.compare(Buffer.from(await again.arrayBuffer()), Buffer.from(bytes))).toBe(0);
  });
});

describe("the tile shelf", () => {
  test("throws out what was used longest ago, never what is open, and makes it again when asked", async () => {
    const [a, b, c] = [await prepared(31), await prepared(32), await prepared(33)].map(({ negative }) => negative);
    const { folder, pool, log } = service.context;
    const folderOf = (negative: Negative) => join(data, "tiles", negative.hash);
    const there = async () => {
      const names = await readdir(join(data, "tiles"));
      return [a, b, c].map(({ hash }) => names.includes(hash));
    };
    for (const name of await readdir(join(data, "tiles")))
      if (![a, b, c].some(({ hash }) => hash === name)) await rm(join(data, "tiles", name), { recursive: true });
    const age = async (negative: Negative, minutes: number) => {
      const at = new Date(Date.now() - minutes * 60_000);
      await utimes(join(folderOf(negative), "pyramid.json"), at, at);
    };
    await age(a, 30);
    await age(b, 20);
    await age(c, 10);
    const one = (await stat(join(folderOf(a), "level-0.f16"))).size;
    const shelf = new TileShelf({ folder, pool, log, limitBytes: 1.5 * one });
    const place = { level: 0, column: 0, row: 0 };
    const read = (negative: Negative) => shelf.use(negative, (reader) => reader.tile(place));
    const tile = await read(a);
    await age(a, 40);
    await shelf.trim();
    expect(await there()).toEqual([true, false, false]);
    // Everything is missing and everything is wanted, many times at once, while the shelf lets go of what it has open.
    await rm(folderOf(a), { recursive: true });
    const wanted = Array.from({ length: 60 }, (_, i) => [a, b, c][i % 3]);
    const found = await Promise.all(
      wanted.map(async (negative, i) => {
        if (i % 7 === 0) shelf.close();
        return read(negative);
      }),
    );
    const hashOf = (one: typeof tile) => createHash("sha256").update(one).digest("hex");
    const hashes = found.map(hashOf);
    wanted.forEach((negative, i) => expect(hashes[i]).toBe(hashes[wanted.indexOf(negative)]));
    expect(hashes[0]).toBe(hashOf(tile));
    expect(hashes[1]).not.toBe(hashOf(tile));
    shelf.close();
  });

  test("tiles are not made again from a capture that is no longer what came in", async () => {
    const { negative } = await prepared(34);
    const { folder, pool, log } = service.context;
    const shelf = new TileShelf({ folder, pool, log, limitBytes: Infinity });
    const path = capturePath(folder, negative.hash);
    const whole = await readFile(path);
    const cut = Buffer.from(whole);
    cut.fill(0, cut.length >> 1, (cut.length >> 1) + 64);
    await rm(join(data, "tiles", negative.hash), { recursive: true });
    await chmod(path, 0o644);
    await writeFile(path, cut);
    const read = () => shelf.use(negative, (reader) => reader.tile({ level: 0, column: 0, row: 0 }));
    await expect(read()).rejects.toThrow("no longer what it was");
    await writeFile(path, whole);
    await expect(read()).resolves.toBeDefined();
    shelf.close();
  });
});

test("the same file sent many times at once is one negative with one print", async () => {
  const roll = await newRoll("Twice");
  const dng = await shoot(drawChart("patches", 160, 120), { seed: 77 });
  const begun = Array.from({ length: 6 }, (_, i) => send(roll.id, dng, `same-${i}.dng`));
  const answers = await Promise.all(begun);
  expect(answers.map(({ body }) => body.status).sort()).toEqual([...Array<string>(5).fill("duplicate"), "imported"]);
  const ids = new Set(answers.map(({ body }) => body.negative.id));
  expect(ids.size).toBe(1);
  expect((await ask<Print[]>("GET", `/prints?negative=${[...ids][0]}`)).body).toHaveLength(1);
  expect((await ask<Roll>("GET", `/rolls/${roll.id}`)).body.negativeCount).toBe(1);
});

describe("exports", () => {
  const done = async (id: string): Promise<ExportJob> => {
    for (let i = 0; i < 200; i++) {
      const { body } = await ask<ExportJob>("GET", `/exports/${id}`);
      if (!["waiting", "running"].includes(body.state)) return body;
      await new Promise((resolve) => setTimeout(resolve, 50));
    }
    throw new Error("The export did not end.");
  };
  const start = async (print: Print, options: object) =>
    (await ask<ExportJob[]>("POST", "/exports", { printIds: [print.id], options })).body[0];

  test.each([
    ["tiff", { depth: "ushort", channels: 1, format: "tiff" }],
    ["png", { depth: "ushort", channels: 1, format: "png" }],
    ["jpeg", { depth: "uchar", channels: 1, format: "jpeg" }],
  ])("%s: grey, with profile and metadata; a second gets a name of its own", async (format, expected) => {
    const { print } = await prepared({ tiff: 21, png: 22, jpeg: 23 }[format]!);
    const first = await done((await start(print, { format, namePattern: "{negative} ../{print}" })).id);
    const second = await done(
      (await start(print, { format, namePattern: "{negative} ../{print}", metadata: false })).id,
    );
    expect([first.state, first.error, second.state]).toEqual(["done", null, "done"]);
    expect([first.fileName, second.fileName].map((name) => name!.replace(/\.\w+$/, ""))).toEqual([
      expect.stringMatching(/^orrow-2\d-[^/]*First-print$/),
      expect.stringMatching(/First-print-2$/),
    ]);
    const response = await fetch(`${service.url}/api/exports/${first.id}/file`);
    expect(response.headers.get("content-disposition")).toContain(first.fileName!);
    const file = Buffer.from(await response.arrayBuffer());
    const metadata = await sharp(file).metadata();
    expect(metadata).toMatchObject({ ...expected, width: 160, height: 120 });
    expect(metadata.icc!.length).toBeGreaterThan(300);
    expect(await exifr.parse(file)).toMatchObject({ Make: "Halden Optical", Software: "Yelm", ISO: 100, FNumber: 8 });
    const bare = await readFile(join(data, "exports", second.fileName!));
    expect((await sharp(bare).metadata()).icc).toBeDefined();
    const left = ((await exifr.parse(bare).catch(() => undefined)) ?? {}) as Record<string, unknown>;
    expect([left.Make, left.Software]).toEqual([undefined, undefined]);
  });

  test("a toned print is RGB, its long edge is the one asked for", async () => {
    const { print } = await prepared(24);
    await ask("POST", `/prints/${print.id}/revisions`, {
      id: "rev-24",
      base: print.head,
      changes: [{ op: "set", path: "finish/toning/toner", value: "blue" }],
      at: new Date(0).toISOString(),
      label: "Toner",
      station: "Finish",
    });
    const job = await done((await start(print, { longEdge: 80 })).id);
    expect(await sharp(join(data, "exports", job.fileName!)).metadata()).toMatchObject({
      channels: 3,
      width: 80,
      height: 60,
      depth: "ushort",
    });
  });

  test("border, mat, line and caption lie around the picture when asked; the picture inside is the same, worn or not", async () => {
    const { print } = await prepared(26);
    const set = (path: string, value: unknown) => ({ op: "set", path: `finish/${path}`, value });
    await ask("POST", `/prints/${print.id}/revisions`, {
      id: "rev-26",
      base: print.head,
      changes: [
        set("mount/border", 0.05), set("mount/borderLightness", 100), set("mount/line", 0.02), set("mount/lineLightness", 0),
        set("mount/mat", 0.1), set("mount/matLightness", 50), set("mount/room", 0.2), set("mount/roomAt", "right"),
        set("mount/caption", "Proof Ő 3"), set("mount/captionSize", 0.05), set("wear/edges", 1), set("wear/yellow", 0),
      ],
      at: new Date(0).toISOString(),
      label: "Mat",
      station: "Finish",
    }); // prettier-ignore
    const read = async (options: object) => {
      const job = await done((await start(print, options)).id);
      expect(job.error).toBeNull();
      const file = sharp(join(data, "exports", job.fileName!));
      const { width, height } = await file.metadata();
      const codes = new Uint8Array(await file.toColourspace("b-w").raw({ depth: "uchar" }).toBuffer());
      return { width, height, at: (x: number, y: number) => codes[y * width + x], codes };
    };
    const bare = await read({ format: "png", mount: false });
    const whole = await read({ format: "png" });
    expect([bare.width, bare.height, whole.width, whole.height]).toEqual([160, 120, 160 + 2 * 27 + 32, 120 + 2 * 27]);
    const grey = Math.round(255 * SRGB_TRANSFER.encode(lightnessToLuminance(50)));
    expect([whole.at(2, 2), whole.at(120, 8), whole.at(17, 60), whole.at(22, 60)]).toEqual([grey, grey, 0, 255]);
    // The letters lie in the room on the right, and nowhere else.
    const column = (x: number) => Array.from({ length: whole.height }, (_, y) => whole.at(x, y));
    const lettered = Array.from({ length: whole.width }, (_, x) => x).filter((x) => column(x).some((v) => v > grey + 40 || v < grey - 40)); // prettier-ignore
    const right = lettered.filter((x) => x >= 160 + 2 * 27);
    expect(right.length).toBeGreaterThan(10);
    expect(Math.min(...right)).toBeGreaterThanOrEqual(160 + 2 * 27);
    for (const [x, y] of [
      [0, 0],
      [80, 60],
      [159, 119],
    ])
      expect(whole.at(27 + x, 27 + y)).toBe(bare.at(x, y));
    const jpeg = await read({ format: "jpeg", mount: false, jpegQuality: 100 });
    let worst = 0;
    bare.codes.forEach((code, i) => (worst = Math.max(worst, Math.abs(code - jpeg.codes[i]))));
    expect(worst).toBeLessThanOrEqual(4);
    expect((await read({ format: "png", longEdge: 123 })).width).toBe(123);
  });

  test("a wrong option and an unknown print are refused; cancelling one that ended changes nothing", async () => {
    const { print } = await prepared(25);
    expect((await ask("POST", "/exports", { printIds: [print.id], options: { format: "gif" } })).body).toMatchObject({
      error: { field: "options.format" },
    });
    expect((await ask("POST", "/exports", { printIds: ["none"], options: {} })).status).toBe(404);
    const job = await done((await start(print, {})).id);
    expect((await ask<ExportJob>("POST", `/exports/${job.id}/cancel`)).body.state).toBe("done");
    expect((await ask("GET", "/exports/none/file")).status).toBe(404);
  });

  test("one cancelled while it is written leaves nothing behind, and the next is written", async () => {
    const { roll } = await prepared(27);
    const pixels = sharp({ create: { width: 3000, height: 2000, channels: 3, background: "#678" } });
    const big = await send(roll.id, await pixels.png().toBuffer(), "big.png");
    const print = (await ask<Print[]>("GET", `/prints?negative=${big.body.negative.id}`)).body[0];
    const job = await start(print, { format: "png", namePattern: "cut" });
    const partial = async () => (await readdir(join(data, "exports"))).filter((name) => name.includes("cut"));
    while ((await partial()).length === 0) await new Promise((resolve) => setTimeout(resolve, 5));
    await ask("POST", `/exports/${job.id}/cancel`);
    expect((await done(job.id)).state).toBe("cancelled");
    const next = await done((await start(print, { format: "jpeg", longEdge: 100, namePattern: "next" })).id);
    expect([next.state, await partial()]).toEqual(["done", []]);
  });

  test("what waited when the server stopped is written after the next start", async () => {
    const { print } = await prepared(26);
    const job = await start(print, { namePattern: "resumed" });
    await service.context.db("exports").where({ id: job.id }).update({ state: "running" });
    await service.close();
    service = await serve({ data, port: 0 });
    expect(await done(job.id)).toMatchObject({ state: "done" });
  });
});

describe("who may ask", () => {
  test("another host or origin is refused, and the answers carry the guards", async () => {
    const { port } = new URL(service.url);
    const foreign = await ask("GET", "/rolls", undefined, { origin: "http://example.test" });
    expect(foreign).toMatchObject({ status: 403, body: { error: { code: "forbidden" } } });
    const own = await ask("GET", "/rolls", undefined, { origin: `http://127.0.0.1:${port}` });
    expect(own.status).toBe(200);
    expect(own.headers.get("content-security-policy")).toContain("default-src 'self'");
    expect(own.headers.get("cross-origin-opener-policy")).toBe("same-origin");
    expect(own.headers.get("cross-origin-embedder-policy")).toBe("require-corp");
    expect(own.headers.get("x-powered-by")).toBeNull();
  });
  test("a host that is not this machine is refused", async () => {
    const { request } = await import("node:http");
    const status = await new Promise((resolve, reject) => {
      const { port } = new URL(service.url);
      request({ host: "127.0.0.1", port, path: "/api/rolls", headers: { host: "rebound.test" } }, (r) => resolve(r.statusCode)).on("error", reject).end(); // prettier-ignore
    });
    expect(status).toBe(403);
  });
  test("broken JSON and unknown addresses are told so", async () => {
    const broken = await fetch(`${service.url}/api/rolls`, {
      method: "POST",
      headers: { "content-type": "application/json" },
      body: "{",
    });
    expect([broken.status, await broken.json()]).toEqual([
      400,
      { error: { code: "bad_request", message: "Expected JSON in the body but it could not be read." } },
    ]);
    expect((await ask("GET", "/nothing")).status).toBe(404);
  });
});
