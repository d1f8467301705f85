/** Width and height in pixels. */
export interface Size {
  readonly width: number;
  readonly height: number;
}

/** A rectangle of pixels. */
export interface Rect extends Size {
  readonly x: number;
  readonly y: number;
}

/** What two rectangles share; its width or height is 0 when that is nothing. */
export function intersect(a: Rect, b: Rect): Rect {
  const x = Math.max(a.x, b.x);
  const y = Math.max(a.y, b.y);
  const width = Math.min(a.x + a.width, b.x + b.width) - x;
  const height = Math.min(a.y + a.height, b.y + b.height) - y;
  return { x, y, width: Math.max(0, width), height: Math.max(0, height) };
}

/** True when a rectangle holds no pixel. */
export function isEmpty({ width, height }: Size): boolean {
  return width === 0 || height === 0;
}
