import { SLOT_EDGE, type KernelHeap } from "../../kernels/heap.ts";
import type { CleanSpot } from "./schema.ts";
import type { GroundPrint } from "./print.ts";
import type { Block, Need, Stage } from "../../graph/stage.ts";
import { levelSize } from "../../tiles/tiles.ts";
import { smoothstep } from "../../maths/smoothstep.ts";
import { intersect, isEmpty, type Rect, type Size } from "../../maths/rect.ts";
import { membrane, type Membrane } from "./membrane.ts";

/** Pixels around a spot from which the light about it is taken. */
const RING = 3;
/** A spot smaller than this at a level cannot be seen on it. */
const LEAST_RADIUS_PX = 0.4;

/**
 * Mends spots and strokes from other places of the picture. A clone copies; a heal adds to the copy the smoothest surface
 * that meets the surroundings (Pérez, Gangnet, Blake 2003). Every spot reads the picture as it came, so their order
 * matters only where they overlap. Both are linear in light, so mending after weighing is the same as mending colours.
 */
export const cleanStage: Stage<GroundPrint> = {
  name: "clean",
  grid: "negative",
  planes: 1,
  costNs: 30,
  after: "sharpen",
  reads: (print, level, rect) => patchesIn(print, level, rect).map(({ spot }) => spot),
  isActive: ({ recipe }) => recipe.ground.clean.some((spot) => spot.on),
  needs: (print, level, rect) => [
    { stage: "sharpen", level, rect },
    ...patchesIn(print, level, rect).flatMap(({ area, source }): Need<GroundPrint>[] => [
      { stage: "sharpen", level, rect: area },
      { stage: "sharpen", level, rect: source },
    ]),
  ],
  compute({ heap, print, read }, level, rect, [out]) {
    const [light] = read({ stage: "sharpen", level, rect });
    heap.kernels.copyRect(light.pointer, light.stride, out, SLOT_EDGE, rect.width, rect.height);
    for (const patch of patchesIn(print, level, rect)) {
      const mark = heap.mark();
      const [here] = read({ stage: "sharpen", level, rect: patch.area });
      const [there] = read({ stage: "sharpen", level, rect: patch.source });
      mend(heap, patch, here, there, rect, out);
      heap.release(mark);
    }
  },
};

/** A spot as it lies on one level, in pixels. */
interface Patch {
  readonly spot: CleanSpot;
  readonly points: readonly (readonly [number, number])[];
  readonly radius: number;
  /** Everything the spot touches, cut to the picture, and the same about its source. */
  readonly area: Rect;
  readonly source: Rect;
  readonly offset: readonly [number, number];
}

function patchesIn(print: GroundPrint, level: number, rect: Rect): Patch[] {
  const whole = levelSize(print.negative, level);
  const perEdge = Math.max(print.negative.width, print.negative.height) / 2 ** level;
  return print.recipe.ground.clean
    .filter((spot) => spot.on && spot.radius * perEdge >= LEAST_RADIUS_PX)
    .map((spot) => patchOf(spot, whole, perEdge))
    .filter((patch) => patch !== null)
    .filter(({ area }) => !isEmpty(intersect(area, rect)));
}

function patchOf(spot: CleanSpot, whole: Size, perEdge: number): Patch | null {
  const points = spot.points.map(([x, y]) => [x * perEdge - 0.5, y * perEdge - 0.5] as const);
  const radius = spot.radius * perEdge;
  // Whole pixels, so that what is copied stays as sharp as it is.
  const offset = [Math.round(spot.sourceX * perEdge), Math.round(spot.sourceY * perEdge)] as const;
  const reach = radius + RING;
  const xs = points.map(([x]) => x);
  const ys = points.map(([, y]) => y);
  const area = cut(
    Math.floor(Math.min(...xs) - reach), Math.floor(Math.min(...ys) - reach),
    Math.ceil(Math.max(...xs) + reach) + 1, Math.ceil(Math.max(...ys) + reach) + 1, whole,
  ); // prettier-ignore
  const source = area && cut(
    area.x + offset[0], area.y + offset[1],
    area.x + offset[0] + area.width, area.y + offset[1] + area.height, whole,
  ); // prettier-ignore
  return area && source ? { spot, points, radius, area, source, offset } : null;
}

/** Lays one patch over the tile in `out`. */
function mend(heap: KernelHeap, patch: Patch, here: Block, there: Block, rect: Rect, out: number): void {
  const { spot, points, radius, area, offset } = patch;
  const target = heap.floats(here.pointer, here.stride * here.height);
  const source = heap.floats(there.pointer, there.stride * there.height);
  const tile = heap.floats(out, SLOT_EDGE * rect.height);
  const distance = (x: number, y: number) => distanceTo(points, x, y) / radius;
  // Beyond the picture's border the source repeats its last pixels.
  const copied = (x: number, y: number) => {
    const sx = Math.min(there.x + there.width - 1, Math.max(there.x, x + offset[0])) - there.x;
    const sy = Math.min(there.y + there.height - 1, Math.max(there.y, y + offset[1])) - there.y;
    return source[sy * there.stride + sx];
  };
  const difference = (x: number, y: number) => target[(y - here.y) * here.stride + x - here.x] - copied(x, y);
  const surface: Membrane | null =
    spot.kind === "heal" ? membrane(area, difference, (x, y) => distance(x, y) < 1) : null;
  const hard = 1 - spot.softness;
  const part = intersect(area, rect);
  for (let y = part.y; y < part.y + part.height; y++)
    for (let x = part.x; x < part.x + part.width; x++) {
      const d = distance(x, y);
      if (d >= 1) continue;
      const share = 1 - smoothstep(d, Math.min(hard, 1 - 1e-4), 1);
      const at = (y - rect.y) * SLOT_EDGE + x - rect.x;
      tile[at] += share * (copied(x, y) + (surface ? surface(x, y) : 0) - tile[at]);
    }
}

/** Distance from a place to a stroke. */
function distanceTo(points: readonly (readonly [number, number])[], x: number, y: number): number {
  let best = Infinity;
  for (let i = 0; i < Math.max(1, points.length - 1); i++) {
    const [px, py] = points[i];
    const [qx, qy] = points[Math.min(i + 1, points.length - 1)];
    const dx = qx - px;
    const dy = qy - py;
    const length = dx * dx + dy * dy;
    const t = length > 0 ? Math.min(1, Math.max(0, ((x - px) * dx + (y - py) * dy) / length)) : 0;
    best = Math.min(best, (x - px - t * dx) ** 2 + (y - py - t * dy) ** 2);
  }
  return Math.sqrt(best);
}

/** The part of a rectangle, given by its corners, that lies in the picture; null when none does. */
function cut(x0: number, y0: number, x1: number, y1: number, whole: Size): Rect | null {
  const part = intersect({ x: x0, y: y0, width: x1 - x0, height: y1 - y0 }, { x: 0, y: 0, ...whole });
  return isEmpty(part) ? null : part;
}
