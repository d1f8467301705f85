// Fetches vectors of constants once for each call of a kernel. Engines build such a constant anew wherever it is used, a loop's
// every turn too, which took up to half of the time of a kernel in Chromium; from memory they are fetched and kept at hand.
import { readFileSync, writeFileSync } from "node:fs";
import binaryen from "binaryen";

/** Where the constants lie: below what the kernels themselves keep (`memoryBase` in asconfig.json); 0 means "none" to them. */
const FIRST = 16;
const END = 8192;
const VECTOR = /\(v128\.const i32x4 (0x[0-9a-f]+) (0x[0-9a-f]+) (0x[0-9a-f]+) (0x[0-9a-f]+)\)/g;

/** Rewrites a WebAssembly file in place. @throws {Error} when the constants have no room or the result is not valid. */
function holdConstants(file) {
  const lines = textOf(readFileSync(file)).split("\n");
  /** Places of constants, by their four words. */
  const places = new Map();
  const placeOf = (words) => {
    const place = places.get(words) ?? FIRST + 16 * places.size;
    places.set(words, place);
    return place;
  };
  const out = [];
  for (let at = 0; at < lines.length;) {
    if (!lines[at].startsWith(" (func ")) {
      out.push(lines[at++]);
      continue;
    }
    const head = [lines[at++]];
    while (lines[at].startsWith("  (local ")) head.push(lines[at++]);
    const body = [];
    while (lines[at] !== " )") body.push(lines[at++]);
    out.push(...withHeld(head, body.join("\n"), placeOf));
  }
  const size = 16 * places.size;
  if (FIRST + size > END) throw new Error(`Expected at most ${END - FIRST} bytes of constants but received ${size}.`);
  const closing = out.lastIndexOf(")");
  out.splice(closing, 0, ` (data $constants (i32.const ${FIRST}) "${[...places.keys()].map(escaped).join("")}")`);
  const module = binaryen.parseText(out.join("\n"));
  try {
    module.setFeatures(binaryen.Features.All);
    if (!module.validate()) throw new Error(`${file} with its constants held is not valid.`);
    writeFileSync(file, module.emitBinary());
  } finally {
    module.dispose();
  }
}

function textOf(bytes) {
  const module = binaryen.readBinary(bytes);
  try {
    module.setFeatures(binaryen.Features.All);
    return module.emitText();
  } finally {
    module.dispose();
  }
}

/** A function whose vectors of constants are locals, set at its beginning. */
function withHeld(head, body, placeOf) {
  const held = new Map();
  const text = body.replace(VECTOR, (whole, ...words) => {
    const key = words.slice(0, 4).map(Number);
    // All bits off or on are made faster than fetched.
    if (key.every((word) => word === 0) || key.every((word) => word === 0xffffffff)) return whole;
    const place = placeOf(key.join());
    held.set(place, `$held_${place}`);
    return `(local.get ${held.get(place)})`;
  });
  return [
    ...head,
    ...[...held.values()].map((name) => `  (local ${name} v128)`),
    ...[...held].map(([place, name]) => `  (local.set ${name} (v128.load (i32.const ${place})))`),
    text,
  ];
}

/** Four words as the bytes of a data segment. */
function escaped(words) {
  const bytes = new Uint8Array(Uint32Array.from(words.split(","), Number).buffer);
  return [...bytes].map((byte) => `\\${byte.toString(16).padStart(2, "0")}`).join("");
}

holdConstants(process.argv[2]);
