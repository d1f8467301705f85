import { luminanceToLightness } from "../../colour/lab.ts";
import type { EdgePlace } from "./edge-places.ts";
import { NEUTRAL_LABEL, type FamilyMap } from "./picture-colours.ts";

/** A whole print in small, and what plain luminance would make of it; reflectance 0–1. */
export interface SmallPrints {
  readonly width: number;
  readonly height: number;
  readonly print: Float32Array;
  readonly plain: Float32Array;
}

/** How far to either side a line is compared with what lies beside it, pixels. */
const SIDES = [2, 5] as const;
/** What of a line is the scene's own: so many times what plain luminance shows of it. */
const OWN = 2;
/** A line less strong than this is none, L*. */
const FAINTEST = 1.5;
/** Pixels along a field of which one place is kept. */
const FIELD = 12;
/** Least distance of two places, widths or heights of the picture. */
const SPREAD = 0.05;
/** How far around a place it is asked which groups meet there, pixels of the map. */
const AROUND = 5;
/** Steps of the square root of light in which lightness is looked up. */
const STEPS = 2048;

const LIGHTNESS = Float32Array.from({ length: STEPS + 1 }, (_, i) => luminanceToLightness((i / STEPS) ** 2));

/**
 * Places where groups meet and the print shows a line that plain luminance does not, darker or lighter than both sides; the strongest first,
 * spread over the picture. A line is looked for in four directions.
 */
export function linePlaces(map: FamilyMap, prints: SmallPrints, most: number): EdgePlace[] {
  const { width, height } = prints;
  const strengths = lineStrengths(prints);
  const fields: { strength: number; at: number }[] = [];
  for (let top = 0; top < height; top += FIELD)
    for (let left = 0; left < width; left += FIELD) {
      const best = { strength: FAINTEST, at: -1 };
      for (let y = top; y < Math.min(top + FIELD, height); y++)
        for (let x = left; x < Math.min(left + FIELD, width); x++) {
          const at = y * width + x;
          if (strengths[at] > best.strength) Object.assign(best, { strength: strengths[at], at });
        }
      if (best.at >= 0) fields.push(best);
    }
  fields.sort((p, q) => q.strength - p.strength);
  const found: EdgePlace[] = [];
  for (const { at } of fields) {
    if (found.length === most) break;
    const [x, y] = [((at % width) + 0.5) / width, (Math.floor(at / width) + 0.5) / height];
    if (found.some((other) => Math.hypot(other.x - x, other.y - y) < SPREAD)) continue;
    const groups = groupsAbout(map, x, y);
    if (groups) found.push({ x, y, ...groups });
  }
  return found;
}

/** How far each pixel lies beyond both of its sides, less what it does in plain luminance, L*. */
function lineStrengths({ width, height, print, plain }: SmallPrints): Float32Array {
  const [made, was] = [print, plain].map((plane) =>
    Float32Array.from(plane, (v) => LIGHTNESS[(STEPS * Math.sqrt(Math.min(1, Math.max(0, v))) + 0.5) | 0]),
  );
  const beyond = (tone: Float32Array, i: number, step: number) => {
    const [here, one, other] = [tone[i], tone[i - step], tone[i + step]];
    return here > one ? Math.max(0, here - Math.max(one, other)) : Math.min(0, here - Math.min(one, other));
  };
  const out = new Float32Array(width * height);
  const border = Math.max(...SIDES);
  for (const side of SIDES)
    for (const step of [side, side * width, side * (width + 1), side * (width - 1)])
      for (let y = border; y < height - border; y++)
        for (let i = y * width + border; i < (y + 1) * width - border; i++) {
          const line = beyond(made, i, step);
          if (line === 0) continue;
          const own = beyond(was, i, step);
          const strength = Math.abs(line) - (line * own > 0 ? OWN * Math.abs(own) : 0);
          if (strength > out[i]) out[i] = strength;
        }
  return out;
}

/** The two groups that most pixels about a place belong to; null where there is but one. */
function groupsAbout({ labels, width, height, facts }: FamilyMap, x: number, y: number) {
  const counts = new Uint32Array(facts.length);
  const [column, row] = [Math.floor(x * width), Math.floor(y * height)];
  for (let v = Math.max(0, row - AROUND); v <= Math.min(height - 1, row + AROUND); v++)
    for (let u = Math.max(0, column - AROUND); u <= Math.min(width - 1, column + AROUND); u++) {
      const label = labels[v * width + u];
      counts[label === NEUTRAL_LABEL ? facts.length - 1 : label]++;
    }
  const [first, second] = [...counts.keys()].sort((p, q) => counts[q] - counts[p]);
  return second !== undefined && counts[second] > 0 ? { first, second } : null;
}
