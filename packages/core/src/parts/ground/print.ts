import type { GraphPrint } from "../../graph/stage.ts";
import type { PrintSource } from "../part.ts";
import { frameOf, type Frame } from "./geometry.ts";
import type { GreyNoise } from "./grey-noise.ts";
import type { Ground } from "./schema.ts";

/** What Ground adds to a print made ready. */
export interface GroundPrint extends PrintSource, GraphPrint {
  readonly recipe: { readonly ground: Ground };
  readonly frame: Frame;
}

/** A print whose weighed light has a known noise. */
export interface NoisyPrint extends GroundPrint {
  /** Variance of the weighed light = slope · light + offset; null when the noise is not known. */
  readonly lightNoise: GreyNoise | null;
}

export function prepareGround({
  recipe,
  negative,
}: PrintSource & Pick<GroundPrint, "recipe">): Pick<GroundPrint, "frame"> {
  return { frame: frameOf(negative, recipe.ground) };
}
