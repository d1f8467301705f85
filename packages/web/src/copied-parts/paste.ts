import type { PasteAnswer } from "@yelm/core";
import { api } from "../data/api.ts";
import { queryClient } from "../data/queries.ts";
import { notify } from "../shell/shell-view.ts";
import { groupWords, regionWords, type CopiedPartsOf } from "./clipboard.ts";

/** Pastes parts on prints, tells what changed, and offers to take all of it back. */
export async function pasteOn(prints: readonly string[], { name, recipe, groups, from }: CopiedPartsOf): Promise<void> {
  const body = { recipe, groups, from, to: prints, label: `Parts of “${name}” pasted`.slice(0, 200) };
  const { changed, unchanged, regions } = await api<PasteAnswer>("/prints/paste", { method: "POST", body });
  await refresh();
  if (changed.length === 0) {
    notify(
      prints.length === 1
        ? "Nothing to change: the print has these parts already."
        : "Nothing to change: all of them have these parts already.",
    );
    return;
  }
  const differed = new Set(changed.flatMap((one) => one.groups));
  const where = changed.length === 1 ? "one print" : `${changed.length} prints`;
  const rest = unchanged > 0 ? `; ${unchanged} had nothing to change` : "";
  const anew = regions ? `; ${regionWords(regions)}` : "";
  notify(`Pasted on ${where}: ${groupWords([...differed])}${anew}${rest}.`, {
    label: "Undo",
    run: () => void takeBack(changed).catch((error: Error) => notify(error.message)),
  });
}

/** Tells what was done to many prints, and offers to take all of it back. */
export async function tellMany({ changed }: PasteAnswer, what: string): Promise<void> {
  await refresh();
  if (changed.length === 0) {
    notify("Nothing to change: all of them are so already.");
    return;
  }
  notify(`${what} on ${changed.length === 1 ? "one print" : `${changed.length} prints`}.`, {
    label: "Undo",
    run: () => void takeBack(changed).catch((error: Error) => notify(error.message)),
  });
}

/** Goes back on every print that has not been worked on since. */
async function takeBack(changed: PasteAnswer["changed"]): Promise<void> {
  const left: string[] = [];
  for (const { id, before, after } of changed)
    await api(`/prints/${id}/head`, { method: "POST", body: { base: after, target: before } }).catch(() =>
      left.push(id),
    );
  await refresh();
  notify(
    left.length === 0
      ? "All of it was taken back."
      : `Taken back, but for ${left.length} of ${changed.length} that were worked on since; each one’s history goes back to it.`,
  );
}

async function refresh(): Promise<void> {
  await queryClient.invalidateQueries({ queryKey: ["prints"] });
  await queryClient.invalidateQueries({ queryKey: ["negatives"] });
}
