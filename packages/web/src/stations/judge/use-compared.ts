import { useMemo } from "react";
import { useStore } from "zustand";
import { useNotes } from "../../data/notes/use-notes.ts";
import { usePrintsOfNegative } from "../../data/queries.ts";
import { useEdit } from "../../data/use-session.ts";
import { againstName, comparing, otherRecipe } from "./compare.ts";

/** What the print is compared with at present. */
export function useCompared() {
  const { by, against, wipe } = useStore(comparing);
  const recipe = useEdit((state) => state.recipe);
  const head = useEdit((state) => state.head);
  const revisions = useEdit((state) => state.revisions);
  const { id: printId, negativeId } = useEdit((state) => state.print);
  const notes = useNotes((all) => all);
  const found = usePrintsOfNegative(negativeId).data;
  const prints = useMemo(() => (found ?? []).filter(({ id }) => id !== printId), [found, printId]);
  const isMoving = useEdit((state) => state.recipe !== state.kept);
  const other = useMemo(
    () => (by === null ? null : otherRecipe(against, recipe, { head, revisions, notes, prints })),
    [by, against, recipe, head, revisions, notes, prints],
  );
  return { by, against, wipe, other, prints, isMoving, recipe, name: againstName(against, { notes, prints }, recipe) };
}
