import {
  finishSchema,
  groundSchema,
  localContrastSchema,
  shapeSchema,
  weighSchema,
  whiteBalanceSchema,
  type Recipe,
} from "@yelm/core";
import type { Lens } from "./use-lens.ts";

type Finish = Recipe["finish"];
const within = finishSchema.properties;

export const GROUND: Lens<Recipe["ground"]> = {
  station: "Ground",
  schema: groundSchema,
  get: (recipe) => recipe.ground,
  put: (recipe, ground) => ({ ...recipe, ground }),
};
export const WHITE_BALANCE: Lens<Recipe["ground"]["whiteBalance"]> = {
  station: "Ground",
  schema: whiteBalanceSchema,
  get: (recipe) => recipe.ground.whiteBalance,
  put: (recipe, whiteBalance) => ({ ...recipe, ground: { ...recipe.ground, whiteBalance } }),
};
export const WEIGH: Lens<Recipe["weigh"]> = {
  station: "Weigh",
  schema: weighSchema,
  get: (recipe) => recipe.weigh,
  put: (recipe, weigh) => ({ ...recipe, weigh }),
};
export const SHAPE: Lens<Recipe["shape"]> = {
  station: "Shape",
  schema: shapeSchema,
  get: (recipe) => recipe.shape,
  put: (recipe, shape) => ({ ...recipe, shape }),
};
export const LOCAL_CONTRAST: Lens<Recipe["shape"]["localContrast"]> = {
  station: "Shape",
  schema: localContrastSchema,
  get: (recipe) => recipe.shape.localContrast,
  put: (recipe, localContrast) => ({ ...recipe, shape: { ...recipe.shape, localContrast } }),
};
const finishLens = <K extends keyof Finish>(key: K): Lens<Finish[K]> => ({
  station: "Finish",
  schema: within[key],
  get: (recipe) => recipe.finish[key],
  put: (recipe, value) => ({ ...recipe, finish: { ...recipe.finish, [key]: value } }),
});
export const GRAIN = finishLens("grain");
export const TONING = finishLens("toning");
export const EDGE_BURN = finishLens("edgeBurn");
