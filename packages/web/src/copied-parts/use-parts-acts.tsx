import {
  copyParts,
  COPIED_PARTS,
  defaultRecipe,
  differingParts,
  refitWish,
  type Negative,
  type Recipe,
} from "@yelm/core";
import { useState, type ReactNode } from "react";
import { useStore } from "zustand";
import { BENCH_ACTS } from "../bench/acts.ts";
import { useEdit, useSession } from "../data/use-session.ts";
import { useAct } from "../keys/acts.ts";
import { dismiss, notify } from "../shell/shell-view.ts";
import type { RenderPool } from "../workers/render-pool.ts";
import { copiedParts, groupWords, keepParts, regionWords, USUAL_GROUPS } from "./clipboard.ts";
import { PartsSheet } from "./parts-sheet.tsx";

const FRESH = defaultRecipe();

/** Copying parts of the print on the bench, and pasting what was copied on it. @returns the sheet that is open. */
export function usePartsActs(negative: Negative, pool: RenderPool): ReactNode {
  const session = useSession();
  const { kept } = useStore(copiedParts);
  const [open, setOpen] = useState<"copy" | "paste" | null>(null);
  // The bench around it is not drawn again for every step of a drag.
  const recipe = useEdit((state) => (open ? state.recipe : null));
  const close = () => setOpen(null);
  useAct({ ...BENCH_ACTS["parts-copy"], run: () => setOpen("copy") });
  useAct({
    ...BENCH_ACTS["parts-paste"],
    run: () => (kept ? setOpen("paste") : notify("Nothing is copied yet: copy parts of a print first.")),
  });
  /** On a print of another negative, moves and areas are fitted to its picture first. */
  const paste = async (groups: readonly string[]) => {
    if (!kept) return;
    const own = session.store.getState().recipe;
    const different = differingParts(kept.recipe, own, groups);
    if (different.length === 0) return void notify("Nothing to change: the print has these parts already.");
    const copied = (now: Recipe) => copyParts(kept.recipe, now, groups);
    const isElsewhere = kept.from && kept.from.negativeId !== negative.id;
    const wish = isElsewhere ? refitWish(copied(own), groups, kept.recipe, kept.from) : null;
    const busy = wish && notify("Fitting its moves to this picture…");
    const fitted = wish && (await pool.ask("refitted", wish));
    if (busy) dismiss(busy);
    session.change(different[0].station, `Parts of “${kept.name}” pasted`, (now) => {
      const next = copied(now);
      if (!fitted) return next;
      const { light, weigh } = fitted.recipe;
      return {
        ...next,
        light: wish.moves ? { ...next.light, moves: light.moves } : next.light,
        weigh: wish.areas ? { ...next.weigh, areas: weigh.areas } : next.weigh,
      };
    });
    const anew = fitted && fitted.found + fitted.placed > 0 ? `; ${regionWords(fitted)}` : "";
    notify(`Pasted: ${groupWords(different.map(({ id }) => id))}${anew}.`, { label: "Undo", run: session.takeBack() });
  };
  if (!recipe) return null;
  if (open === "copy")
    return (
      <PartsSheet
        title="Copy parts"
        recipe={recipe}
        start={differingParts(recipe, FRESH, USUAL_GROUPS).map(({ id }) => id)}
        verb="Copy"
        onClose={close}
        onDone={(groups) => {
          const { print, recipe: now } = session.store.getState();
          const { id: negativeId, width, height } = negative;
          keepParts({ name: print.name, recipe: now, groups, from: { negativeId, width, height } });
          notify(`Copied from “${print.name}”. Paste it on another print, or on many from the roll’s contact sheet.`);
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
        close();
        void paste(groups).catch((error: Error) => notify(error.message));
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
