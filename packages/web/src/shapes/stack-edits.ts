/** A short id for a new item of a list. */
export function newId(): string {
  return crypto.randomUUID().slice(0, 8);
}

/** A list with one of its items at another place; as near as there is one. */
export function placed<T extends { readonly id: string }>(items: readonly T[], id: string, at: number): T[] {
  const found = items.find((item) => item.id === id);
  if (!found) return [...items];
  const others = items.filter((item) => item !== found);
  return others.toSpliced(Math.min(others.length, Math.max(0, at)), 0, found);
}
