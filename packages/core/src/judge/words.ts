/** A place in words. */
export function where({ x, y }: { readonly x: number; readonly y: number }): string {
  const across = x < 1 / 3 ? "left" : x > 2 / 3 ? "right" : "";
  const down = y < 1 / 3 ? "top" : y > 2 / 3 ? "bottom" : "";
  if (across === "" && down === "") return "the middle";
  return `the ${[down, across].filter((word) => word !== "").join(" ")}`;
}

/** The first of some places that has other words than a place has; null when none has. */
export function elsewhere<Place extends { readonly x: number; readonly y: number }>(
  place: Place,
  others: readonly Place[],
): Place | null {
  return others.find((other) => where(other) !== where(place)) ?? null;
}

/** With a capital letter. */
export const capital = (text: string) => text.charAt(0).toUpperCase() + text.slice(1);
/** A share as per cent. */
export const percent = (share: number) =>
  share < 0.001 ? `${(100 * share).toFixed(2)} %` : `${(100 * share).toFixed(1)} %`;

export const ORDINALS = ["first", "second", "third", "fourth", "fifth", "sixth", "seventh"];
