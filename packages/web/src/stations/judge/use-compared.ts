import type { Negative, Print } from "@yelm/core";
import { useQuery } from "@tanstack/react-query";
import { useMemo } from "react";
import { useStore } from "zustand";
import { useNotes } from "../../data/notes/use-notes.ts";
import { api } from "../../data/api.ts";
import { negativeQuery, usePrintsOfNegative } from "../../data/queries.ts";
import { useEdit } from "../../data/use-session.ts";
import { againstName, comparing, otherRecipe } from "./compare.ts";

/** A print of another negative. */
export interface Elsewhere {
  readonly print: Print;
  readonly negative: Negative;
  readonly name: string;
}

/** The print of another negative that is compared with, once it is known. */
function useElsewhere(id: string | null): Elsewhere | null {
  const print = useQuery({
    queryKey: ["print", id],
    queryFn: () => api<Print>(`/prints/${id}`),
    enabled: id !== null,
    retry: false,
  }).data;
  const negative = useQuery({ ...negativeQuery(print?.negativeId ?? ""), enabled: print !== undefined }).data;
  return useMemo(
    () => (print && negative ? { print, negative, name: `${negative.title}, ${print.name}` } : null),
    [print, negative],
  );
}

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
  const elsewhere = useElsewhere(against.kind === "elsewhere" ? against.id : null);
  const isMoving = useEdit((state) => state.recipe !== state.kept);
  const other = useMemo(
    () => (by === null ? null : otherRecipe(against, recipe, { head, revisions, notes, prints })),
    [by, against, recipe, head, revisions, notes, prints],
  );
  const name = againstName(against, { notes, prints, elsewhere }, recipe);
  return { by, against, wipe, other, elsewhere, prints, isMoving, recipe, name };
}
