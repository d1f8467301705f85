import { weighAreaSchema, type MaskShape, type Recipe, type WeighArea } from "@yelm/core";
import { freeName } from "../../shapes/stack.ts";
import { newId, shifted } from "../../shapes/stack-edits.ts";

export const LONGEST_NAME = weighAreaSchema.properties.name.maxLength ?? 40;

/** A recipe with an area more, weighed at first like everything else. */
export function addArea(recipe: Recipe, shape: MaskShape): { recipe: Recipe; id: string } {
  const { weigh } = recipe;
  const { by, red, green, blue, film, areas } = weigh;
  const area: WeighArea = {
    id: newId(),
    name: freeName("Area", areas),
    on: true,
    invert: false,
    shape,
    by,
    red,
    green,
    blue,
    film: structuredClone(film),
  };
  return { recipe: { ...recipe, weigh: { ...weigh, areas: [...areas, area] } }, id: area.id };
}

export function changeArea(recipe: Recipe, id: string, change: (area: WeighArea) => Partial<WeighArea>): Recipe {
  const areas = recipe.weigh.areas.map((area) => (area.id === id ? { ...area, ...change(area) } : area));
  return { ...recipe, weigh: { ...recipe.weigh, areas } };
}

export function removeArea(recipe: Recipe, id: string): Recipe {
  return { ...recipe, weigh: { ...recipe.weigh, areas: recipe.weigh.areas.filter((area) => area.id !== id) } };
}

/** Moves an area one place earlier (−1) or later (+1); at the ends nothing happens. */
export function shiftArea(recipe: Recipe, id: string, by: -1 | 1): Recipe {
  return { ...recipe, weigh: { ...recipe.weigh, areas: shifted(recipe.weigh.areas, id, by) } };
}
