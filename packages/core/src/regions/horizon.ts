import { median } from "../maths/median.ts";
import type { Size } from "../maths/rect.ts";
import type { PlanarPicture } from "./superpixels.ts";

/** Blue light falls by so many stops at least where land begins, and by so many times what it usually changes by in the sky. */
const LEAST_FALL = 0.1;
const TIMES_USUAL = 4;
/** From cloud to sky red falls far more than blue does; blue falls by at least this share of red where land begins. */
const BLUE = 0.5;
/** Cells over which the light above a border may fall by no more than this share of the step at it: clouds end softly, hills do not. */
const SOFT = 6;
const SOFTLY = 0.6;
/** Share of all by which light falls about a border that it falls by at once: mist has none. */
const CRISP = 0.6;
/** Cells below a border whose light stays down, and the share of the step by which it does: behind a branch there is sky again. */
const STAYS = 8;
const STAYED = 0.6;
/** Cells to each side over which a border goes on where it is not seen. */
const GOES_ON = 3;
/** Share of the picture from which on a part beyond the border is land, or water. */
const LARGE = 0.008;
/** Such a part is sky when it differs from that above by less than so many stops of blue, and is bluer than red by more than so many. */
const AS_LIGHT = 0.15;
const DEEPLY_BLUE = 1;
/** Stops by which land is darker than the sky, and by which sky is darker than the sky above it at most. */
const DARKER = 0.3;
const NO_DARKER = 0.05;
/** Cells, from its line up and down, that a thin thing before the sky takes at most, and those above it that its edge may reach into. */
const THIN = 20;
const BESIDE = 4;
/** Stops by which the sky behind a thing is darker or lighter under it than above it at most. */
const BEHIND = { darker: 0.08, lighter: 0.3 } as const;
/** A line over things for this share of the picture is no horizon; so many such are looked behind. */
const MOSTLY = 0.5;
const MOST_THINGS = 8;
/** What a line across the picture costs a cell of land or border, where open sky costs 1, and for its depth, a column. */
const ALONG = 0.02;
const DEPTH = 0.7;
/** A border that leaves less than this of a sky is none. */
const LEAST_LEFT = 0.3;

/** Of cells that look like sky, 1 for each, those above the horizon. */
export type AboveHorizon = (sky: Uint8Array) => Uint8Array;

/**
 * What of a sky lies above the uppermost border under which there is land: where light falls from one cell to the next, going down, and
 * stays low. Haze makes hills, and water under them, as light and blue as a sky, but not their outlines soft. The border is a line
 * over the whole width that crosses little open sky, so a branch or a dark cloud ends nothing.
 */
