import { useRef } from "react";
import { useNotesSession } from "../data/notes/use-notes.ts";
import { useSession } from "../data/use-session.ts";
import { useAct } from "../keys/acts.ts";
import { BENCH_ACTS } from "./acts.ts";

/** Undo and redo of the print and of what stands beside it, in the order in which they were made. */
export function useUndoActs(): void {
  const session = useSession();
  const notes = useNotesSession();
  const undone = useRef<("print" | "notes")[]>([]);
  const undo = () => {
    const { kept } = notes.store.getState();
    const { head, revisions } = session.store.getState();
    const notesAt = kept?.canUndo ? kept.at : "";
    const printAt = session.canUndo() ? (revisions.get(head)?.at ?? "") : "";
    if (notesAt === "" && printAt === "") return;
    const which = notesAt > printAt ? "notes" : "print";
    undone.current.push(which);
    if (which === "notes") void notes.step("back");
    else session.undo();
  };
  const redo = () => {
    const last = undone.current.pop();
    if (last === "notes" || (last === undefined && !session.canRedo())) void notes.step("forth");
    else session.redo();
  };
  useAct({ ...BENCH_ACTS.undo, run: undo });
  useAct({ ...BENCH_ACTS.redo, run: redo });
}
