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

/** Passages in which a mixture of families is the mixture of their lights. */
export const BY_LIGHT = { passage: "mixture", softness: 0.5 } as const satisfies Partial<Weigh>;

/** Whether mixtures of the families keep to it. */
export function mixesByLight({ passage, softness, families }: Weigh): boolean {
  const asGood = passage === BY_LIGHT.passage && softness >= BY_LIGHT.softness;
  return asGood || families.every(({ stops }) => stops === 0);
}