export function horizonOf({ width, height, planes }: PlanarPicture): AboveHorizon {
  const size = { width, height };
  const stops = rowsOfThree(planes[2], width, height);
  const red = rowsOfThree(planes[0], width, height);
  const fall = new Float32Array(width * height);
  for (let y = 1; y < height - 3; y++)
    for (let i = y * width; i < (y + 1) * width; i++) fall[i] = fallUnder(stops, i, width);
  return (sky) => {
    const usual: number[] = [];
    for (let y = 1; y < height - 3; y++)
      for (let x = 0; x < width; x++) {
        const i = y * width + x;
        if (sky[i] && (x + y) % 7 === 0) usual.push(Math.abs(fall[i]));
      }
    const least = Math.max(LEAST_FALL, TIMES_USUAL * median(usual));
    const ends = new Uint8Array(width * height);
    for (let y = 1; y < height - 3; y++)
      for (let x = 0; x < width; x++) {
        const i = y * width + x;
        if (fall[i] < least || fall[i] < BLUE * fallUnder(red, i, width)) continue;
        if (!isBorder(stops, fall[i], i, y, width, height)) continue;
        for (let u = Math.max(0, x - GOES_ON); u <= Math.min(width - 1, x + GOES_ON); u++) ends[y * width + u] = 1;
      }
    // Land is darker than the sky: what is not is cloud that was not known for it.
    const usualLight = median(stops.filter((_, i) => sky[i]));
    const land = new Uint8Array(sky.length);
    const lowest = Array.from({ length: width }, (_, x) => (height - 1) * width + x);
    connected(size, lowest, land, (i) => !sky[i]);
    const dark = land.map((value, i) => (stops[i] < usualLight - DARKER ? value : 0));
    let line = uppermostLine(size, land, dark, ends);
    for (let tries = 0; tries < MOST_THINGS && looksBehind(size, line, [stops, red], sky, dark, ends); tries++)
      line = uppermostLine(size, land, dark, ends);
    // What is as light as the sky and deeply blue is neither land nor water, nor is what is no darker than the sky on which it borders.
    const isSky = (part: readonly number[]) => {
      const light = median(part.map((i) => stops[i]));
      const isBlue = median(part.map((i) => stops[i] - red[i])) > DEEPLY_BLUE;
      if (isBlue && Math.abs(light - usualLight) < AS_LIGHT) return true;
      const over = skyOver(size, part, (i) => sky[i] === 1 && !dark[i]);
      return over !== null && light > median(over.map((i) => stops[i])) - NO_DARKER;
    };
    const under = sky.map((value, i) => (Math.floor(i / width) > line[i % width] ? value : 0));
    const beyond = largeParts(size, under, isSky);
    const above = sky.map((value, i) => value & ~beyond[i]);
    const count = (cells: Uint8Array) => cells.reduce((sum, cell) => sum + cell, 0);
    return count(above) < LEAST_LEFT * count(sky) ? sky : above;
  };
}

/**
 * Whether a line across the picture runs mostly over thin things, such as cables, behind which the sky goes on: these are then taken for
 * land no longer.
 */
function looksBehind(
  { width, height }: Size,
  line: Int32Array,
  lights: readonly Float32Array[],
  sky: Uint8Array,
  dark: Uint8Array,
  ends: Uint8Array,
): boolean {
  const isOpen = (i: number) => sky[i] === 1 && !dark[i] && !ends[i];
  const things: (readonly [number, number])[] = [];
  for (let x = 0; x < width; x++) {
    let above = line[x];
    while (above > 0 && line[x] - above < THIN && !isOpen(above * width + x)) above--;
    if (!isOpen(above * width + x)) continue;
    const from = Math.max(0, above - BESIDE) * width + x;
    const goesOn = (i: number) =>
      sky[i] === 1 &&
      lights.every((stops) => stops[i] > stops[from] - BEHIND.darker && stops[i] < stops[from] + BEHIND.lighter);
    const last = Math.min(height - 3, line[x] + THIN);
    let below = line[x];
    while (below < last && ![0, 1, 2].every((k) => goesOn((below + k) * width + x))) below++;
    if (below < last) things.push([from, below * width + x]);
  }
  if (things.length < MOSTLY * width) return false;
  for (const [from, to] of things) for (let i = from; i <= to; i += width) dark[i] = ends[i] = 0;
  return true;
}

/** Cells of sky a little above a part; null where most of it does not lie directly under sky. */
function skyOver({ width }: Size, part: readonly number[], isOpen: (i: number) => boolean): number[] | null {
  const tops = new Map<number, number>();
  for (const i of part) if (i < (tops.get(i % width) ?? Infinity)) tops.set(i % width, i);
  const over = [...tops.values()].flatMap((top) => {
    const above = top - SOFT * width;
    return above >= 0 && isOpen(above) ? [above] : [];
  });
  return 2 * over.length > tops.size ? over : null;
}

/** The connected parts that take a share of the picture, since gaps between trees are sky, and are not left out. */
function largeParts(size: Size, cells: Uint8Array, isLeftOut: (part: readonly number[]) => boolean): Uint8Array {
  const out = new Uint8Array(cells.length);
  const seen = new Uint8Array(cells.length);
  cells.forEach((value, i) => {
    if (!value || seen[i]) return;
    const part = connected(size, [i], seen, (j) => cells[j] === 1);
    if (part.length >= LARGE * cells.length && !isLeftOut(part)) for (const j of part) out[j] = 1;
  });
  return out;
}

