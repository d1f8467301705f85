import type { Finding } from "../../judge/finding.ts";
import { mended, type LookedPrint } from "./looked-print.ts";
import { measureLean } from "../../judge/lean.ts";
import { fitCrop } from "../../parts/ground/crop.ts";
import { wholeCrop } from "../../parts/ground/geometry.ts";
import { defaultRecipe } from "../../recipe/defaults.ts";

/** A smaller or less clear lean is not told. */
const TOLD = { degrees: 0.7, clearness: 1.1 } as const;

/** A level that leans. */
export async function leanLook(print: LookedPrint): Promise<Finding[]> {
  // By the light of the capture: how it is printed moves no line.
  const plain = await print.lightnessOf({ ...defaultRecipe(), ground: print.recipe.ground });
  const lean = measureLean(plain, print.view.width, print.view.height);
  if (!lean || Math.abs(lean.degrees) < TOLD.degrees || lean.clearness < TOLD.clearness) return [];
  const turn = Math.round(10 * lean.degrees) / 10;
  return [
    {
      id: "lean",
      kind: "lean",
      text: `Its long lines lean by ${Math.abs(lean.degrees).toFixed(1)}°.`,
      weight: Math.abs(lean.degrees) / TOLD.degrees,
      place: null,
      mend: mended(print.recipe, `Straighten by ${turn}°`, (old) => {
        const ground = { ...old.ground, angleDegrees: Math.max(-45, Math.min(45, old.ground.angleDegrees + turn)) };
        const { crop } = ground;
        return { ...old, ground: { ...ground, crop: crop && fitCrop(crop, wholeCrop(print.reader.size, ground)) } };
      }),
    },
  ];
}
