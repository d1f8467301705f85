import { execFile, execFileSync } from "node:child_process";
import { createHash } from "node:crypto";
import { chmod, mkdir, mkdtemp, readdir, readFile, rm, symlink, writeFile } from "node:fs/promises";
import { createServer, type AddressInfo } from "node:net";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { fileURLToPath, pathToFileURL } from "node:url";
import { afterAll, beforeAll, beforeEach, describe, expect, test } from "@jest/globals";
import { drawChart, shoot } from "@yelm/camera";
import { DEFAULT_EXPORT, defaultRecipe, type ExportJob, type ImportJob, type Print, type Roll } from "@yelm/core";
import sharp from "sharp";
import { serve, type Service } from "../serve.ts";

const YELM = fileURLToPath(new URL("../../bin/yelm.js", import.meta.url));
const POOL = pathToFileURL(fileURLToPath(new URL("../../dist/jobs/pool.js", import.meta.url))).href;
/** The simulated camera takes seconds for a whole scene. */
const SCENE = fileURLToPath(new URL("../../../../demo/scenes/dyers-table.json", import.meta.url));
let folder: string;
beforeAll(async () => {
  folder = await mkdtemp(join(tmpdir(), "yelm-faults-"));
});
afterAll(() => rm(folder, { recursive: true, force: true }));
let data: string;
let made = 0;
beforeEach(() => {
  data = join(folder, `data-${++made}`);
});

const small = (seed: number) => shoot(drawChart("patches", 120, 90), { seed });
const sha = (bytes: Uint8Array) => createHash("sha256").update(bytes).digest("hex");

async function within<T>(work: (service: Service) => Promise<T>): Promise<T> {
  const service = await serve({ data, port: 0 });
  try {
    return await work(service);
  } finally {
    await service.close();
  }
}

async function ask<T>({ url }: Service, method: string, path: string, body?: unknown) {
  const response = await fetch(`${url}/api${path}`, {
    method,
    headers: body === undefined ? {} : { "content-type": "application/json" },
    body: body === undefined ? undefined : JSON.stringify(body),
  });
  const text = await response.text();
  return { status: response.status, body: (text ? JSON.parse(text) : undefined) as T };
}

function form(bytes: Uint8Array, name: string): FormData {
  const out = new FormData();
  out.append("file", new Blob([Buffer.from(bytes)]), name);
  return out;
}

async function bringIn({ url }: Service, rollId: string, bytes: Uint8Array, name = "a.dng") {
  const response = await fetch(`${url}/api/rolls/${rollId}/captures`, { method: "POST", body: form(bytes, name) });
  return (await response.json()) as { status: string; negative: { id: string; hash: string } };
}

async function newRoll(service: Service): Promise<Roll> {
  return (await ask<Roll>(service, "POST", "/rolls", { title: "Faults" })).body;
}

async function until<T>(what: () => Promise<T>, holds: (value: T) => boolean, ms = 30_000): Promise<T> {
  for (const end = Date.now() + ms; ;) {
    const value = await what();
    if (holds(value)) return value;
    if (Date.now() > end) throw new Error(`Waited too long; the last was ${JSON.stringify(value).slice(0, 400)}`);
    await new Promise((resolve) => setTimeout(resolve, 50));
  }
}

