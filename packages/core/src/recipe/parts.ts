import { finishPart } from "../parts/finish/part.ts";
import { groundPart } from "../parts/ground/part.ts";
import { lightPart } from "../parts/light/part.ts";
import type { Part } from "../parts/part.ts";
import { shapePart } from "../parts/shape/part.ts";
import { weighPart } from "../parts/weigh/part.ts";

/** Every part of a recipe, in the order of the work. A new one is a folder and one line here. */
const REGISTERED = [groundPart, weighPart, shapePart, lightPart, finishPart] as const;

type Registered = (typeof REGISTERED)[number];
/** The parts that can be copied, merged and cached by themselves. */
export type RecipePart = Registered["name"];
/** What each part holds. */
export type PartValues = {
  -readonly [P in Registered as P["name"]]: P extends Part<infer V, string> ? V : never;
};

export const PARTS: readonly Part<unknown, RecipePart>[] = REGISTERED;
