import { invert3, transform3, type Vector3 } from "../../colour/matrix.ts";
import { luminanceOf } from "../../colour/rgb-space.ts";
import { familyToPlace, placeToWorking } from "./family.ts";
import { greyLight, type GreyModel } from "./grey-model.ts";
import type { Family } from "./schema.ts";

/** The colours of families and of neutrals, and the light that each becomes. */
export interface GreyPalette {
  /** Linear working colours as shot at luminance 1, three values each. */
  readonly colours: Float32Array;
  readonly lights: Float32Array;
}

/** Least value of a channel of a palette's colour. */
const LEAST = 1e-4;

/** The middles of a recipe's families and a neutral of the recipe's balance. */
export function greyPalette(model: GreyModel, families: readonly Family[]): GreyPalette {
  const middles = families.map((family) => placeToWorking(familyToPlace(family)));
  const grey: Vector3 = [0.5, 0.5, 0.5];
  const neutral = model.balance ? transform3(invert3(model.balance), grey) : grey;
  const colours = [...middles, neutral].map((colour) => colour.map((v) => Math.max(LEAST, v)) as unknown as Vector3);
  return {
    colours: Float32Array.from(colours.flatMap((colour) => colour.map((v) => v / luminanceOf(colour)))),
    lights: Float32Array.from(colours, (colour) => greyLight(model, colour) / luminanceOf(colour)),
  };
}
