import { useRef } from "react";
import { useNotesSession } from "../data/notes/use-notes.ts";
import { useSession } from "../data/use-session.ts";
import { useAct } from "../keys/acts.ts";
import { notify } from "../shell/shell-view.ts";
import { BENCH_ACTS } from "./acts.ts";

/** Undo and redo of the print and of what stands beside it, in the order in which they were made. */
export function useUndoActs(): void {
  const session = useSession();
  const notes = useNotesSession();
  const undone = useRef<("print" | "notes")[]>([]);
  // One after the other: which is the newest is known only when the one before is taken, and what was just noted is kept.
  const queue = useRef<Promise<unknown>>(Promise.resolve());
  const then = (run: () => Promise<void>) => () => {
    queue.current = queue.current.then(run).catch((error: Error) => notify(error.message));
  };
  const undo = async () => {
    await notes.settled();
    const { head, revisions } = session.store.getState();
    const notesAt = notes.newest();
    const printAt = session.canUndo() ? (revisions.get(head)?.at ?? "") : "";
    if (notesAt === "" && printAt === "") return;
    const which = notesAt > printAt ? "notes" : "print";
    undone.current.push(which);
    if (which === "notes") await notes.step("back");
    else session.undo();
  };
  const redo = async () => {
    await notes.settled();
    const last = undone.current.pop();
    if (last === "notes" || (last === undefined && !session.canRedo())) await notes.step("forth");
    else session.redo();
  };
  useAct({ ...BENCH_ACTS.undo, run: then(undo) });
  useAct({ ...BENCH_ACTS.redo, run: then(redo) });
}