describe("a file is whole or it is not there", () => {
  beforeAll(async () => {
    await writeFile(join(folder, "a.dng"), await shoot(drawChart("patches", 640, 480), { seed: 3 }));
  });

  /** Runs Yelm where no file may grow beyond some kilobytes: writes come back short at the limit, then fail. */
  function limited(kilobytes: number, ...args: string[]): Promise<{ code: number; said: string }> {
    const command = `trap '' XFSZ; ulimit -f ${kilobytes}; exec "$@"`;
    return new Promise((resolve) =>
      execFile("bash", ["-c", command, "-", process.execPath, YELM, ...args], { cwd: folder }, (error, out, err) =>
        resolve({ code: error ? Number(error.code ?? 1) : 0, said: out + err }),
      ),
    );
  }

  test.each(["tif", "png", "jpg"])("a .%s that does not fit leaves nothing, says so and fails", async (extension) => {
    const out = join(folder, extension);
    await mkdir(out, { recursive: true });
    const file = join(out, `print.${extension}`);
    const args = ["render", "a.dng", "--recipe", "-", "--out", file];
    const { code, said } = await limited(8, ...args);
    expect([code === 0, said]).toEqual([false, expect.stringMatching(/disk is full/i)]);
    expect(said).not.toMatch(/^\s+at /m);
    expect(await readdir(out)).toEqual([]);
    // With room it is there, and an independent reader reads every row.
    expect(await limited(1e6, ...args)).toMatchObject({ code: 0 });
    expect((await sharp(file, { failOn: "warning" }).raw().toBuffer({ resolveWithObject: true })).info.height).toBe(
      480,
    );
    expect(await readdir(out)).toEqual([`print.${extension}`]);
  });

  test("a thumbnail that was cut is made again, and what was begun is swept away", async () => {
    const whole = await within(async (service) => {
      const { negative } = await bringIn(service, (await newRoll(service)).id, await small(11));
      const response = await fetch(`${service.url}/api/negatives/${negative.id}/thumbnail?edge=160`);
      return { id: negative.id, bytes: Buffer.from(await response.arrayBuffer()) };
    });
    const thumbnails = join(data, "thumbnails");
    const names = (await readdir(thumbnails, { recursive: true })).filter((name) => name.endsWith(".jpg"));
    for (const name of names) await writeFile(join(thumbnails, name), whole.bytes.subarray(0, 900));
    await writeFile(join(thumbnails, ".x.jpg.1.1.part"), "begun");
    await within(async ({ url }) => {
      const again = await fetch(`${url}/api/negatives/${whole.id}/thumbnail?edge=160`);
      expect(Buffer.compare(Buffer.from(await again.arrayBuffer()), whole.bytes)).toBe(0);
    });
    expect((await readdir(thumbnails, { recursive: true })).filter((name) => name.endsWith(".part"))).toEqual([]);
  });
});

describe("exports", () => {
  test("an unknown print among several: none is queued; a kill after the file was there makes it once", async () => {
    const id = await within(async (service) => {
      const roll = await newRoll(service);
      const { negative } = await bringIn(service, roll.id, await small(21));
      const [print] = (await ask<Print[]>(service, "GET", `/prints?negative=${negative.id}`)).body;
      const order = (ids: string[]) =>
        ask<ExportJob[]>(service, "POST", "/exports", { printIds: ids, options: DEFAULT_EXPORT });
      expect((await order([print.id, "none"])).status).toBe(404);
      expect((await ask<ExportJob[]>(service, "GET", "/exports")).body).toEqual([]);
      const [job] = (await order([print.id])).body;
      const find = async () => (await ask<ExportJob>(service, "GET", `/exports/${job.id}`)).body;
      await until(find, ({ state }) => state === "done");
      // As a kill between the file's last name and the word “done” leaves it.
      await service.context
        .db("exports")
        .where({ id: job.id })
        .update({ state: "running", progress: 0.97, bytes: null });
      return job.id;
    });
    const before = await readdir(join(data, "exports"));
    await within(async (service) => {
      const find = async () => (await ask<ExportJob>(service, "GET", `/exports/${id}`)).body;
      expect(await until(find, ({ state }) => state === "done")).toMatchObject({ fileName: before[0] });
    });
    expect(await readdir(join(data, "exports"))).toEqual(before);
  });

  test("an exports folder that is gone ends the export with a sentence, not the server", async () => {
    await within(async (service) => {
      const { negative } = await bringIn(service, (await newRoll(service)).id, await small(22));
      const [print] = (await ask<Print[]>(service, "GET", `/prints?negative=${negative.id}`)).body;
      await rm(join(data, "exports"), { recursive: true });
      await writeFile(join(data, "exports"), "a file lies there");
      const [job] = (await ask<ExportJob[]>(service, "POST", "/exports", { printIds: [print.id], options: {} })).body;
      const ended = await until(
        async () => (await ask<ExportJob>(service, "GET", `/exports/${job.id}`)).body,
        ({ state }) => state === "failed",
      );
      expect(JSON.stringify(ended)).not.toContain(data);
      expect((await ask(service, "GET", "/health")).status).toBe(200);
    });
  });
});

