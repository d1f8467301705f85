import { RATINGS, type Rating, type SheetEntry } from "@yelm/core";

/** Orders of a contact sheet. */
export const ORDERS = [
  ["taken", "as taken"],
  ["name", "by name"],
  ["rating", "best first"],
  ["came", "latest in"],
] as const;
export type Order = (typeof ORDERS)[number][0];
/** What a contact sheet shows: everything, one rating, or what has none. */
export type Shown = "all" | Rating | "unrated";

/** The entries to show, in order. Text is looked for in titles and file names. */
export function arrange(entries: readonly SheetEntry[], shown: Shown, order: Order, text: string): SheetEntry[] {
  const wanted = text.trim().toLowerCase();
  return entries
    .filter(({ rating }) => shown === "all" || (rating ?? "unrated") === shown)
    .filter(({ title, fileName }) => `${title} ${fileName}`.toLowerCase().includes(wanted))
    .sort((a, b) => compare(a, b, order) || a.fileName.localeCompare(b.fileName));
}

/** How many of each rating there are. */
export function countRatings(entries: readonly SheetEntry[]): Record<Shown, number> {
  const counts = { all: entries.length, keep: 0, maybe: 0, no: 0, unrated: 0 };
  for (const { rating } of entries) counts[rating ?? "unrated"]++;
  return counts;
}

/** What is chosen after a click: alone, added or taken away with Ctrl, everything from the last one on with Shift. */
export function choose(
  ids: readonly string[],
  chosen: ReadonlySet<string>,
  from: string | null,
  to: string,
  how: "toggle" | "reach",
): ReadonlySet<string> {
  const next = new Set(chosen);
  if (how === "toggle") {
    if (!next.delete(to)) next.add(to);
    return next;
  }
  const a = Math.max(0, ids.indexOf(from ?? to));
  const b = ids.indexOf(to);
  for (const id of ids.slice(Math.min(a, b), Math.max(a, b) + 1)) next.add(id);
  return next;
}

function compare(a: SheetEntry, b: SheetEntry, order: Order): number {
  if (order === "taken") return (a.takenAt ?? "~").localeCompare(b.takenAt ?? "~");
  if (order === "came") return b.createdAt.localeCompare(a.createdAt);
  if (order === "rating") return rank(a) - rank(b);
  return 0;
}

function rank({ rating }: SheetEntry): number {
  return rating === null ? 1.5 : RATINGS.indexOf(rating);
}
