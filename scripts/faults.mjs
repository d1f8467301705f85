// The fault campaign: kills, a full disk and edit sessions that lose answers. Usage:
//   npm run faults [-- KILLS [SCHEDULES]]
// Ends with code 1 when anything that was acknowledged is lost, doubled or half there.
import { spawn } from "node:child_process";
import { createHash, randomUUID } from "node:crypto";
import { mkdir, mkdtemp, readdir, rm, statfs, writeFile } from "node:fs/promises";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { createRandom, drawChart, shoot } from "@yelm/camera";
import sharp from "sharp";
import { node, ROOT, run } from "./run.mjs";

const KILLS = Number(process.argv[2] ?? 40);
const SCHEDULES = Number(process.argv[3] ?? 2000);
const YELM = join(ROOT, "packages/server/bin/yelm.js");
const LONGEST_REACH_MS = 8000;
const random = createRandom(20261126);
const work = await mkdtemp(join(tmpdir(), "yelm-faults-"));
const faults = [];
const figures = [];
const sha = (bytes) => createHash("sha256").update(bytes).digest("hex");
const rest = (ms) => new Promise((resolve) => setTimeout(resolve, ms));

async function start(data) {
  const child = spawn(node, [YELM, "serve", "--data", data, "--port", "0"], { stdio: ["ignore", "pipe", "pipe"] });
  let said = "";
  child.stderr.on("data", (chunk) => (said += chunk));
  const url = await new Promise((resolve, reject) => {
    child.stdout.on("data", (chunk) => {
      const found = /http:\S+/.exec(String(chunk));
      if (found) resolve(found[0]);
    });
    child.once("exit", (code) => reject(new Error(`the server ended with ${code}: ${said}`)));
  });
  const ended = new Promise((resolve) => child.once("exit", resolve));
  return { url, child, ended };
}

async function ask(url, method, path, body) {
  const response = await fetch(`${url}/api${path}`, {
    method,
    headers: { connection: "close", ...(body && { "content-type": "application/json" }) },
    body: body && JSON.stringify(body),
  });
  const text = await response.text();
  return { status: response.status, body: text ? JSON.parse(text) : undefined };
}

async function send(url, path, method, bytes, name) {
  const form = new FormData();
  form.append("file", new Blob([bytes]), name);
  const response = await fetch(`${url}/api${path}`, { method, body: form, headers: { connection: "close" } });
  return { status: response.status, body: await response.json() };
}

async function until(what, holds, ms = 60_000) {
  for (const end = Date.now() + ms; ;) {
    const value = await what();
    if (holds(value)) return value;
    if (Date.now() > end) throw new Error(`Waited too long; the last was ${JSON.stringify(value).slice(0, 300)}`);
    await rest(60);
  }
}

