import { plainMove, type LightMove } from "../schema.ts";

/** A move of one stop on the whole picture, but for what is said. */
export const move = (change: Partial<LightMove>): LightMove => ({
  id: "m",
  name: "m",
  on: true,
  stops: 1,
  amountPercent: 100,
  invert: false,
  ...plainMove(),
  shape: { kind: "whole" },
  ...change,
});
