import type { Size } from "../maths/rect.ts";
import { votingTiles } from "../parts/weigh/vote-tiles.ts";
import type { Recipe } from "../recipe/schema.ts";
import { levelCount, levelSize, tileKey, type TilePlace } from "../tiles/tiles.ts";
import { ownLevel, placesIn } from "../tiles/view.ts";

/**
 * Tiles that the first picture of a print will very likely read, in the order of need, known before anything of it is made ready: those
 * whose colours vote, and those of the whole print at about a size.
 * @param longEdge - of the picture as it is shown, device pixels.
 */
export function firstTiles({ weigh }: Pick<Recipe, "weigh">, negative: Size, longEdge: number): TilePlace[] {
  const movesColours = weigh.by === "film" || weigh.families.some(({ stops }) => stops !== 0);
  const scale = Math.min(1, longEdge / Math.max(negative.width, negative.height));
  const level = Math.floor(ownLevel(scale, levelCount(negative)));
  const shown = placesIn({ x: 0, y: 0, ...levelSize(negative, level) }, level);
  const all = [...(movesColours ? votingTiles(negative) : []), ...shown];
  return [...new Map(all.map((place) => [tileKey(place), place])).values()];
}
