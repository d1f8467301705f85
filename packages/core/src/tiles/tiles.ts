import type { Size } from "../maths/rect.ts";

/** Raised whenever tiles of an older version would no longer give the same picture. */
export const PYRAMID_VERSION = 10;

/** Which tiles a capture has, where they go by a name: made by this version, of smoothed colours or of those in the file. */
export const tilesVersion = ({ smoothed = false }: { readonly smoothed?: boolean }): string =>
  `${PYRAMID_VERSION}${smoothed ? "s" : ""}`;
/** Edge of a tile, pixels; tiles at the right and bottom are cut to the picture. */
export const TILE_SIZE = 512;

/** A tile's place in the pyramid. Level 0 is full size, each further level half of the one before. */
export interface TilePlace {
  readonly level: number;
  readonly column: number;
  readonly row: number;
}

/**
 * The linear picture of a negative: for each tile three planes (red, green, blue; linear Rec.2020, half float, as shot)
 * of width·height values, one after the other. Their luminance is at most 1.0 = sensor white: where the capture measured
 * more (one channel saturates after the other), a fourth plane says by how much, and as much was taken from all three. The
 * two are averaged apart, so that a coarse level shows what the full size shows, which is cut at white first.
 */
export interface LinearTiles {
  readonly size: Size;
  /** @throws when the tile is not at hand. */
  tile(place: TilePlace): Uint16Array;
}

/** Number of levels, the last of which fits into one tile. */
export function levelCount({ width, height }: Size): number {
  let levels = 1;
  for (let edge = Math.max(width, height); edge > TILE_SIZE; edge = Math.ceil(edge / 2)) levels++;
  return levels;
}

/** Size of one level; halving rounds up. */
export function levelSize(size: Size, level: number): Size {
  const step = 2 ** level;
  return { width: Math.ceil(size.width / step), height: Math.ceil(size.height / step) };
}

/** Size of one tile. */
export function tileSize(size: Size, { level, column, row }: TilePlace): Size {
  const whole = levelSize(size, level);
  return {
    width: Math.min(TILE_SIZE, whole.width - column * TILE_SIZE),
    height: Math.min(TILE_SIZE, whole.height - row * TILE_SIZE),
  };
}

/** Where a tile begins in a file that holds one level's tiles row by row, and how long it is, in bytes. */
export function tileSpan(size: Size, place: TilePlace): { offset: number; bytes: number } {
  const whole = levelSize(size, place.level);
  const { width, height } = tileSize(size, place);
  const before = place.row * TILE_SIZE * whole.width + place.column * TILE_SIZE * height;
  return { offset: before * 6, bytes: width * height * 6 };
}

/** True when the pyramid of a picture has this tile. */
export function hasTile(size: Size, { level, column, row }: TilePlace): boolean {
  if (![level, column, row].every((n) => Number.isInteger(n) && n >= 0) || level >= levelCount(size)) return false;
  const whole = levelSize(size, level);
  return column * TILE_SIZE < whole.width && row * TILE_SIZE < whole.height;
}

/** A tile's place as it stands in names and addresses: "level/column/row". */
export function tileKey({ level, column, row }: TilePlace): string {
  return `${level}/${column}/${row}`;
}
