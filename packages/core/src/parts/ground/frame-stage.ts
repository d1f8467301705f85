import { SLOT_EDGE } from "../../kernels/heap.ts";
import type { GroundPrint } from "./print.ts";
import type { Need, Stage } from "../../graph/stage.ts";
import { levelSize } from "../../tiles/tiles.ts";
import type { Rect } from "../../maths/rect.ts";
import { applyAffine, type Affine } from "../../maths/affine.ts";
import type { Frame } from "./geometry.ts";

/** Pixels that the cubic sampler reads beyond a place. */
const SAMPLE_MARGIN = 3;

/** Crop, turns and slant: scene light on the frame's own pixels. Without a slant or turn it is copied, not sampled. */
export const frameStage: Stage<GroundPrint> = {
  name: "frame",
  grid: "frame",
  planes: 1,
  costNs: 14,
  after: "calm",
  reads: ({ frame, recipe }) => [frame.toFlat, frame.lens && recipe.ground.lens],
  isActive: ({ frame }) => !frame.identity,
  needs: (print, level, rect) => [sourceOf(print, level, rect)],
  compute({ heap, print, read }, level, rect, [out]) {
    const need = sourceOf(print, level, rect);
    const [source] = read(need);
    const { lens } = print.frame;
    const m = levelMap(print.frame, level);
    if (!lens && isShift(m) && source.width === rect.width && source.height === rect.height) {
      heap.kernels.copyRect(source.pointer, source.stride, out, SLOT_EDGE, rect.width, rect.height);
      return;
    }
    const tight = heap.allocate(4 * source.width * source.height);
    heap.kernels.copyRect(source.pointer, source.stride, tight, source.width, source.width, source.height);
    const [cx, cy] = applyAffine(m, rect.x, rect.y);
    if (lens) {
      const step = 2 ** level;
      heap.kernels.sampleThroughLens(
        tight, source.width, source.height, source.x, source.y, out, SLOT_EDGE, rect.width, rect.height,
        m.ax, m.bx, cx, m.ay, m.by, cy,
        (lens.centreX - step / 2) / step, (lens.centreY - step / 2) / step, lens.radius / step,
        lens.distortion, lens.perspectiveX, lens.perspectiveY,
      ); // prettier-ignore
      return;
    }
    heap.kernels.sampleAffine(
      tight, source.width, source.height, out, SLOT_EDGE, rect.width, rect.height,
      m.ax, m.bx, cx - source.x, m.ay, m.by, cy - source.y,
    ); // prettier-ignore
  },
};

/** Places along a side at which a bent rectangle is looked at. */
const SIDE_SAMPLES = 9;

/** The negative's pixels of a level that a rectangle of frame pixels reads. */
function sourceOf(print: GroundPrint, level: number, rect: Rect): Need<GroundPrint> {
  const whole = levelSize(print.negative, level);
  const { lens } = print.frame;
  const m = levelMap(print.frame, level);
  const step = 2 ** level;
  const places: [number, number][] = [];
  const samples = lens ? SIDE_SAMPLES : 2;
  for (let i = 0; i < samples; i++)
    for (let j = 0; j < samples; j++) {
      const x = rect.x + ((rect.width - 1) * i) / (samples - 1);
      const y = rect.y + ((rect.height - 1) * j) / (samples - 1);
      const [fx, fy] = applyAffine(m, x, y);
      if (!lens) places.push([fx, fy]);
      else {
        const [nx, ny] = lens.toNegative((fx + 0.5) * step, (fy + 0.5) * step);
        places.push([nx / step - 0.5, ny / step - 0.5]);
      }
    }
  // Between the places looked at, a bent side strays by less than this.
  const margin = lens ? SAMPLE_MARGIN + 4 : isShift(m) ? 0 : SAMPLE_MARGIN;
  const xs = places.map((c) => c[0]);
  const ys = places.map((c) => c[1]);
  const x = Math.max(0, Math.min(whole.width - 1, Math.floor(Math.min(...xs)) - margin));
  const y = Math.max(0, Math.min(whole.height - 1, Math.floor(Math.min(...ys)) - margin));
  const right = Math.max(x + 1, Math.min(whole.width, Math.ceil(Math.max(...xs)) + 1 + margin));
  const bottom = Math.max(y + 1, Math.min(whole.height, Math.ceil(Math.max(...ys)) + 1 + margin));
  return { stage: "calm", level, rect: { x, y, width: right - x, height: bottom - y } };
}

/** Frame pixel centres of a level → pixel centres of the flat picture at the same level. */
function levelMap(frame: Frame, level: number): Affine {
  const step = 2 ** level;
  const { ax, bx, cx, ay, by, cy } = frame.toFlat;
  return { ax, bx, cx: cx / step + (ax + bx - 1) / 2, ay, by, cy: cy / step + (ay + by - 1) / 2 };
}

function isShift({ ax, bx, cx, ay, by, cy }: Affine): boolean {
  return ax === 1 && bx === 0 && ay === 0 && by === 1 && Number.isInteger(cx) && Number.isInteger(cy);
}
