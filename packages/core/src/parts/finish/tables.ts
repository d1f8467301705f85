import { REC709 } from "../../colour/rgb-space.ts";
import { SRGB_TRANSFER } from "../../colour/transfer.ts";
import type { Vector3 } from "../../colour/matrix.ts";
import type { ToneTable } from "./schema.ts";

const luminanceOf = (rgb: Vector3) => rgb.reduce((sum, v, c) => sum + v * REC709.luminance[c], 0);

/** Whether a table gives greys only. */
export function isGreyTable({ values, strength }: ToneTable): boolean {
  return strength === 0 || values.every((v, i) => v === values[i - (i % 3)]);
}

/** A colour of the print, linear Rec.709, through tone tables one after the other. */
export function throughTables(colour: Vector3, tables: readonly ToneTable[]): Vector3 {
  return tables.reduce(throughTable, colour);
}

/** The table's own change of the grey that is as light as the colour is laid on the colour; a limit keeps its light above or below. */
function throughTable(colour: Vector3, { values, strength, limit }: ToneTable): Vector3 {
  if (strength === 0) return colour;
  const light = luminanceOf(colour);
  const code = SRGB_TRANSFER.encode(Math.min(1, Math.max(0, light)));
  const count = values.length / 3;
  const place = code * (count - 1);
  const k = Math.min(count - 2, Math.floor(place));
  const changed = colour.map((v, c) => {
    const [low, high] = [values[3 * k + c], values[3 * k + 3 + c]];
    const wanted = low + (place - k) * (high - low);
    const coded = SRGB_TRANSFER.encode(Math.min(1, Math.max(0, v))) + strength * (wanted - code);
    return SRGB_TRANSFER.decode(Math.min(1, Math.max(0, coded)));
  }) as unknown as Vector3;
  const now = luminanceOf(changed);
  const beyond = (limit === "darks" && now > light) || (limit === "lights" && now < light);
  if (!beyond || now <= 0) return changed;
  return changed.map((v) => Math.min(1, (v * light) / now)) as unknown as Vector3;
}