/** Edits, imports and exports under way while the server is killed again and again. */
async function killed() {
  const data = join(work, "killed");
  const started = Date.now();
  let server = await start(data);
  const roll = (await ask(server.url, "POST", "/rolls", { title: "Killed" })).body;
  const first = await send(server.url, `/rolls/${roll.id}/captures`, "POST", await shoot(drawChart("patches", 120, 90)), "a.dng"); // prettier-ignore
  const [print] = (await ask(server.url, "GET", `/prints?negative=${first.body.negative.id}`)).body;
  let { head } = print;
  const acknowledged = new Set();
  const exports = new Set();
  const imports = [];
  let unanswered = 0;
  // Within this long after a start the kill comes; longer where the machine is too slow for anything to be acknowledged before.
  let reachMs = 500;
  for (let kill = 0; kill < KILLS; kill++) {
    const before = acknowledged.size + imports.length + exports.size;
    const bytes = await shoot(drawChart("patches", 120, 90), { seed: 1000 + kill });
    const stop = setTimeout(() => server.child.kill("SIGKILL"), 20 + reachMs * random());
    let going = true;
    void server.ended.then(() => (going = false));
    const edit = async () => {
      while (going) {
        const id = randomUUID();
        const changes = [{ op: "set", path: "shape/grade", value: Math.round(random() * 40) / 10 }];
        const revision = { id, base: head, changes, label: "Grade", station: "shape", at: new Date().toISOString() };
        const { status } = await ask(server.url, "POST", `/prints/${print.id}/revisions`, revision);
        if (status !== 201) throw new Error(`an edit was refused with ${status}`);
        acknowledged.add((head = id));
      }
    };
    const bring = async () => {
      const id = `kill-${kill}-import`;
      const { status } = await send(server.url, `/rolls/${roll.id}/imports/${id}`, "PUT", bytes, `k${kill}.dng`);
      if (status === 202) imports.push({ name: `k${kill}.dng`, hash: sha(bytes) });
    };
    const write = async () => {
      const format = ["tiff", "png", "jpeg"][kill % 3];
      const { status, body } = await ask(server.url, "POST", "/exports", { printIds: [print.id], options: { format } });
      if (status === 202) exports.add(body[0].id);
    };
    const outcomes = await Promise.allSettled([edit(), bring(), write()]);
    for (const { reason } of outcomes) if (reason?.message?.includes("refused")) faults.push(reason.message);
    unanswered += outcomes.filter(({ status }) => status === "rejected").length;
    await server.ended;
    clearTimeout(stop);
    if (acknowledged.size + imports.length + exports.size === before)
      reachMs = Math.min(LONGEST_REACH_MS, 1.3 * reachMs);
    server = await start(data);
    // An edit whose answer was lost may be in or not; either way the print goes on from where it says it is.
    ({ head } = (await ask(server.url, "GET", `/prints/${print.id}`)).body);
  }
  // A campaign in which nothing was promised proves nothing.
  for (const [what, count] of [
    ["edit", acknowledged.size],
    ["import", imports.length],
    ["export", exports.size],
  ])
    if (count === 0) faults.push(`no ${what} was acknowledged before a kill: more of them are needed here`);
  const known = new Set((await ask(server.url, "GET", `/prints/${print.id}/revisions`)).body.map(({ id }) => id));
  const lost = [...acknowledged].filter((id) => !known.has(id));
  if (lost.length > 0) faults.push(`${lost.length} acknowledged edits lost`);
  const over = ({ state }) => state !== "waiting" && state !== "running";
  await until(async () => (await ask(server.url, "GET", `/imports?roll=${roll.id}`)).body, (jobs) => jobs.every(over)); // prettier-ignore
  const jobs = await until(
    async () => (await ask(server.url, "GET", "/exports")).body,
    (all) => all.every(over),
  );
  const negatives = (await ask(server.url, "GET", `/negatives?roll=${roll.id}`)).body;
  for (const { hash, name } of imports)
    if (negatives.filter((negative) => negative.hash === hash).length !== 1) faults.push(`${name} is not there once`);
  for (const { id } of negatives)
    if ((await ask(server.url, "GET", `/prints?negative=${id}`)).body.length < 1) faults.push(`${id} has no print`);
  const ours = jobs.filter(({ id }) => exports.has(id));
  for (const { state, error } of ours) if (state !== "done") faults.push(`an export is ${state}: ${error}`);
  const files = await readdir(join(data, "exports"));
  if (files.length !== jobs.length) faults.push(`${files.length} files of ${jobs.length} exports`);
  for (const name of files)
    await sharp(join(data, "exports", name), { failOn: "warning" }).raw().toBuffer().catch((error) => faults.push(`${name}: ${error.message}`)); // prettier-ignore
  const parts = (await readdir(data, { recursive: true })).filter((name) => name.endsWith(".part"));
  if (parts.length > 0) faults.push(`left behind: ${parts.join(", ")}`);
  server.child.kill("SIGTERM");
  await server.ended;
  figures.push(["kills", KILLS], ["edits acknowledged", acknowledged.size], ["edits lost", lost.length]);
  figures.push(["requests without an answer", unanswered], ["imports acknowledged", imports.length]);
  figures.push(["exports acknowledged", exports.size], ["export files", files.length]);
  figures.push(["seconds", Math.round((Date.now() - started) / 1000)]);
}

