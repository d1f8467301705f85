import { luminanceToLightness } from "../../colour/lab.ts";
import { smooth3 } from "../../maths/smooth3.ts";

/** A piece of a picture at full size about an edge. */
export interface EdgePatch {
  readonly width: number;
  readonly height: number;
  /** Linear working red, green, blue. */
  readonly colour: readonly [Float32Array, Float32Array, Float32Array];
  /** What is printed of them, and what plain luminance would print; reflectance 0–1. */
  readonly print: Float32Array;
  readonly plain: Float32Array;
  /** What would be printed if mixtures of families belonged to each by its light; left out where they do. */
  readonly byLight?: Float32Array;
}

/** What a conversion did to an edge, beyond what plain luminance shows of it. */
export interface EdgeDamage {
  /** How far a line along the edge leaves the greys of both sides, L*. */
  readonly contour: number;
  /** How much more jagged the edge runs, pixels. */
  readonly stairPx: number;
  /** How far colours in which the sides mix print beyond all that mixing by light prints about them, L*. */
  readonly mixing: number;
  /** Height of the step between the sides, L*. */
  readonly step: number;
}

/** What of an edge's damage is seen: a line, colours beyond their mixtures (L*), a jagged run (pixels). */
const SEEN = { contour: 3, mixing: 1.5, stairPx: 0.4 } as const;

/** What of an edge's damage is seen, the worst first to be told; null when no reader would find it. */
export function seenDamage(damage: EdgeDamage): "contour" | "mixing" | "stairs" | null {
  if (lineOf(damage) >= 1) return damage.mixing / SEEN.mixing > damage.contour / SEEN.contour ? "mixing" : "contour";
  return damage.stairPx >= SEEN.stairPx ? "stairs" : null;
}

/** Whether one edge is damaged worse than another: a line along it is seen before jagged steps are. */
export function isWorseEdge(one: EdgeDamage, other: EdgeDamage): boolean {
  const badness = (damage: EdgeDamage) => lineOf(damage) + damage.stairPx / SEEN.contour;
  return badness(one) > badness(other);
}

/** How plainly a line is seen; from 1 it is. */
function lineOf({ contour, mixing }: EdgeDamage): number {
  return Math.max(contour / SEEN.contour, mixing / SEEN.mixing);
}

/** Colours that spread by less than this share of their mean have no edge between them. */
const LEAST_SPREAD = 0.12;
/** Share of the way between two colours at either end that is taken for one side. */
const SIDE_SHARE = 0.15;
/** A mixture lies within this share of the colours' distance of the line between them; what does not is a third thing. */
const OFF_LINE = 0.2;
/** Fewer mixed pixels tell nothing. */
const FEWEST = 8;
/** Share of the mixed pixels that may lie farther out than what is told. */
const OUTERMOST = 0.06;
/** How far about a pixel what mixing by light prints is looked at, pixels. */
const ABOUT = 2;

/**
 * Contour lines and stair-steps that a conversion made at an edge. Along an edge two colours mix, so every pixel between
 * them is to print between their greys; a line that is darker or lighter than both is damage. Pixels are averaged
 * with their neighbours, so that noise counts little; what plain luminance shows as well is the scene's own.
 * @returns null when the patch has no edge.
 */
export function edgeDamage({ width, height, colour, print, plain, byLight }: EdgePatch): EdgeDamage | null {
  const smooth = colour.map((plane) => smooth3(plane, width, height));
  const along = alongMixture(smooth);
  if (!along) return null;
  const lightness = (plane: Float32Array) =>
    smooth3(plane.map((v) => luminanceToLightness(Math.min(1, Math.max(0, v)))), width, height); // prettier-ignore
  const tone = lightness(print);
  const made = contourOf(tone, along);
  const was = contourOf(lightness(plain), along);
  if (!made || !was) return null;
  const middle = (made.first + made.second) / 2;
  const usual = (was.first + was.second) / 2;
  const stairPx = raggedness(tone, width, height, middle) - raggedness(lightness(plain), width, height, usual);
  return {
    contour: Math.max(0, made.beyond - was.beyond),
    stairPx: Math.max(0, stairPx),
    mixing: byLight ? beyondMixtures(tone, lightness(byLight), along, width) : 0,
    step: Math.abs(made.first - made.second),
  };
}

