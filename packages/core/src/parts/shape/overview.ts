import type { GraphPrint, Need } from "../../graph/stage.ts";
import type { Rect } from "../../maths/rect.ts";
import { levelCount, levelSize, TILE_SIZE } from "../../tiles/tiles.ts";
import { aroundOnLevel } from "./guided-base.ts";

/** What a rectangle reads of a stage that is computed for the whole frame on its overview, whatever the view's level. */
export function onOverview<P extends GraphPrint>(stage: string, print: P, level: number, rect: Rect): Need<P> {
  const at = overviewLevel(print);
  return { stage, level: at, rect: level > at ? wholeFrame(print, at) : aroundOnLevel(rect, level, at) };
}

/** The finest level on which negative and frame fit into one tile each. */
export function overviewLevel({ negative, frame }: GraphPrint): number {
  let level = levelCount(negative) - 1;
  while (Math.max(levelSize(frame, level).width, levelSize(frame, level).height) > TILE_SIZE) level++;
  return level;
}

/** All pixels of the frame on a level. */
export function wholeFrame({ frame }: GraphPrint, level: number): Rect {
  return { x: 0, y: 0, ...levelSize(frame, level) };
}