/** Cells that hang together with some over such as may be passed; marks them as seen. */
function connected({ width }: Size, from: readonly number[], seen: Uint8Array, may: (i: number) => boolean): number[] {
  const found: number[] = [];
  const come = (i: number) => {
    if (i < 0 || i >= seen.length || seen[i] || !may(i)) return;
    seen[i] = 1;
    found.push(i);
  };
  from.forEach(come);
  for (let k = 0; k < found.length; k++) {
    const i = found[k];
    if (i % width > 0) come(i - 1);
    if (i % width < width - 1) come(i + 1);
    come(i - width);
    come(i + width);
  }
  return found;
}

/**
 * The line across a picture that crosses the least open sky and leaves the least above it: its lowest cell of each column, by the least
 * cost from column to column. Up and down it goes over all land alike: walls in the sun are as light as the sky beside them.
 */
function uppermostLine({ width, height }: Size, land: Uint8Array, dark: Uint8Array, ends: Uint8Array): Int32Array {
  const costOf = (i: number) => (dark[i] || ends[i] ? ALONG : 1);
  const costUpright = (i: number) => (land[i] ? ALONG : costOf(i));
  const depth = (y: number) => (DEPTH * y) / height;
  let cost = Float64Array.from({ length: height }, (_, y) => costOf(y * width) + depth(y));
  // From where each cell is come upon: 0 from the left, 1 from above, 2 from below.
  const from = new Uint8Array(width * height);
  for (let x = 0; x < width; x++) {
    if (x > 0) cost = cost.map((before, y) => before + costOf(y * width + x) + depth(y));
    for (let y = 1; y < height; y++) {
      const way = cost[y - 1] + costUpright(y * width + x);
      if (way < cost[y]) [cost[y], from[y * width + x]] = [way, 1];
    }
    for (let y = height - 2; y >= 0; y--) {
      const way = cost[y + 1] + costUpright(y * width + x);
      if (way < cost[y]) [cost[y], from[y * width + x]] = [way, 2];
    }
  }
  const line = new Int32Array(width);
  let y = cost.indexOf(Math.min(...cost));
  for (let x = width - 1; x >= 0; x--) {
    line[x] = y;
    for (let step = from[y * width + x]; step; step = from[y * width + x]) {
      y += step === 1 ? -1 : 1;
      line[x] = Math.max(line[x], y);
    }
  }
  return line;
}

/** By how many stops light falls under a cell; the row after it may be of both. */
function fallUnder(stops: Float32Array, i: number, width: number): number {
  return (stops[i - width] + stops[i] - stops[i + 2 * width] - stops[i + 3 * width]) / 2;
}

/** Whether the fall of light under a cell is crisp and lasts. */
function isBorder(stops: Float32Array, fall: number, i: number, y: number, width: number, height: number): boolean {
  const before = stops[i - Math.min(SOFT, y) * width];
  if (before - stops[i] > SOFTLY * fall) return false;
  const last = Math.min(STAYS, height - 1 - y);
  let below = 0;
  for (let k = 2; k <= last; k++) below += stops[i + k * width];
  below /= last - 1;
  return stops[i] - below > STAYED * fall && CRISP * (before - below) < fall;
}

/** Stops of light, each over three cells of its row. */
function rowsOfThree(light: Float32Array, width: number, height: number): Float32Array {
  const out = new Float32Array(light.length);
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) {
      const at = y * width;
      const sum = light[at + Math.max(0, x - 1)] + light[at + x] + light[at + Math.min(width - 1, x + 1)];
      out[at + x] = Math.log2(Math.max(1e-4, sum / 3));
    }
  return out;
}
