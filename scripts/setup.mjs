// Makes a fresh checkout ready: packages, build, and on request Debian's Chromium. A second call takes a second.
import { createHash } from "node:crypto";
import { existsSync, mkdirSync, readdirSync, readFileSync, statSync, writeFileSync } from "node:fs";
import { dirname, join, relative } from "node:path";
import { node, ROOT, run, step } from "./run.mjs";
import { build } from "./build.mjs";

const CHROMIUM = ["/usr/bin/chromium", "/usr/bin/chromium-browser"];
/** The database driver at the compiler's highest level takes five times as long to compile, and answers no sooner than is noticed. */
const COMPILER_FLAGS = { CFLAGS: "-O1", CXXFLAGS: "-O1" };
const NATIVE = "require('better-sqlite3')(':memory:').close(); require('sharp')";

/** @param meanwhile - what needs packages and build but not the database driver, which takes a minute or two to compile. */
export async function setUp(meanwhile = async () => {}) {
  const [major, minor] = process.versions.node.split(".").map(Number);
  if (major < 20 || (major === 20 && minor < 19)) {
    console.error(`Yelm needs Node 20.19 or newer, and this is ${process.versions.node}.`);
    process.exit(1);
  }
  const compiled = await installPackages();
  await buildIfChanged();
  await meanwhile();
  await compiled();
}

/** @returns waits until the native packages are there, too. */
async function installPackages() {
  const stamp = join(ROOT, "node_modules", ".yelm-installed");
  const state = hash([readFileSync(join(ROOT, "package-lock.json")), process.version, process.arch]);
  if (existsSync(stamp) && readFileSync(stamp, "utf8") === state) return async () => {};
  const headers = join(dirname(process.execPath), "..");
  const env = existsSync(join(headers, "include/node/node.h")) ? { npm_config_nodedir: headers } : {};
  console.log("Installing packages; the database driver is compiled meanwhile, which takes a minute or two.");
  await step("npm ci", "npm", ["ci", "--ignore-scripts"], { env });
  const started = Date.now();
  const compiling = run("npm", ["rebuild", "better-sqlite3"], {
    env: { ...env, ...COMPILER_FLAGS, npm_config_jobs: "max" },
    quiet: true,
  });
  return async () => {
    const { code, output } = await compiling;
    if (code !== 0) {
      console.error(
        `${output}\nThe database driver could not be compiled: it needs a C++ compiler, make and Python 3.`,
      );
      process.exit(code);
    }
    console.log(`· database driver … ${((Date.now() - started) / 1000).toFixed(1)} s`);
    await step("checking the native packages", node, ["-e", NATIVE], { cwd: join(ROOT, "packages/server") });
    writeFileSync(stamp, state);
  };
}

async function buildIfChanged() {
  const stamp = join(ROOT, "node_modules", ".yelm-built");
  const state = hash(sources().map((file) => `${relative(ROOT, file)} ${statSync(file).mtimeMs}`));
  const outputs = ["packages/server/dist/serve.js", "packages/web/dist/index.html", "packages/core/build/kernels.wasm"];
  const whole = outputs.every((file) => existsSync(join(ROOT, file)));
  if (whole && existsSync(stamp) && readFileSync(stamp, "utf8") === state) return;
  await build();
  writeFileSync(stamp, state);
}

function sources() {
  const found = [join(ROOT, "tsconfig.base.json")];
  const walk = (folder) => {
    for (const entry of readdirSync(folder, { withFileTypes: true })) {
      if (["node_modules", "dist", "build", "__tests__"].includes(entry.name)) continue;
      const path = join(folder, entry.name);
      if (entry.isDirectory()) walk(path);
      else found.push(path);
    }
  };
  walk(join(ROOT, "packages"));
  return found.sort();
}

/** Path of a Chromium, installed from Debian's packages when there is none. */
export async function findChromium() {
  const known = [process.env.CHROMIUM_PATH, ...CHROMIUM].find((path) => path && existsSync(path));
  if (known) return known;
  console.log("No Chromium found; installing Debian's.");
  const sudo = process.getuid?.() === 0 ? [] : ["sudo", "-n"];
  const apt = (args) => {
    const [command, ...rest] = [...sudo, "apt-get", ...args];
    return run(command, rest, { quiet: true, env: { DEBIAN_FRONTEND: "noninteractive" } });
  };
  await apt(["update"]);
  const { code, output } = await apt(["install", "-y", "--no-install-recommends", "chromium"]);
  if (code !== 0) {
    console.error(output);
    console.error("Chromium could not be installed. Install it and set CHROMIUM_PATH to it, then run this again.");
    process.exit(1);
  }
  return CHROMIUM.find((path) => existsSync(path));
}

function hash(parts) {
  const sum = createHash("sha256");
  for (const part of parts) sum.update(part).update("\0");
  return sum.digest("hex");
}

if (import.meta.url === `file://${process.argv[1]}`) {
  mkdirSync(join(ROOT, "node_modules"), { recursive: true });
  await setUp();
}
