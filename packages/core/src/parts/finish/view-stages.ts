import type { GraphPrint, ViewStage } from "../../graph/stage.ts";
import type { Finish } from "./schema.ts";

type FinishPrint = GraphPrint & { readonly recipe: { readonly finish: Finish } };

/** Sharpening for screen or paper, on the scaled picture. */
export const outputStage: ViewStage<FinishPrint> = {
  name: "output",
  grid: "view",
  costNs: 9,
  reads: ({ recipe }) => recipe.finish.output,
  isActive: ({ recipe }) => recipe.finish.output.amount > 0,
};

/** Grain for the view's own pixel size: stated in µm of film, so nothing of it is lost or gained in scaling. */
export const grainStage: ViewStage<FinishPrint> = {
  name: "grain",
  grid: "view",
  costNs: 8,
  reads: ({ recipe }) => recipe.finish.grain,
  isActive: ({ recipe }) => recipe.finish.grain.granularity > 0,
};

/** Toning by density, dither, codes. */
export const codesStage: ViewStage<FinishPrint> = {
  name: "codes",
  grid: "view",
  costNs: 5,
  reads: ({ recipe }) => [recipe.finish.toning, recipe.finish.wear, recipe.finish.tables],
  isActive: () => true,
};
