import { weighSchema, type Weigh } from "./schema.ts";
import { defaultOf } from "../../schema/defaults.ts";

/** The same Weigh with plain luminance and unmoved families: what it is compared with. */
export function plainWeigh(weigh: Weigh): Weigh {
  const { by, red, green, blue } = freshWeigh();
  return { ...weigh, families: weigh.families.map((family) => ({ ...family, stops: 0 })), by, red, green, blue };
}

/** Weigh as it is in a fresh recipe. */
export function freshWeigh(): Weigh {
  return defaultOf(weighSchema) as Weigh;
}
