import type { Size } from "@yelm/core";
import type { Placement } from "../../picture/placement.ts";

/**
 * Places a frame as another one lies: no larger than it, its middle on its middle, with what is seen of the other one seen of it.
 * @param frame - in pixels of its own.
 */
export function likePlaced(frame: Size, like: Placement): Placement {
  const scale = Math.min(like.width / frame.width, like.height / frame.height);
  const [width, height] = [frame.width, frame.height].map((length) => Math.max(1, Math.round(length * scale)));
  const left = like.left + Math.round((like.width - width) / 2);
  const top = like.top + Math.round((like.height - height) / 2);
  // What of the pane is seen, cut to this picture.
  const [seenLeft, seenTop] = [like.left + like.visible.x, like.top + like.visible.y];
  const x = Math.min(width - 1, Math.max(0, seenLeft - left));
  const y = Math.min(height - 1, Math.max(0, seenTop - top));
  const right = Math.min(width, seenLeft + like.visible.width - left);
  const bottom = Math.min(height, seenTop + like.visible.height - top);
  const visible = { x, y, width: Math.max(1, right - x), height: Math.max(1, bottom - y) };
  return { scale, dpr: like.dpr, left, top, width, height, visible };
}
