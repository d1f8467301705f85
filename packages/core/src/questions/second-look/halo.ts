import type { Finding } from "../../judge/finding.ts";
import { mended, type LookedPrint } from "./looked-print.ts";
import { measureHalo } from "../../judge/halo.ts";
import { where } from "../../judge/words.ts";
import { defaultRecipe } from "../../recipe/defaults.ts";
import type { Recipe } from "../../recipe/schema.ts";
import { softened, withoutSpatial } from "./spatial-work.ts";

/** A halo less than this is not told, L*. */
const TOLD = 3.2;

/** A recipe that prints the light as it is: what blown whites and blocked darks have swallowed is seen again. */
const withoutTones = (recipe: Recipe): Recipe => ({ ...withoutSpatial(recipe), shape: defaultRecipe().shape });

/** Light and dark bands about edges that spatial work has made. */
export async function haloLook(print: LookedPrint): Promise<Finding[]> {
  const plain = await print.lightnessOf(withoutSpatial(print.recipe));
  const { width, height } = print.view;
  const halo =
    measureHalo(print.lightness, plain, width, height) ??
    measureHalo(print.lightness, plain, width, height, await print.lightnessOf(withoutTones(print.recipe)));
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
