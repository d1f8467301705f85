import type { Rect, Size } from "../maths/rect.ts";
import { levelCount, levelSize, TILE_SIZE, type TilePlace } from "./tiles.ts";

/** Part of a print at some scale: the rectangle counts pixels of the whole frame scaled by `scale`. */
export interface View extends Rect {
  /** Output pixels per full-size frame pixel. */
  readonly scale: number;
  /** Level to compute on: a whole one of the pyramid ({@link levelForScale} chooses one), or the view's own ({@link ownLevel}). */
  readonly level: number;
}

/** How far a view's own level may be from what its scale says, in pixels a pixel. */
const SAME_SCALE = 1e-9;

/** Whether a view is computed on its own pixels, so that nothing is scaled after. */
export function isOwnScale({ scale, level }: Pick<View, "scale" | "level">): boolean {
  return Math.abs(scale * 2 ** level - 1) < SAME_SCALE;
}

/**
 * The level whose pixels are the view's own, which may lie between two of the pyramid's: the least that can be computed. Curves do not
 * commute with averaging, so {@link exactLevel} comes nearer the export.
 */
export function ownLevel(scale: number, levels: number): number {
  const level = Math.log2(1 / scale);
  const whole = Math.round(level);
  const own = isOwnScale({ scale, level: whole }) ? whole : level;
  return Math.max(0, Math.min(levels - 1, own));
}

/** The whole frame at a scale, rounded to whole pixels, at least one. */
export function scaledSize(frame: Size, scale: number): Size {
  return {
    width: Math.max(1, Math.round(frame.width * scale)),
    height: Math.max(1, Math.round(frame.height * scale)),
  };
}

/**
 * The coarsest level that still has at least `density` computed pixels per output pixel along an edge. Tone curves
 * do not commute with averaging, so density 2 comes nearer the full-size render than 1, for four times the work.
 */
export function levelForScale(scale: number, levels: number, density: 1 | 2): number {
  const level = Math.floor(Math.log2(1 / scale) + 1e-9) - (density - 1);
  return Math.max(0, Math.min(levels - 1, level));
}

/** Pixels that may be computed to come nearer the export than density 2 does. */
const EXACT_PIXELS = 16e6;

/**
 * The level to compute a view on when there is time: density 2, or finer as long as that is not too much work, so that
 * the view of a smaller negative is the full-size render itself.
 * @param size - of the view, at `scale`.
 */
export function exactLevel({ width, height }: Size, scale: number, levels: number): number {
  let level = levelForScale(scale, levels, 2);
  while (level > 0 && (width * height) / (scale * 2 ** (level - 1)) ** 2 <= EXACT_PIXELS) level--;
  return level;
}

/** The whole frame, no larger than a long edge: for measuring and for small pictures. */
export function wholeView(frame: Size, negative: Size, longEdge: number): View {
  const scale = Math.min(1, longEdge / Math.max(frame.width, frame.height));
  return { x: 0, y: 0, ...scaledSize(frame, scale), scale, level: levelForScale(scale, levelCount(negative), 1) };
}

/**
 * The whole frame on a level's own pixels, the finest level with a long edge no larger than a bound: nothing is scaled, so that what two prints
 * differ by at a pixel is what was done there. Scaling swings over beside a step, and a quotient of two such pictures with it.
 */
export function levelView(frame: Size, negative: Size, longEdge: number): View {
  const levels = levelCount(negative);
  let level = 0;
  while (level < levels - 1 && Math.max(frame.width, frame.height) / 2 ** level > longEdge) level++;
  return { x: 0, y: 0, ...levelSize(frame, level), scale: 2 ** -level, level };
}

/** Places of the tiles that a rectangle of a level touches, row by row. */
export function placesIn({ x, y, width, height }: Rect, level: number): TilePlace[] {
  const places: TilePlace[] = [];
  for (let row = Math.floor(y / TILE_SIZE); row * TILE_SIZE < y + height; row++)
    for (let column = Math.floor(x / TILE_SIZE); column * TILE_SIZE < x + width; column++)
      places.push({ level, column, row });
  return places;
}
