import type { Pull, Squint } from "../measure/pulls.ts";

/** How the eye's way agrees with the plan. */
export interface EyeReading {
  /** Place of the subject among the pulls, 1 the first; null when it is none of them, or no subject is marked. */
  readonly subject: number | null;
  /** Local contrast inside the subject over that outside; null where no subject is marked. */
  readonly selective: number | null;
}

/** A pull counts as the subject's when so much of the subject lies where it is. */
const WITHIN = 0.3;

/** Whether a pull lies in an area, given row by row at any size. */
export function liesIn(pull: Pick<Pull, "x" | "y">, area: Area): boolean {
  const x = Math.min(area.width - 1, Math.floor(pull.x * area.width));
  const y = Math.min(area.height - 1, Math.floor(pull.y * area.height));
  // Roughly drawn marks: a cell beside counts too.
  for (let v = Math.max(0, y - 3); v <= Math.min(area.height - 1, y + 3); v++)
    for (let u = Math.max(0, x - 3); u <= Math.min(area.width - 1, x + 3); u++)
      if (area.mask[v * area.width + u] > WITHIN) return true;
  return false;
}

/** How much of each pixel belongs to something, 0–1, row by row. */
export interface Area {
  readonly width: number;
  readonly height: number;
  readonly mask: Float32Array;
}

/** How much of an area lies at a place of the frame, 0–1; none of one that is not there. */
export function shareAt(area: Area | null | undefined, x: number, y: number): number {
  if (!area) return 0;
  const u = Math.min(area.width - 1, Math.floor(x * area.width));
  const v = Math.min(area.height - 1, Math.floor(y * area.height));
  return area.mask[v * area.width + u];
}

/** Which of the pulls is the subject's, and how much more contrast it has than the rest. */
export function readEye(seen: Squint, subject: Area | null): EyeReading {
  if (!subject) return { subject: null, selective: null };
  const at = seen.pulls.findIndex((pull) => liesIn(pull, subject));
  const { width, height } = seen;
  const fits = subject.width === width && subject.height === height;
  const [sums, weights] = [[0, 0], [0, 0]]; // prettier-ignore
  for (let y = 1; y < height - 1 && fits; y++)
    for (let x = 1; x < width - 1; x++) {
      const i = y * width + x;
      const step = Math.hypot(seen.seen[i + 1] - seen.seen[i - 1], seen.seen[i + width] - seen.seen[i - width]);
      const share = subject.mask[i];
      sums[0] += share * step;
      weights[0] += share;
      sums[1] += (1 - share) * step;
      weights[1] += 1 - share;
    }
  const [inside, outside] = [0, 1].map((k) => (weights[k] > 1 ? sums[k] / weights[k] : 0));
  return { subject: at < 0 ? null : at + 1, selective: outside > 0 && inside > 0 ? inside / outside : null };
}
