import { HIGHEST_COUNTED, LOWEST_COUNTED, rangeOf, shapeSchema, type Recipe, type ToneEnds } from "@yelm/core";

/** Share of the picture that may lie beyond each point. */
const WANTED_SPECK = 0.0015;

/** Black and white point at the ends of the picture's own light, leaving a speck beyond each. */
export function pointsFor({ counts }: Pick<ToneEnds, "counts">): Pick<Recipe["shape"], "blackPoint" | "whitePoint"> {
  const stopsPerBin = (HIGHEST_COUNTED - LOWEST_COUNTED) / counts.length;
  const reach = (shares: readonly number[]) => {
    let passed = 0;
    const end = shares.findIndex((count) => (passed += count) > WANTED_SPECK);
    return Math.max(0, end);
  };
  const inside = (field: "blackPoint" | "whitePoint", stops: number) => {
    const { minimum, maximum } = rangeOf(shapeSchema, field);
    return Math.min(maximum, Math.max(minimum, Math.round(stops * 8) / 8));
  };
  return {
    blackPoint: inside("blackPoint", LOWEST_COUNTED + reach([...counts]) * stopsPerBin),
    whitePoint: inside("whitePoint", HIGHEST_COUNTED - reach([...counts].reverse()) * stopsPerBin),
  };
}
