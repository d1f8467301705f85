import { adaptWhite } from "./adaptation.ts";
import { lightnessToLuminance } from "./lab.ts";
import { invert3, multiply3, type Matrix3 } from "./matrix.ts";
import { REC2020 } from "./rgb-space.ts";
import { D50, D65 } from "./white.ts";

/** A profile of tone curves and, for colour, a matrix. */
export interface MatrixProfile {
  readonly model: "grey" | "rgb";
  /** Code 0–1 → linear light 0–1; one for grey, three for red, green, blue. */
  readonly curves: readonly ((code: number) => number)[];
  /** Linear colour of the profile → linear Rec.2020 (D65). Identity for grey. */
  readonly toWorking: Matrix3;
}

const HEADER_BYTES = 128;
const MAXIMUM_TAGS = 200;

/**
 * Reads a matrix or grey profile (ICC.1:2001-04 and 2010: 8.3 and 8.4, curves of types curv and para).
 * @returns null for profiles of another kind (tables, four colours) and for what is no profile.
 */
export function readMatrixProfile(bytes: Uint8Array): MatrixProfile | null {
  try {
    const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
    if (ascii(bytes, 36, 4) !== "acsp") return null;
    const space = ascii(bytes, 16, 4);
    const tags = readTags(view, bytes);
    if (tags.has("A2B0")) return null;
    const curve = (name: string) => readCurve(view, bytes, tags.get(name)!);
    if (space === "GRAY") {
      const grey = curve("kTRC");
      // Where the connection space is Lab the curve gives lightness, not light.
      const light = ascii(bytes, 20, 4) === "Lab " ? (code: number) => lightnessToLuminance(100 * grey(code)) : grey;
      return { model: "grey", curves: [light], toWorking: [1, 0, 0, 0, 1, 0, 0, 0, 1] };
    }
    if (space !== "RGB ") return null;
    const column = (name: string) => [8, 12, 16].map((at) => view.getInt32(tags.get(name)! + at) / 65536);
    const [r, g, b] = ["rXYZ", "gXYZ", "bXYZ"].map(column);
    const toPcs: Matrix3 = [r[0], g[0], b[0], r[1], g[1], b[1], r[2], g[2], b[2]];
    invert3(toPcs);
    const toWorking = multiply3(REC2020.fromXyz, multiply3(adaptWhite(D50, D65), toPcs));
    return { model: "rgb", curves: ["rTRC", "gTRC", "bTRC"].map(curve), toWorking };
  } catch {
    return null;
  }
}

function readTags(view: DataView, bytes: Uint8Array): Map<string, number> {
  const count = Math.min(MAXIMUM_TAGS, view.getUint32(HEADER_BYTES));
  return new Map(
    Array.from({ length: count }, (_, i) => {
      const at = HEADER_BYTES + 4 + 12 * i;
      return [ascii(bytes, at, 4), view.getUint32(at + 4)] as const;
    }),
  );
}

function readCurve(view: DataView, bytes: Uint8Array, at: number): (code: number) => number {
  const kind = ascii(bytes, at, 4);
  if (kind === "para") return parametric(view, at);
  if (kind !== "curv") throw new RangeError(`Expected a curve but received "${kind}".`);
  const count = view.getUint32(at + 8);
  if (count === 0) return (code) => code;
  if (count === 1) {
    const gamma = view.getUint16(at + 12) / 256;
    return (code) => Math.max(0, code) ** gamma;
  }
  const table = Float64Array.from({ length: count }, (_, i) => view.getUint16(at + 12 + 2 * i) / 65535);
  return (code) => {
    const place = Math.min(1, Math.max(0, code)) * (count - 1);
    const i = Math.min(count - 2, Math.floor(place));
    return table[i] + (place - i) * (table[i + 1] - table[i]);
  };
}

/** Types 0–4 of ICC.1:2010, table 65. */
function parametric(view: DataView, at: number): (code: number) => number {
  const type = view.getUint16(at + 8);
  const counts = [1, 3, 4, 5, 7];
  if (type >= counts.length) throw new RangeError(`Expected a curve of type 0–4 but received ${type}.`);
  const p = Array.from({ length: counts[type] }, (_, i) => view.getInt32(at + 12 + 4 * i) / 65536);
  const [g, a = 1, b = 0, c = 0, d = 0, e = 0, f = 0] = p;
  const power = (x: number) => Math.max(0, a * x + b) ** g;
  if (type === 0) return (x) => Math.max(0, x) ** g;
  if (type === 1) return (x) => (x >= -b / a ? power(x) : 0);
  if (type === 2) return (x) => (x >= -b / a ? power(x) + c : c);
  return (x) => (x >= d ? power(x) + e : c * x + f);
}

function ascii(bytes: Uint8Array, at: number, length: number): string {
  return String.fromCharCode(...bytes.subarray(at, at + length));
}
