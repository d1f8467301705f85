import type { AmountInHand } from "../picture/bench-view.ts";

let inHand: AmountInHand | null = null;

/** Remembers the amount that was pointed at or focused last: the one a test strip is made of. */
export function takeInHand(amount: AmountInHand): void {
  inHand = amount;
}

export const amountInHand = (): AmountInHand | null => inHand;
