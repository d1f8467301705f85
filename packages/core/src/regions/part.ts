import { cellsOfPatches } from "./seeds.ts";
import type { Superpixels } from "./superpixels.ts";

/** Patches, or cells, of a region, and those that may belong to it by parts; 1 for each. */
export interface Part {
  readonly inside: Uint8Array;
  readonly unsure: Uint8Array;
}

/** A part of a picture's patches by its cells. */
export const byCells = (cut: Superpixels, { inside, unsure }: Part): Part => ({
  inside: cellsOfPatches(cut, inside),
  unsure: cellsOfPatches(cut, unsure),
});
