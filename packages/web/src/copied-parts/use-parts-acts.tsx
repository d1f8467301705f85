import { copyParts, COPIED_PARTS, defaultRecipe, differingParts } from "@yelm/core";
import { useState, type ReactNode } from "react";
import { useStore } from "zustand";
import { BENCH_ACTS } from "../bench/acts.ts";
import { useEdit, useSession } from "../data/use-session.ts";
import { useAct } from "../keys/acts.ts";
import { notify } from "../shell/shell-view.ts";
import { copiedParts, groupWords, keepParts, USUAL_GROUPS } from "./clipboard.ts";
import { PartsSheet } from "./parts-sheet.tsx";

const FRESH = defaultRecipe();

/** Copying parts of the print on the bench, and pasting what was copied on it. @returns the sheet that is open. */
export function usePartsActs(): ReactNode {
  const session = useSession();
  const recipe = useEdit((state) => state.recipe);
  const { kept } = useStore(copiedParts);
  const [open, setOpen] = useState<"copy" | "paste" | null>(null);
  const close = () => setOpen(null);
  useAct({ ...BENCH_ACTS["parts-copy"], run: () => setOpen("copy") });
  useAct({
    ...BENCH_ACTS["parts-paste"],
    run: () => (kept ? setOpen("paste") : notify("Nothing is copied yet: copy parts of a print first.")),
  });
  if (open === "copy")
    return (
      <PartsSheet
        title="Copy parts"
        recipe={recipe}
        start={differingParts(recipe, FRESH, USUAL_GROUPS).map(({ id }) => id)}
        verb="Copy"
        onClose={close}
        onDone={(groups) => {
          const { name } = session.store.getState().print;
          keepParts({ name, recipe: session.store.getState().recipe, groups });
          notify(`Copied from “${name}”. Paste it on another print, or on many from the roll’s contact sheet.`);
          close();
        }}
      />
    );
  if (open !== "paste" || !kept) return null;
  return (
    <PartsSheet
      title={`Paste parts of “${kept.name}”`}
      recipe={kept.recipe}
      start={kept.groups}
      offered={kept.groups}
      verb="Paste on this print"
      onClose={close}
      onDone={(groups) => {
        const different = differingParts(kept.recipe, session.store.getState().recipe, groups);
        close();
        if (different.length === 0) return notify("Nothing to change: the print has these parts already.");
        session.change(different[0].station, `Parts of “${kept.name}” pasted`, (now) =>
          copyParts(kept.recipe, now, groups),
        );
        notify(`Pasted: ${groupWords(different.map(({ id }) => id))}.`, { label: "Undo", run: session.takeBack() });
      }}
    >
      <p className="text-quiet pt-2">
        {differingParts(
          kept.recipe,
          recipe,
          COPIED_PARTS.map(({ id }) => id),
        ).length === 0
          ? "This print has them already."
          : `Would change: ${groupWords(differingParts(kept.recipe, recipe, kept.groups).map(({ id }) => id)) || "nothing"}.`}
      </p>
    </PartsSheet>
  );
}
