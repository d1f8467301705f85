import { levelCount, ownLevel, type Negative, type Recipe } from "@yelm/core";
import { useAnswer } from "../workers/use-answer.ts";
import type { Placement } from "./placement.ts";

/** A touch so light that it would not be seen. */
export const TOUCH_STOPS = 0.01;

interface TakenUp {
  readonly negative: Negative;
  readonly placement: Placement;
  /** The print after the first touch. */
  readonly touched: Recipe;
  /** What readying hangs on; it is done once that has rested for so long. */
  readonly key: string;
  readonly restMs: number;
  readonly enabled: boolean;
}

/** Has the workers ready what a hand is about to touch, so that the first touch costs no more than the next. */
export function useTakenUp({ negative, placement, touched, key, restMs, enabled }: TakenUp): void {
  const { scale, visible } = placement;
  const view = { ...visible, scale, level: ownLevel(scale, levelCount(negative)) };
  useAnswer("takeUp", { recipe: touched, view }, { key, restMs, enabled });
}
