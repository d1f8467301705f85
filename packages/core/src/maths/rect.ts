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

/** A rectangle with a margin around it. Cut where it would begin before 0, so that places stay right; far sides are the reader's. */
export function grown({ x, y, width, height }: Rect, margin: number): Rect {
  return fromZero({ x: x - margin, y: y - margin, width: width + 2 * margin, height: height + 2 * margin });
}

/** What of a rectangle lies at or beyond 0. */
export function fromZero({ x, y, width, height }: Rect): Rect {
  const left = Math.max(0, x);
  const top = Math.max(0, y);
  return { x: left, y: top, width: width + x - left, height: height + y - top };
}
