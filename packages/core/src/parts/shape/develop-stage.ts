import type { GraphPrint, ViewStage } from "../../graph/stage.ts";
import type { Shape } from "./schema.ts";

/** Light and stops through the tone curve, before the print is scaled to the view: curves do not commute with averaging. */
export const developStage: ViewStage<GraphPrint & { readonly recipe: { readonly shape: Shape } }> = {
  name: "develop",
  grid: "view",
  costNs: 3,
  reads: ({ recipe }) => recipe.shape,
  isActive: () => true,
};
