import { formatStops } from "../parts/words.ts";
import type { Recipe } from "../recipe/schema.ts";
import type { Finding } from "./finding.ts";

/** What a user keeps and takes back. */
export interface Habits {
  /** Sizes of light moves that are on, stops: half and nine tenths of them are no larger. */
  readonly moves: { readonly count: number; readonly usual: number; readonly most: number };
  readonly stations: readonly { readonly station: string; readonly made: number; readonly takenBack: number }[];
}

/** Fewer moves than this make no habit. */
const LEAST_MOVES = 12;
/** A move so many times the largest usual one is beyond habit, and at least so many stops. */
const BEYOND = 1.6;
const LEAST_STOPS = 0.5;

/** Moves stronger than this user keeps them by habit. */
export function habitFindings(recipe: Recipe, { moves: { count, usual, most } }: Habits): Finding[] {
  if (count < LEAST_MOVES) return [];
  const sizeOf = (move: Recipe["light"]["moves"][number]) => (Math.abs(move.stops) * move.amountPercent) / 100;
  const strong = recipe.light.moves
    .filter((move) => move.on && sizeOf(move) > Math.max(LEAST_STOPS, BEYOND * most))
    .sort((p, q) => sizeOf(q) - sizeOf(p));
  if (strong.length === 0) return [];
  const [first] = strong;
  const halved = (move: typeof first) =>
    strong.some(({ id }) => id === move.id) ? { ...move, amountPercent: Math.round(move.amountPercent / 2) } : move;
  return [
    {
      id: `habit ${first.id}`.slice(0, 80),
      kind: "habit",
      text: `“${first.name}” is ${formatStops((Math.sign(first.stops) * Math.round(6 * sizeOf(first))) / 6)}; half of your ${count} moves stay within ${usual.toFixed(2)} stop, nine tenths within ${most.toFixed(2)}.`,
      weight: sizeOf(first) / Math.max(LEAST_STOPS, BEYOND * most),
      place: null,
      mend: {
        label: strong.length === 1 ? "Halve it" : `Halve these ${strong.length}`,
        recipe: { ...recipe, light: { ...recipe.light, moves: recipe.light.moves.map(halved) } },
      },
    },
  ];
}

/** In what prints of a set are compared. */
export const SET_MEASURES = ["middle", "span", "chroma", "granularity", "ratio"] as const;
export type SetMeasure = (typeof SET_MEASURES)[number];

/** What each of them is called. */
export const SET_WORDS: Readonly<Record<SetMeasure, string>> = {
  middle: "key",
  span: "contrast",
  chroma: "tone",
  granularity: "grain",
  ratio: "crop",
};

/** That a print lies far from the others of its roll. */
export function setFindings(outlying: readonly SetMeasure[]): Finding[] {
  if (outlying.length === 0) return [];
  return [
    {
      id: `set ${outlying.join(" ")}`,
      kind: "set",
      text: `It lies far from the other prints of the roll in ${outlying.map((one) => SET_WORDS[one]).join(", ")}.`,
      weight: 1 + 0.2 * outlying.length,
      place: null,
      mend: null,
    },
  ];
}
