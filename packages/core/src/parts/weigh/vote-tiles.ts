import type { Size } from "../../maths/rect.ts";
import { levelSize, type TilePlace } from "../../tiles/tiles.ts";
import { placesIn } from "../../tiles/view.ts";

/** Votes are taken on the finest level of no more pixels than this. */
const MOST_VOTES = 3.2e6;

/** The level whose pixels vote: a matter of the negative alone, so that every view has the same field. */
export function voteLevel({ width, height }: Size): number {
  return Math.max(0, Math.ceil(Math.log2((width * height) / MOST_VOTES) / 2));
}

/** Tiles of the negative that are read before the light of any colour that is moved is known. */
export function votingTiles(negative: Size): TilePlace[] {
  const level = voteLevel(negative);
  return placesIn({ x: 0, y: 0, ...levelSize(negative, level) }, level);
}
