import type { Family } from "@yelm/core";

/** A family's name by its index; the group after the last is the neutrals. */
export function groupName(families: readonly Family[], group: number): string {
  return families[group]?.name ?? "the neutrals";
}

/** Stands for the neutrals where a family's id would stand. */
export const NEUTRAL_ID = "neutral";

/** A family's id by its index, NEUTRAL_ID for the neutrals. */
export function groupId(families: readonly Family[], group: number): string {
  return families[group]?.id ?? NEUTRAL_ID;
}
