// Writes packages/core/src/kernels/exports.ts: what kernels.wasm offers, as typed from the kernels' own sources.
import { readFileSync, writeFileSync } from "node:fs";
import { join } from "node:path";
import { ROOT } from "./run.mjs";

const KERNELS = join(ROOT, "packages/core/kernels");
const OUT = join(ROOT, "packages/core/src/kernels/exports.ts");
const TYPES = {
  usize: "Pointer",
  i32: "number",
  u32: "number",
  f32: "number",
  f64: "number",
  bool: "boolean",
  void: "void",
};

export function writeKernelTypes() {
  const index = readFileSync(join(KERNELS, "index.ts"), "utf8");
  const members = [];
  for (const [, names, file] of index.matchAll(/export \{([^}]+)\} from "\.\/([^"]+)"/g)) {
    const source = readFileSync(join(KERNELS, `${file}.ts`), "utf8");
    for (const name of names
      .split(",")
      .map((one) => one.trim())
      .filter(Boolean))
      members.push(member(source, file, name));
  }
  const text = [
    "// Made by scripts/kernel-types.mjs from packages/core/kernels; not to be changed by hand.",
    "/** A byte offset in kernel memory. */\nexport type Pointer = number;\n",
    "/** What `kernels.wasm` offers. */\nexport interface KernelExports {",
    members.join("\n"),
    "}\n",
  ].join("\n");
  writeFileSync(OUT, text);
}

function member(source, file, name) {
  const found = source.match(
    new RegExp(`(/\\*\\*(?:(?!\\*/)[\\s\\S])*\\*/\\n)?export function ${name}\\(([^)]*)\\): (\\w+)`),
  );
  if (!found) throw new Error(`Expected a function called ${name} in kernels/${file}.ts but there is none.`);
  const [, doc = "", parameters, result] = found;
  const typed = parameters
    .split(",")
    .map((one) => one.trim())
    .filter(Boolean)
    .map((one) => {
      const [parameter, type] = one.split(":").map((part) => part.trim());
      return `${parameter}: ${typeOf(type, file, name)}`;
    });
  const indented = doc.replace(/^/gm, "  ").trimEnd();
  return `${indented ? `${indented}\n` : ""}  ${name}(${typed.join(", ")}): ${typeOf(result, file, name)};`;
}

function typeOf(type, file, name) {
  if (!(type in TYPES))
    throw new Error(`Expected a number or a pointer in ${name} of kernels/${file}.ts but found ${type}.`);
  return TYPES[type];
}

if (import.meta.url === `file://${process.argv[1]}`) writeKernelTypes();