/** For each pixel how far it lies from one side's colour to the other's, 0–1; NaN for what is no mixture of the two. */
function alongMixture(colour: readonly Float32Array[]): Float32Array | null {
  const n = colour[0].length;
  const mean = colour.map((plane) => plane.reduce((sum, v) => sum + v, 0) / n);
  const covariance = mean.map((_, r) =>
    mean.map((_, c) => colour[r].reduce((sum, v, i) => sum + (v - mean[r]) * (colour[c][i] - mean[c]), 0) / n),
  );
  let axis = [1, 0.6, 0.3];
  for (let round = 0; round < 40; round++) {
    const next = covariance.map((row) => row.reduce((sum, v, c) => sum + v * axis[c], 0));
    const length = Math.hypot(...next);
    if (!(length > 0)) return null;
    axis = next.map((v) => v / length);
  }
  const places = Float32Array.from({ length: n }, (_, i) =>
    axis.reduce((sum, a, c) => sum + a * (colour[c][i] - mean[c]), 0),
  );
  const sorted = Float32Array.from(places).sort();
  const [low, high] = [sorted[Math.floor(0.05 * n)], sorted[Math.floor(0.95 * n)]];
  if (high - low < LEAST_SPREAD * Math.hypot(...mean)) return null;
  return places.map((place, i) => {
    const off = Math.hypot(...axis.map((a, c) => colour[c][i] - mean[c] - a * place));
    return off > OFF_LINE * (high - low) ? NaN : Math.min(1, Math.max(0, (place - low) / (high - low)));
  });
}

/**
 * How far pixels of the two colours lie beyond what they and those about them should be, L*, but for the outermost few; the ends are mixtures too where
 * neither is pure. An edge that only lies a little to one side is none the worse.
 */
function beyondMixtures(tone: Float32Array, should: Float32Array, along: Float32Array, width: number): number {
  const height = should.length / width;
  const about = (x: number, y: number) => {
    let [least, most] = [Infinity, -Infinity];
    for (let v = Math.max(0, y - ABOUT); v <= Math.min(height - 1, y + ABOUT); v++)
      for (let u = Math.max(0, x - ABOUT); u <= Math.min(width - 1, x + ABOUT); u++) {
        const value = should[v * width + u];
        if (value < least) least = value;
        if (value > most) most = value;
      }
    return [least, most];
  };
  const beyond: number[] = [];
  along.forEach((share, i) => {
    if (!(share >= 0)) return;
    const [least, most] = about(i % width, Math.floor(i / width));
    beyond.push(Math.max(0, tone[i] - most, least - tone[i]));
  });
  return beyond.sort((p, q) => q - p)[Math.floor(OUTERMOST * beyond.length)];
}

function isMixed(share: number): boolean {
  return share >= SIDE_SHARE && share <= 1 - SIDE_SHARE;
}

/** The greys of both sides, and how far mixed pixels lie beyond the darkest and lightest of them, L*. */
function contourOf(tone: Float32Array, along: Float32Array) {
  const sides: number[][] = [[], []];
  const mixed: number[] = [];
  along.forEach((share, i) => {
    if (share < SIDE_SHARE) sides[0].push(tone[i]);
    else if (share > 1 - SIDE_SHARE) sides[1].push(tone[i]);
    else if (isMixed(share)) mixed.push(tone[i]);
  });
  if (sides.some(({ length }) => length < FEWEST) || mixed.length < FEWEST) return null;
  for (const side of sides) side.sort((p, q) => p - q);
  const at = (side: number[], share: number) => side[Math.floor(share * (side.length - 1))];
  const lightest = Math.max(...sides.map((side) => at(side, 0.9)));
  const darkest = Math.min(...sides.map((side) => at(side, 0.1)));
  const beyond = mixed.map((l) => Math.max(0, l - lightest, darkest - l)).sort((p, q) => q - p);
  return {
    first: at(sides[0], 0.5),
    second: at(sides[1], 0.5),
    beyond: beyond[Math.floor(OUTERMOST * mixed.length)],
  };
}

/** How far the crossing of a level wanders about a smooth line, pixels: along rows or columns, whichever cross it more often. */
function raggedness(values: Float32Array, width: number, height: number, level: number): number {
  const crossings = (lines: number, length: number, at: (line: number, i: number) => number) => {
    const found: number[] = [];
    for (let line = 0; line < lines; line++)
      for (let i = 1; i < length; i++) {
        const [p, q] = [at(line, i - 1) - level, at(line, i) - level];
        if (p * q > 0 || p === q) continue;
        found.push(i - 1 + p / (p - q));
        break;
      }
    return found;
  };
  const rows = crossings(height, width, (y, x) => values[y * width + x]);
  const columns = crossings(width, height, (x, y) => values[y * width + x]);
  const places = rows.length >= columns.length ? rows : columns;
  const bends = places.slice(2).map((place, i) => place - 2 * places[i + 1] + places[i]);
  // Second differences of independent wanderings have √6 times their deviation, which is √(π/2) times their mean size.
  const mean = bends.reduce((sum, bend) => sum + Math.min(2, Math.abs(bend)), 0) / bends.length;
  return bends.length > 4 ? (mean * Math.sqrt(Math.PI / 2)) / Math.sqrt(6) : 0;
}
