import { basename } from "node:path";
import { Type } from "@sinclair/typebox";
import type { Response } from "express";

export const thumbnailQuery = Type.Object(
  { edge: Type.Optional(Type.String({ pattern: "^(160|320|640|1280)$" })), v: Type.Optional(Type.String()) },
  { additionalProperties: false },
);

/** For a year it is shown at once, and asked for anew meanwhile: what changed is right the next time it is seen. */
const SHOWN_AT_ONCE = "private, max-age=0, stale-while-revalidate=31536000";

/**
 * Sends a thumbnail. Its file is named by all that it was made from, which tells whether the browser's own is still the same: one
 * revision looks otherwise once its negative's colours are made anew, or in another version of Yelm.
 * @param atOnce - whether what the browser has may be shown before it is asked for.
 */
export function sendThumbnail(response: Response, file: string, atOnce: boolean): void {
  const headers = { "Cache-Control": atOnce ? SHOWN_AT_ONCE : "no-cache", ETag: `"${basename(file, ".jpg")}"` };
  response.sendFile(file, { dotfiles: "allow", lastModified: false, headers });
}
