import type { Family } from "@yelm/core";

/** A family's name by its index; the group after the last is the neutrals. */
export function groupName(families: readonly Family[], group: number): string {
  return families[group]?.name ?? "the neutrals";
}

/** A family's id by its index; "neutral" for the neutrals. */
export function groupId(families: readonly Family[], group: number): string {
  return families[group]?.id ?? "neutral";
}
