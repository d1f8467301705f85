import { applyAffine, type Affine } from "../ground/geometry.ts";
import { SLOT_EDGE } from "../kernels/heap.ts";
import type { PreparedPrint } from "../render/prepare.ts";
import type { Rect } from "../render/view.ts";
import type { MaskGrid } from "./moves.ts";

/** The pixels of a rectangle and where they lie on the flat picture, in long edges. */
export function maskGrid({ frame, negative }: PreparedPrint, level: number, rect: Rect): MaskGrid {
  const step = 2 ** level;
  const longEdge = Math.max(negative.width, negative.height);
  const m = frame.toFlat;
  const [cx, cy] = applyAffine(m, (rect.x + 0.5) * step, (rect.y + 0.5) * step);
  const s = step / longEdge;
  const toFlat: Affine = {
    ax: m.ax * s,
    bx: m.bx * s,
    cx: cx / longEdge,
    ay: m.ay * s,
    by: m.by * s,
    cy: cy / longEdge,
  };
  return { width: SLOT_EDGE, height: rect.height, toFlat };
}
