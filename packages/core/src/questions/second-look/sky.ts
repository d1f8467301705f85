import type { Finding } from "../../judge/finding.ts";
import { JUDGE_EDGE, mended, type LookedPrint } from "./looked-print.ts";
import { defaultRecipe } from "../../recipe/defaults.ts";
import { areaOf, moveOf, withMoves } from "../plan-areas.ts";
import { regionQuestions } from "../regions.ts";

/** A lighter sky is no ink, L*. */
const INK = 20;
/** A sky of the day has at least this lightness, or as much more than the middle of its picture, L*. */
const DAY = 40;
const ABOVE = 8;

/** A sky gone to ink. */
export async function skyLook(print: LookedPrint): Promise<Finding[]> {
  const ready = await regionQuestions.readyRegions(print.reader, { recipe: print.recipe });
  const sky = ready.find(({ shape }) => shape.of === "sky");
  if (!sky) return [];
  const area = await areaOf(print.reader, print.recipe, sky.shape, JUDGE_EDGE);
  let [sum, weight, sx, sy] = [0, 0, 0, 0];
  area.mask.forEach((share, i) => {
    sum += share * print.lightness[i];
    sx += share * (i % area.width);
    sy += share * Math.floor(i / area.width);
    weight += share;
  });
  if (weight < 0.02 * area.mask.length) return [];
  const lightness = sum / weight;
  const plain = await print.lightnessOf({ ...defaultRecipe(), ground: print.recipe.ground });
  let natural = 0;
  area.mask.forEach((share, i) => (natural += (share * plain[i]) / weight));
  // A night's sky is dark by itself; that of a day is lighter than most of its picture, however it was exposed.
  const middle = [...plain].sort((p, q) => p - q)[plain.length >> 1];
  if (lightness > INK || (natural < DAY && natural < middle + ABOVE)) return [];
  const stops = Math.min(
    2,
    Math.round(6 * (2.5 * Math.log2(116 / (lightness + 16)) - 2.5 * Math.log2(116 / (INK + 24)))) / 6,
  );
  return [
    {
      id: "ink sky",
      kind: "ink sky",
      text: `The sky has gone to ink: L* ${lightness.toFixed(0)}, where the capture has ${natural.toFixed(0)}.`,
      weight: (INK + 10) / (lightness + 10),
      place: { x: sx / weight / area.width, y: sy / weight / area.height },
      mend:
        stops > 0
          ? mended(print.recipe, `Lift the sky by ${stops.toFixed(2)} stops`, (old) =>
              withMoves(old, [moveOf("Sky", sky.shape, stops)]),
            )
          : null,
    },
  ];
}
