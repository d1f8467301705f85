import { adaptWhite } from "./adaptation.ts";
import { multiply3 } from "./matrix.ts";
import { REC709, type RgbSpace } from "./rgb-space.ts";
import type { Transfer } from "./transfer.ts";
import { D50, D65 } from "./white.ts";

const CURVE_ENTRIES = 1024;
const HEADER_BYTES = 128;

/** Options for {@link iccProfile}. */
export interface IccOptions {
  /** Readable name stored in the profile. */
  readonly description: string;
  readonly transfer: Transfer;
  /** `grey`: one tone curve. `rgb`: primaries with the same curve on each channel. */
  readonly model: "grey" | "rgb";
  /** Primaries of an `rgb` profile, for D65; Rec.709 by default. */
  readonly space?: RgbSpace;
}

/**
 * Writes a display profile, version 2.1 (ICC.1:2001-04), as other programs read it most widely.
 * The tone curve is tabulated with 1024 entries of 16 bits.
 */
export function iccProfile({ description, transfer, model, space = REC709 }: IccOptions): Uint8Array {
  const curve = curveTag(transfer);
  const tags: [string, Uint8Array][] = [
    ["desc", descriptionTag(description)],
    ["cprt", textTag("No rights reserved")],
    ["wtpt", xyzTag(0.9642, 1, 0.8249)],
  ];
  if (model === "grey") tags.push(["kTRC", curve]);
  else {
    const m = multiply3(adaptWhite(D65, D50), space.toXyz);
    tags.push(
      ["rXYZ", xyzTag(m[0], m[3], m[6])],
      ["gXYZ", xyzTag(m[1], m[4], m[7])],
      ["bXYZ", xyzTag(m[2], m[5], m[8])],
    );
    for (const name of ["rTRC", "gTRC", "bTRC"]) tags.push([name, curve]);
  }
  return assemble(tags, model === "grey" ? "GRAY" : "RGB ");
}

function assemble(tags: [string, Uint8Array][], space: string): Uint8Array {
  const tableBytes = 4 + 12 * tags.length;
  const offsets = new Map<Uint8Array, number>();
  let size = HEADER_BYTES + tableBytes;
  for (const [, data] of tags) {
    if (offsets.has(data)) continue;
    offsets.set(data, size);
    size += (data.length + 3) & ~3;
  }
  const out = new Uint8Array(size);
  const view = new DataView(out.buffer);
  view.setUint32(0, size);
  view.setUint32(8, 0x02100000);
  writeAscii(out, 12, "mntr" + space + "XYZ ");
  [2026, 1, 1, 0, 0, 0].forEach((part, i) => view.setUint16(24 + 2 * i, part));
  writeAscii(out, 36, "acsp");
  [0.9642, 1, 0.8249].forEach((v, i) => view.setInt32(68 + 4 * i, Math.round(v * 65536)));
  view.setUint32(HEADER_BYTES, tags.length);
  tags.forEach(([name, data], i) => {
    const at = HEADER_BYTES + 4 + 12 * i;
    writeAscii(out, at, name);
    view.setUint32(at + 4, offsets.get(data)!);
    view.setUint32(at + 8, data.length);
    out.set(data, offsets.get(data));
  });
  return out;
}

function curveTag(transfer: Transfer): Uint8Array {
  const out = new Uint8Array(12 + 2 * CURVE_ENTRIES);
  const view = new DataView(out.buffer);
  writeAscii(out, 0, "curv");
  view.setUint32(8, CURVE_ENTRIES);
  for (let i = 0; i < CURVE_ENTRIES; i++)
    view.setUint16(12 + 2 * i, Math.round(65535 * transfer.decode(i / (CURVE_ENTRIES - 1))));
  return out;
}

function xyzTag(...xyz: number[]): Uint8Array {
  const out = new Uint8Array(20);
  const view = new DataView(out.buffer);
  writeAscii(out, 0, "XYZ ");
  xyz.forEach((v, i) => view.setInt32(8 + 4 * i, Math.round(v * 65536)));
  return out;
}

function textTag(text: string): Uint8Array {
  const out = new Uint8Array(9 + text.length);
  writeAscii(out, 0, "text");
  writeAscii(out, 8, text);
  return out;
}

function descriptionTag(text: string): Uint8Array {
  const out = new Uint8Array(90 + text.length + 1);
  writeAscii(out, 0, "desc");
  new DataView(out.buffer).setUint32(8, text.length + 1);
  writeAscii(out, 12, text);
  return out;
}

function writeAscii(out: Uint8Array, at: number, text: string): void {
  for (let i = 0; i < text.length; i++) out[at + i] = text.charCodeAt(i);
}
