import { LADDER_STOPS, rangeOf, shapeSchema, type Histograms, type Recipe } from "@yelm/core";

/** Share of the picture that may lie beyond each point. */
const WANTED_SPECK = 0.0015;

/** Black and white point at the ends of the picture's own light, leaving a speck beyond each. */
export function pointsFor({ scene }: Histograms): Pick<Recipe["shape"], "blackPoint" | "whitePoint"> {
  const stopsPerBin = (LADDER_STOPS.highest - LADDER_STOPS.lowest) / scene.length;
  const reach = (counts: readonly number[]) => {
    let passed = 0;
    const end = counts.findIndex((count) => (passed += count) > WANTED_SPECK);
    return Math.max(0, end);
  };
  const inside = (field: "blackPoint" | "whitePoint", stops: number) => {
    const { minimum, maximum } = rangeOf(shapeSchema, field);
    return Math.min(maximum, Math.max(minimum, Math.round(stops * 8) / 8));
  };
  return {
    blackPoint: inside("blackPoint", LADDER_STOPS.lowest + reach(scene) * stopsPerBin),
    whitePoint: inside("whitePoint", LADDER_STOPS.highest - reach([...scene].reverse()) * stopsPerBin),
  };
}
