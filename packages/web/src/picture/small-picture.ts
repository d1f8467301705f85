import type { SheetEntry } from "@yelm/core";
import { printThumbnail, queryClient } from "../data/queries.ts";
import { keptThumbnail } from "./opening.ts";

/** Address of a print's small picture: the one that a contact sheet shows already, or what the server has kept. */
export function smallPicture(printId: string): string {
  for (const [, data] of queryClient.getQueriesData({ queryKey: ["negatives"] })) {
    if (!Array.isArray(data)) continue;
    const entry = (data as readonly SheetEntry[]).find(({ best }) => best?.id === printId);
    if (entry?.best) return printThumbnail(entry.best, 640);
  }
  return keptThumbnail(printId);
}
