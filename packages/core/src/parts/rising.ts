import type { Fault } from "./part.ts";

/** A fault when the first numbers of points do not rise. */
export function risingFault(points: readonly (readonly [number, number])[], field: string, what: string): Fault | null {
  const i = points.findIndex(([x], at) => at > 0 && !(x > points[at - 1][0]));
  if (i === -1) return null;
  return { field: `${field}.${i}`, expected: `rising ${what}`, received: `${points[i - 1][0]}, ${points[i][0]}` };
}
