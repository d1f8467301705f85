import type { Finding } from "../../judge/finding.ts";
import { mended, type LookedPrint } from "./looked-print.ts";
import { densityDeviation, emulsionOf } from "../../parts/finish/emulsion.ts";
import { FORMAT_LONG_EDGE_MM } from "../../parts/finish/grain.ts";

/** Densities that waver less are not told. */
const TOLD = 0.055;

/** Grain that is coarse on a print of 40 cm seen from half a metre: what the eye resolves there, a minute of arc. */
export function grainLook(print: LookedPrint): Finding[] {
  const { grain } = print.recipe.finish;
  if (grain.granularity === 0) return [];
  const enlarged = 400 / FORMAT_LONG_EDGE_MM[grain.format];
  const apertureUm = 145 / enlarged;
  const seen = densityDeviation(emulsionOf(grain), 0.7, apertureUm);
  if (seen < TOLD) return [];
  return [
    {
      id: "coarse grain",
      kind: "coarse grain",
      text: `Grain on a print of 40 cm is coarse: densities waver by ${seen.toFixed(3)} to the eye.`,
      weight: seen / TOLD,
      place: null,
      mend: mended(print.recipe, "Grain by a third less", (old) => ({
        ...old,
        finish: { ...old.finish, grain: { ...grain, granularity: Math.round(grain.granularity * 0.67) } },
      })),
    },
  ];
}