describe("imports", () => {
  test("a negative whose first print was lost gets one; the same id three times at once is one import", async () => {
    const id = await within(async (service) => {
      const roll = await newRoll(service);
      const { negative } = await bringIn(service, roll.id, await small(31));
      await service.context.db("revisions").delete();
      await service.context.db("prints").delete();
      const bytes = await small(32);
      const put = () =>
        fetch(`${service.url}/api/rolls/${roll.id}/imports/three-times`, { method: "PUT", body: form(bytes, "t.dng") });
      const answers = await Promise.all([put(), put(), put()]);
      expect(answers.map(({ status }) => status)).toEqual([202, 202, 202]);
      await until(
        async () => (await ask<ImportJob[]>(service, "GET", `/imports?roll=${roll.id}`)).body,
        (jobs) => jobs.length > 0 && jobs.every(({ state }) => state !== "waiting" && state !== "running"),
      ).catch(() => undefined);
      return negative.id;
    });
    await within(async (service) => {
      const prints = (await ask<Print[]>(service, "GET", `/prints?negative=${id}`)).body;
      expect(prints).toHaveLength(1);
      expect(prints[0].recipe).toEqual(defaultRecipe());
    });
  });

  test("a refused upload leaves nothing behind", async () => {
    await within(async (service) => {
      const bytes = await small(33);
      for (const path of ["none/imports/long-enough", "none/captures"]) {
        const method = path.endsWith("captures") ? "POST" : "PUT";
        const response = await fetch(`${service.url}/api/rolls/${path}`, { method, body: form(bytes, "a.dng") });
        expect(response.status).toBe(404);
      }
      const roll = await newRoll(service);
      const short = await fetch(`${service.url}/api/rolls/${roll.id}/imports/x`, { method: "PUT", body: form(bytes, "a.dng") }); // prettier-ignore
      expect(short.status).toBe(400);
      expect(await readdir(join(data, "incoming"))).toEqual([]);
    });
  });

  test.each(["changed", "gone"])("a stored capture that is %s is repaired by bringing it in again", async (how) => {
    await within(async (service) => {
      const roll = await newRoll(service);
      const bytes = await small(34);
      const { negative } = await bringIn(service, roll.id, bytes);
      const path = join(data, "captures", negative.hash.slice(0, 2), negative.hash);
      await chmod(path, 0o644);
      if (how === "gone") await rm(path);
      else await writeFile(path, bytes.slice(0, bytes.length - 100));
      const verify = async () =>
        (await ask<{ intact: boolean }>(service, "POST", `/negatives/${negative.id}/verify`)).body.intact;
      expect(await verify()).toBe(false);
      expect(await bringIn(service, roll.id, bytes)).toMatchObject({
        status: "repaired",
        negative: { id: negative.id },
      });
      expect(await verify()).toBe(true);
      expect(sha(await readFile(path))).toBe(negative.hash);
      expect((await bringIn(service, roll.id, bytes)).status).toBe("duplicate");
    });
  });
});

describe("one process a folder", () => {
  test("a second is told who works there; the command line brings in through the one that serves", async () => {
    await within(async (service) => {
      await expect(serve({ data, port: 0 })).rejects.toThrow(`process ${process.pid}`);
      await writeFile(join(folder, "through.dng"), await small(41));
      const said = await new Promise<string>((resolve, reject) =>
        execFile(process.execPath, [YELM, "import", "--data", data, "--json", join(folder, "through.dng")], (error, out, err) =>
          error ? reject(new Error(err)) : resolve(out),
        ),
      ); // prettier-ignore
      expect(said).toContain('"imported"');
      expect((await ask<Roll[]>(service, "GET", "/rolls")).body[0].negativeCount).toBe(1);
    });
  });
});

describe("the card", () => {
  test("only plain pictures are taken, everything else is told once, and every question is answered", async () => {
    await within(async (service) => {
      const card = join(data, "card");
      await writeFile(join(card, "good.dng"), await small(51));
      execFileSync("mkfifo", [join(card, "pipe.dng")]);
      await mkdir(join(card, "folder.dng"));
      await symlink("/etc/hostname", join(card, "link.dng"));
      for (const name of ["good.xmp", "film.mov", "notes.txt"]) await writeFile(join(card, name), "beside");
      const roll = await newRoll(service);
      const answers = await Promise.all(
        [roll.id, null, roll.id, roll.id].map((rollId) => ask(service, "PUT", "/card", { rollId })),
      );
      expect(answers.map(({ status }) => status)).toEqual([200, 200, 200, 200]);
      const list = async () => (await ask<ImportJob[]>(service, "GET", `/imports?roll=${roll.id}`)).body;
      const ended = (jobs: ImportJob[]) =>
        jobs.length >= 4 && jobs.every(({ state }) => state !== "waiting" && state !== "running");
      const told = await until(list, ended);
      expect(told).toHaveLength(4);
      const states = Object.fromEntries(told.map(({ fileName, state }) => [fileName, state]));
      expect(states).toEqual({
        "good.dng": "imported",
        "pipe.dng": "failed",
        "folder.dng": "failed",
        "link.dng": "failed",
      });
      await ask(service, "PUT", "/card", { rollId: null });
      await ask(service, "PUT", "/card", { rollId: roll.id });
      await new Promise((resolve) => setTimeout(resolve, 1500));
      expect(await list()).toHaveLength(told.length);
    });
  });
});

