/** A short id for a new item of a list. */
export function newId(): string {
  return crypto.randomUUID().slice(0, 8);
}

/** A list with one of its items one place on; unchanged at the ends. */
export function shifted<T extends { readonly id: string }>(items: readonly T[], id: string, by: -1 | 1): T[] {
  const out = [...items];
  const from = out.findIndex((item) => item.id === id);
  const to = from + by;
  if (from >= 0 && to >= 0 && to < out.length) [out[from], out[to]] = [out[to], out[from]];
  return out;
}
