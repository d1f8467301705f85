import {
  lightMoveSchema,
  lightQuestions,
  plainMove,
  rangeOf,
  regionQuestions,
  type LightMove,
  type Recipe,
} from "@yelm/core";
import { AppError } from "../errors.ts";
import { writeWholeBytes } from "../files/whole-file.ts";
import { openEngine } from "./open-engine.ts";
import { readRecipe } from "./read-recipe.ts";

export interface LightOptions {
  readonly recipe: string;
  readonly region?: string;
  readonly stops: number;
  readonly out?: string;
  readonly json?: boolean;
}

/** Tells the regions that stand ready, where light comes from and its splashes; adds a move on one of the regions. */
export async function light(file: string, options: LightOptions): Promise<void> {
  const { minimum, maximum } = rangeOf(lightMoveSchema, "stops");
  if (!(options.stops >= minimum && options.stops <= maximum))
    throw new AppError("bad_request", `Expected --stops from ${minimum} to ${maximum}.`);
  let recipe: Recipe = await readRecipe(options.recipe);
  const { engine, info, size } = await openEngine(file);
  const reader = { engine, size, capture: info, fetch: () => Promise.resolve() };
  const ready = await regionQuestions.readyRegions(reader, { recipe });
  // Even areas are told apart by their size: even 1 is the largest.
  let even = 0;
  const regions = ready.map(({ shape, share }) => ({
    name: shape.of === "even" ? `even ${++even}` : shape.of,
    share: Math.round(1000 * share) / 1000,
    shape,
  }));
  if (options.region !== undefined) {
    const found = regions.find(({ name }) => name === options.region);
    if (!found)
      throw new AppError(
        "bad_request",
        `Expected --region to be one that stands ready (${regions.map(({ name }) => name).join(", ") || "none does"}) but received "${options.region}".`,
      );
    const taken = new Set(recipe.light.moves.map(({ id }) => id));
    let number = 1;
    while (taken.has(`r${number}`)) number++;
    const move: LightMove = {
      id: `r${number}`,
      name: `Region: ${found.name}`,
      on: true,
      stops: options.stops,
      amountPercent: 100,
      invert: false,
      ...plainMove(),
      shape: found.shape,
    };
    recipe = { ...recipe, light: { ...recipe.light, moves: [...recipe.light.moves, move] } };
  }
  const { direction, splashes } = await lightQuestions.shading(reader, { recipe });
  if (options.out) await writeWholeBytes(options.out, Buffer.from(`${JSON.stringify(recipe, null, 2)}\n`));
  const told = { regions: regions.map(({ name, share }) => ({ name, share })), direction, splashes };
  if (options.json) {
    console.log(JSON.stringify(told));
    return;
  }
  const { angleDegrees, stops, agreement } = direction;
  console.log(
    [
      ...told.regions.map(({ name, share }) => `${name}: ${(100 * share).toFixed(1)} % of the negative`),
      `light from ${angleDegrees.toFixed(0)}° clockwise from the right, ${stops.toFixed(2)} stops over the picture, agreement ${agreement.toFixed(2)}`,
      `${splashes.length} broad lights`,
    ].join("\n"),
  );
}