test("a task that takes too long is stopped, also when memory is collected meanwhile", async () => {
  const script = `
    const { WorkPool } = await import(${JSON.stringify(POOL)});
    const pool = new WorkPool();
    const collect = setInterval(() => globalThis.gc(), 5);
    const task = { scene: ${JSON.stringify(SCENE)}, out: ${JSON.stringify(join(folder, "never.dng"))}, iso: 100, stops: 0, seed: 1 };
    const waiting = pool.run("background", "shoot", task, { timeoutMs: 700, signal: new AbortController().signal });
    const end = await Promise.race([waiting.then(() => "done", (error) => error.code), new Promise((r) => setTimeout(r, 20000, "never"))]);
    console.log(end);
    clearInterval(collect);
    process.exit(0);
  `;
  const said = await new Promise<string>((resolve, reject) =>
    execFile(
      process.execPath,
      ["--expose-gc", "--input-type=module", "-e", script],
      { timeout: 40_000 },
      (error, out) => (error ? reject(new Error(error.message)) : resolve(out)),
    ),
  );
  expect(said.trim()).toBe("timeout");
}, 60_000);

describe("a start that fails", () => {
  const start = (...args: string[]) =>
    new Promise<{ code: number; said: string }>((resolve) =>
      execFile(process.execPath, [YELM, "serve", ...args], { timeout: 20_000 }, (error, out, err) =>
        resolve({ code: error ? Number(error.code ?? 1) : 0, said: out + err }),
      ),
    );

  test("says what to do, leaves with a code of its own, and what it opened is free", async () => {
    const taken = createServer();
    await new Promise<void>((resolve) => taken.listen(0, "127.0.0.1", resolve));
    const { port } = taken.address() as AddressInfo;
    const busy = await start("--data", data, "--port", String(port));
    await new Promise((resolve) => taken.close(resolve));
    expect([busy.code === 0, busy.said]).toEqual([false, expect.stringMatching(/is in use[^]*--port/)]);
    const beyond = await start("--data", data, "--port", "70000");
    expect([beyond.code === 0, beyond.said]).toEqual([false, expect.stringContaining("65535")]);
    const onFile = join(folder, "a-file");
    await writeFile(onFile, "x");
    const file = await start("--data", onFile, "--port", "0");
    expect([file.code === 0, file.said]).toEqual([false, expect.stringContaining("a file lies there")]);
    for (const { said } of [busy, beyond, file]) expect(said).not.toMatch(/^\s+at /m);
    await within((service) => ask(service, "GET", "/health"));
  });

  test("an empty or damaged database beside captures is never a new library", async () => {
    await within(async (service) => void (await bringIn(service, (await newRoll(service)).id, await small(61))));
    const database = join(data, "yelm.sqlite");
    const whole = await readFile(database);
    for (const spoiled of [Buffer.alloc(0), Buffer.alloc(whole.length, 7)]) {
      for (const suffix of ["-wal", "-shm"]) await rm(database + suffix, { force: true });
      await writeFile(database, spoiled);
      const { code, said } = await start("--data", data, "--port", "0");
      expect([code === 0, said]).toEqual([false, expect.stringMatching(/Expected/)]);
      expect(Buffer.compare(await readFile(database), spoiled)).toBe(0);
    }
    for (const suffix of ["-wal", "-shm"]) await rm(database + suffix, { force: true });
    await writeFile(database, whole);
    await within(async (service) => {
      expect((await ask<Roll[]>(service, "GET", "/rolls")).body[0].negativeCount).toBe(1);
    });
  });
});
