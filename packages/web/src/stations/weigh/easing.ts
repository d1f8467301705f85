import { REC2020, type FilmChoice, type FilterName, type Recipe } from "@yelm/core";
import { clampStops } from "./family-edits.ts";

type Weigh = Recipe["weigh"];
type Families = readonly Weigh["families"][number][];

/** What makes a conversion milder, and the words of its act. */
export interface Easing {
  readonly act: string;
  readonly change: Partial<Weigh>;
}

/** The mildest way back: of moved families, else of a film and its filter, else of weights. */
export function easing(families: Families, weigh: Weigh): Easing {
  if (families.some(({ stops }) => stops !== 0))
    return { act: "Move them less", change: { families: movedLess(families) } };
  if (weigh.by === "film") return { act: "Take a milder film or filter", change: { film: milder(weigh.film) } };
  return { act: "Ease the weights", change: halfWayToPlain(weigh) };
}

/** Every family three quarters as far as it is moved. */
export function movedLess(families: Families): Weigh["families"] {
  return families.map((family) => ({ ...family, stops: clampStops(0.75 * family.stops) }));
}

/** The next weaker filter of its kind; without a filter, the film that sees most evenly. */
export function milder(choice: FilmChoice): FilmChoice {
  if (choice.filter === "none") return { ...choice, film: "panchromatic" };
  const next: Partial<Record<FilterName, FilterName>> = {
    red: "orange",
    orange: "deep yellow",
    "deep yellow": "light yellow",
  };
  return { ...choice, filter: next[choice.filter] ?? "none" };
}

/** Half of the way to plain luminance of the same sum. */
function halfWayToPlain({ red, green, blue }: Weigh): Partial<Weigh> {
  const sum = red + green + blue;
  const [r, g, b] = REC2020.luminance;
  const middle = (weight: number, plain: number) => Math.round(1e5 * (weight / 2 + (sum * plain) / 2)) / 1e5;
  return { red: middle(red, r), green: middle(green, g), blue: middle(blue, b) };
}