/** A disk of its own that fills up, is emptied and goes on. Needs the right to mount. */
async function full() {
  const data = join(work, "full");
  await mkdir(data);
  const mounted = await run("mount", ["-t", "tmpfs", "-o", "size=24m", "tmpfs", data], { quiet: true });
  if (mounted.code !== 0) {
    figures.push(["full disk", "not tried: no right to mount one"]);
    return;
  }
  const server = await start(data);
  try {
    const roll = (await ask(server.url, "POST", "/rolls", { title: "Full" })).body;
    const picture = await shoot(drawChart("patches", 640, 480), { seed: 5 });
    const first = await send(server.url, `/rolls/${roll.id}/captures`, "POST", picture, "a.dng");
    const [print] = (await ask(server.url, "GET", `/prints?negative=${first.body.negative.id}`)).body;
    const filler = join(data, "filler");
    const { bavail, bsize } = await statfs(data);
    await writeFile(filler, Buffer.alloc(Math.max(0, bavail * bsize - 200_000)));
    let { head } = print;
    let refused = 0;
    let saved = 0;
    const edit = async () => {
      const id = randomUUID();
      const changes = [{ op: "set", path: "shape/grade", value: Math.round(random() * 40) / 10 }];
      const revision = { id, base: head, changes, label: "Grade", station: "shape", at: new Date().toISOString() };
      const { status, body } = await ask(server.url, "POST", `/prints/${print.id}/revisions`, revision);
      if (status === 201) return (saved++, (head = id), true);
      if (status < 500) faults.push(`an edit on a full disk got ${status}: ${JSON.stringify(body)}`);
      return (refused++, false);
    };
    for (let i = 0; i < 400 && refused < 5; i++) await edit();
    const order = await ask(server.url, "POST", "/exports", { printIds: [print.id], options: { format: "tiff" } });
    const bring = await send(server.url, `/rolls/${roll.id}/captures`, "POST", await shoot(drawChart("patches", 640, 480), { seed: 6 }), "b.dng").catch(() => ({ status: 0 })); // prettier-ignore
    if (bring.status === 201) faults.push("a capture came in on a full disk");
    await rest(1500);
    const files = await readdir(join(data, "exports"));
    if (files.length > 0) faults.push(`on a full disk there are ${files.join(", ")}`);
    await rm(filler);
    if (!(await until(edit, Boolean).catch(() => false))) faults.push("edits did not go on once there was room");
    const ends = async () => (await ask(server.url, "GET", "/exports")).body;
    const told = await until(ends, (all) => all.every(({ state }) => state !== "waiting" && state !== "running"));
    if (order.status === 202 && !/disk is full/i.test(told[0]?.error ?? "") && told[0]?.state !== "done")
      faults.push(`the export ended with ${JSON.stringify(told[0]?.error)}`);
    const again = await send(server.url, `/rolls/${roll.id}/captures`, "POST", await shoot(drawChart("patches", 640, 480), { seed: 6 }), "b.dng"); // prettier-ignore
    if (!["imported", "duplicate"].includes(again.body.status))
      faults.push(`after room was made: ${JSON.stringify(again.body)}`);
    const revisions = (await ask(server.url, "GET", `/prints/${print.id}/revisions`)).body;
    if (!revisions.some(({ id }) => id === head)) faults.push("an edit acknowledged on a full disk is lost");
    figures.push(["on a full disk: edits saved", saved], ["edits told to wait", refused], ["export", told[0]?.state ?? `${order.status}`]); // prettier-ignore
  } finally {
    server.child.kill("SIGKILL");
    await server.ended;
    await run("umount", [data], { quiet: true });
  }
}

async function schedules() {
  const started = Date.now();
  const jest = ["--experimental-vm-modules", "--disable-warning=ExperimentalWarning", "node_modules/jest/bin/jest.js", "session/__tests__/faults"]; // prettier-ignore
  const { code, output } = await run(node, jest, { quiet: true, env: { YELM_SCHEDULES: String(SCHEDULES) } });
  if (code !== 0) faults.push(`edit sessions:\n${output}`);
  figures.push(["edit sessions with lost answers, refusals and second windows", SCHEDULES]);
  figures.push(["seconds", Math.round((Date.now() - started) / 1000)]);
}

try {
  await killed();
  await full();
  if (SCHEDULES > 0) await schedules();
} finally {
  await rm(work, { recursive: true, force: true });
}
for (const [name, value] of figures) console.log(`${String(value).padStart(10)}  ${name}`);
for (const fault of faults) console.error(`fault: ${fault}`);
console.log(faults.length === 0 ? "Nothing lost, nothing double, nothing half." : `${faults.length} faults.`);
process.exit(faults.length === 0 ? 0 : 1);
