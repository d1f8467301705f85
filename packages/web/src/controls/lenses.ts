import { finishSchema, groundSchema, shapeSchema, weighSchema, whiteBalanceSchema, type Recipe } from "@yelm/core";
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
const shapeLens = <K extends "localContrast" | "detail" | "scatter" | "sharpening">(
  key: K,
): Lens<Recipe["shape"][K]> => ({
  station: "Shape",
  schema: shapeSchema.properties[key],
  get: (recipe) => recipe.shape[key],
  put: (recipe, value) => ({ ...recipe, shape: { ...recipe.shape, [key]: value } }),
});
export const LOCAL_CONTRAST = shapeLens("localContrast");
export const DETAIL = shapeLens("detail");
export const SCATTER = shapeLens("scatter");
export const SHARPENING = shapeLens("sharpening");
const finishLens = <K extends Exclude<keyof Finish, "tables">>(key: K): Lens<Finish[K]> => ({
  station: "Finish",
  schema: within[key],
  get: (recipe) => recipe.finish[key],
  put: (recipe, value) => ({ ...recipe, finish: { ...recipe.finish, [key]: value } }),
});
export const GRAIN = finishLens("grain");
export const TONING = finishLens("toning");
export const EDGE_BURN = finishLens("edgeBurn");
export const HALATION = finishLens("halation");
export const OLD_GLASS = finishLens("oldGlass");
export const OUTPUT = finishLens("output");
export const WEAR = finishLens("wear");
export const MOUNT = finishLens("mount");
