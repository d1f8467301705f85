import type { Finding } from "../../judge/finding.ts";
import { mended, type LookedPrint } from "./looked-print.ts";
import { measureHalo } from "../../judge/halo.ts";
import { where } from "../../judge/words.ts";
import { softened, withoutSpatial } from "./spatial-work.ts";

/** A halo less than this is not told, L*. */
const TOLD = 3.2;

/** Light and dark bands about edges that spatial work has made. */
export async function haloLook(print: LookedPrint): Promise<Finding[]> {
  const plain = await print.lightnessOf(withoutSpatial(print.recipe));
  const halo = measureHalo(print.lightness, plain, print.view.width, print.view.height);
  if (!halo || halo.lightness < TOLD) return [];
  return [
    {
      id: "halo",
      kind: "halo",
      text: `Edges have a halo of ${halo.lightness.toFixed(1)} L*, such as at ${where(halo)}.`,
      weight: halo.lightness / TOLD,
      place: { x: halo.x, y: halo.y },
      mend: mended(print.recipe, "Halve what makes it", softened),
    },
  ];
}
