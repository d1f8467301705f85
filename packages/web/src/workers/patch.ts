/** What turns one value into another: what is the same is not said again. Plain data only. */
export type Patch =
  | { readonly is: unknown }
  | { readonly fields: Readonly<Record<string, Patch>>; readonly gone: readonly string[] }
  | { readonly items: Readonly<Record<number, Patch>>; readonly length: number };

/** What has to be said of `after` to one who knows `before`; null when they are alike. What is one and the same costs nothing. */
export function patchBetween(before: unknown, after: unknown): Patch | null {
  if (Object.is(before, after)) return null;
  if (Array.isArray(before) && Array.isArray(after)) {
    const items: Record<number, Patch> = {};
    after.forEach((item, i) => {
      const patch = i < before.length ? patchBetween(before[i], item) : { is: item as unknown };
      if (patch) items[i] = patch;
    });
    return before.length === after.length && Object.keys(items).length === 0 ? null : { items, length: after.length };
  }
  if (!isPlain(before) || !isPlain(after)) return { is: after };
  const fields: Record<string, Patch> = {};
  for (const [name, value] of Object.entries(after)) {
    const patch = Object.hasOwn(before, name) ? patchBetween(before[name], value) : { is: value };
    if (patch) fields[name] = patch;
  }
  const gone = Object.keys(before).filter((name) => !Object.hasOwn(after, name));
  return Object.keys(fields).length === 0 && gone.length === 0 ? null : { fields, gone };
}

/** `before` with a patch on it. What the patch does not touch stays one and the same object. */
export function patched(before: unknown, patch: Patch | null): unknown {
  if (patch === null) return before;
  if ("is" in patch) return patch.is;
  if ("items" in patch) {
    const list = before as readonly unknown[];
    return Array.from({ length: patch.length }, (_, i) =>
      i in patch.items ? patched(list[i], patch.items[i]) : list[i],
    );
  }
  const kept = Object.entries(before as object).filter(([name]) => !patch.gone.includes(name));
  const changed = Object.entries(patch.fields).map(([name, inner]) => [
    name,
    patched((before as Record<string, unknown>)[name], inner),
  ]);
  return Object.fromEntries([...kept, ...changed]);
}

function isPlain(value: unknown): value is Record<string, unknown> {
  return typeof value === "object" && value !== null && !Array.isArray(value);
}
