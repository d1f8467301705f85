import { capital, elsewhere, where } from "../judge/words.ts";
import { LEAST_AGREEMENT, sideOfLight } from "../measure/shading.ts";
import type { MarkKind } from "../notes/schema.ts";
import { formatStops } from "../parts/words.ts";
import { findNeighbours } from "../parts/weigh/separation.ts";
import { defaultRecipe } from "../recipe/defaults.ts";
import type { Recipe } from "../recipe/schema.ts";
import { seenByEye } from "./eye-way.ts";
import { lightQuestions } from "./light.ts";
import { wholeLight, type PictureReader } from "./reader.ts";
import { weighReading } from "./weigh.ts";

const READ_EDGE = 260;

/** What stands beside the plan before anything is done: a sentence, its measure, and the mark that would answer it. */
export interface CaptureSentence {
  readonly text: string;
  readonly offer: { readonly kind: MarkKind; readonly x: number; readonly y: number; readonly radius: number } | null;
}

/** Codes of a file of eight bits below which nothing is told from black, and stops that any other holds. */
const LEAST_CODE = 3;
const DEEP_STOPS = -14;

/** Light below which a capture has nothing, in stops of sensor white: by its codes, or by its noise. */
function floorOf({ capture }: PictureReader): number {
  if (capture.kind !== "raw" && capture.bits === 8) return Math.log2(LEAST_CODE / 255 / 12.92);
  return capture.noise ? Math.max(DEEP_STOPS, Math.log2(Math.sqrt(capture.noise.offset[1]))) : DEEP_STOPS;
}

/** Three or four sentences about the capture, before anything is done. */
export async function captureReading(reader: PictureReader, recipe: Recipe): Promise<CaptureSentence[]> {
  const plain = { ...defaultRecipe(), ground: recipe.ground };
  const light = (await wholeLight(reader, plain, READ_EDGE)).map((v) => Math.max(1e-6, v)).sort();
  const [dark, bright] = [0.005, 0.995].map((share) => Math.log2(light[Math.floor(share * (light.length - 1))]));
  const floor = floorOf(reader) + recipe.ground.exposureEv;
  const range = bright - Math.max(dark, floor);
  const fits =
    range > 7.5
      ? "more than paper shows: something has to give"
      : range < 4.5
        ? "less than paper shows: it will print flat"
        : "about what paper shows";
  const spans =
    dark > floor ? `${range.toFixed(1)} stops` : `${range.toFixed(1)} stops down to where the file has nothing`;
  const sentences: CaptureSentence[] = [{ text: `The light spans ${spans}, ${fits}.`, offer: null }];
  const { direction } = await lightQuestions.shading(reader, { recipe: plain });
  if (direction.agreement >= LEAST_AGREEMENT)
    sentences.push({
      text: `It grows from ${sideOfLight(direction.angleDegrees + 180)} to ${sideOfLight(direction.angleDegrees)}, ${formatStops(direction.stops)} over the picture.`,
      offer: null,
    });
  const seen = await seenByEye(reader, plain, null);
  const [first] = seen.pulls;
  const second = first && elsewhere(first, seen.pulls);
  if (first) {
    const how = first.contrast > 0 ? "lighter" : "darker";
    const then = second ? `, then ${where(second)}` : "";
    sentences.push({
      text: `The eye goes to ${where(first)} first, ${Math.abs(first.contrast).toFixed(0)} L* ${how} than what is around it${then}.`,
      offer: { kind: "hold back", x: first.x, y: first.y, radius: 0.1 },
    });
  }
  const { probe, map, recipe: full } = await weighReading(reader, plain);
  const names = [...full.weigh.families.map(({ name }) => name), "neutrals"];
  const carried = map.facts
    .map(({ share }, k) => ({ share, name: names[k] }))
    .sort((p, q) => q.share - p.share)
    .filter(({ share }) => share > 0.08)
    .slice(0, 3);
  if (carried.length > 0)
    sentences.push({
      text: `It is made of ${carried.map(({ name, share }) => `${name} (${Math.round(100 * share)} %)`).join(", ")}.`,
      offer: null,
    });
  const merged = findNeighbours(probe, map.boundaries).filter((pair) => pair.merged);
  if (merged.length > 0) {
    const { first: a, second: b, greyDifference } = merged[0];
    sentences.push({
      text: `${capital(names[a])} and ${names[b]} will print as one grey, ${Math.abs(greyDifference).toFixed(1)} L* apart.`,
      offer: null,
    });
  }
  return sentences;
}
