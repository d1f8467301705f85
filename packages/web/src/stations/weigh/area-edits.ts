import { weighAreaSchema, type MaskShape, type Recipe, type WeighArea } from "@yelm/core";
import { freeName } from "../../shapes/stack.ts";
import { newId, placed } from "../../shapes/stack-edits.ts";

export const LONGEST_NAME = weighAreaSchema.properties.name.maxLength ?? 40;

/** A recipe with an area more, weighed at first like everything else. */
export function addArea(recipe: Recipe, shape: MaskShape, id = newId()): { recipe: Recipe; id: string } {
  const { weigh } = recipe;
  const { by, red, green, blue, film, areas } = weigh;
  const area: WeighArea = {
    id,
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

/** An area at another place in the order. */
export function placeArea(recipe: Recipe, id: string, at: number): Recipe {
  return { ...recipe, weigh: { ...recipe.weigh, areas: placed(recipe.weigh.areas, id, at) } };
}
