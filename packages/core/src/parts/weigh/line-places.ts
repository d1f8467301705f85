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
 * @param pause - awaited between directions, for it is long.
 */
export async function linePlaces(
  map: FamilyMap,
  prints: SmallPrints,
  most: number,
  pause = () => Promise.resolve(),
): Promise<EdgePlace[]> {
  const { width, height } = prints;
  const strengths = await lineStrengths(prints, pause);
  const fields: { strength: number; at: number }[] = [];
  for (let top = 0; top < height; top += FIELD)
    for (let left = 0; left < width; left += FIELD) {
      let [strength, best] = [FAINTEST, -1];
      for (let y = top; y < Math.min(top + FIELD, height); y += 2)
        for (let x = left; x < Math.min(left + FIELD, width); x += 2) {
          const at = y * width + x;
          if (strengths[at] <= strength) continue;
          strength = strengths[at];
          best = at;
        }
      if (best >= 0) fields.push({ strength, at: best });
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

/** How far every other pixel of every other row lies beyond both of its sides, less what it does in plain luminance, L*; 0 elsewhere. */
async function lineStrengths(
  { width, height, print, plain }: SmallPrints,
  pause: () => Promise<void>,
): Promise<Float32Array> {
  const [made, was] = [lightnessOf(print), lightnessOf(plain)];
  const out = new Float32Array(width * height);
  const border = 2 * Math.ceil(Math.max(...SIDES) / 2);
  for (const side of SIDES)
    for (const step of [side, side * width, side * (width + 1), side * (width - 1)]) {
      await pause();
      for (let y = border; y < height - border; y += 2)
        for (let i = y * width + border, end = (y + 1) * width - border; i < end; i += 2) {
          const line = beyond(made, i, step);
          if (line < FAINTEST && line > -FAINTEST) continue;
          const own = beyond(was, i, step);
          const size = line < 0 ? -line : line;
          const strength = line * own > 0 ? size - OWN * (own < 0 ? -own : own) : size;
          if (strength > out[i]) out[i] = strength;
        }
    }
  return out;
}

/** How far a tone lies over (or, below 0, under) those on both sides. */
function beyond(tone: Float32Array, i: number, step: number): number {
  const here = tone[i];
  const over = here - tone[i - step];
  const overOther = here - tone[i + step];
  if (over > 0 && overOther > 0) return over < overOther ? over : overOther;
  if (over < 0 && overOther < 0) return over > overOther ? over : overOther;
  return 0;
}

function lightnessOf(plane: Float32Array): Float32Array {
  const out = new Float32Array(plane.length);
  for (let i = 0; i < plane.length; i++) {
    const light = plane[i];
    out[i] = LIGHTNESS[light > 0 ? (STEPS * Math.sqrt(light < 1 ? light : 1) + 0.5) | 0 : 0];
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
