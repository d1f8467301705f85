import { defaultRecipe } from "../recipe/defaults.ts";
import type { Recipe } from "../recipe/schema.ts";
import type { PreparedPrint } from "../render/prepare.ts";
import { scaledSize, type View } from "../tiles/view.ts";

/** Pixels across and down of a piece that is looked at in full size. */
export const PATCH = 25;

/** A recipe whose print shows what its weights do to edges: areas, local contrast and light are other stations' business. */
export function weighedAlone({ ground, weigh, shape }: Recipe): Recipe {
  const fresh = defaultRecipe();
  const { localContrast } = fresh.shape;
  return { ...fresh, ground, shape: { ...shape, localContrast }, weigh: { ...weigh, areas: [] } };
}

/** A piece of the print in full size about a place, 0–1. */
export function patchView({ frame }: PreparedPrint, x: number, y: number): View {
  const { width, height } = scaledSize(frame, 1);
  const within = (centre: number, length: number) =>
    Math.max(0, Math.min(length - PATCH, Math.round(centre * length) - (PATCH >> 1)));
  return {
    x: within(x, width),
    y: within(y, height),
    width: Math.min(PATCH, width),
    height: Math.min(PATCH, height),
    scale: 1,
    level: 0,
  };
}
