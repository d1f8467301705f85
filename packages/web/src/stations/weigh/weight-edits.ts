import { rangeOf, weighSchema, type Recipe } from "@yelm/core";

type Weigh = Recipe["weigh"];
export type WeightName = "red" | "green" | "blue";
export const WEIGHT_LABELS: readonly (readonly [WeightName, string])[] = [
  ["red", "Red light"],
  ["green", "Green light"],
  ["blue", "Blue light"],
];

/** Moves one weight. With the sum held the two others take the difference in equal parts, as far as they can. */
export function moveWeight(weigh: Weigh, name: WeightName, value: number): Weigh {
  if (!weigh.lockSum) return { ...weigh, [name]: value };
  const others = (["red", "green", "blue"] as const).filter((other) => other !== name);
  const { minimum, maximum } = rangeOf(weighSchema, name);
  const sum = weigh.red + weigh.green + weigh.blue;
  const next = { ...weigh, [name]: value };
  let missing = sum - value - weigh[others[0]] - weigh[others[1]];
  others.forEach((other, i) => {
    next[other] = round(Math.min(maximum, Math.max(minimum, weigh[other] + missing / (2 - i))));
    missing -= next[other] - weigh[other];
  });
  next[name] = round(sum - next[others[0]] - next[others[1]]);
  return next;
}

function round(weight: number): number {
  return Math.round(weight * 1e5) / 1e5;
}
