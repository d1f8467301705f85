import type { Notes, PrintNotes } from "@yelm/core";
import { createContext, use } from "react";
import { useStore } from "zustand";
import { notify } from "../../shell/shell-view.ts";
import { api } from "../api.ts";
import { NotesSession } from "./notes-session.ts";

export const NotesContext = createContext<NotesSession | null>(null);

/** The notes of one print, in this window. */
export function openNotes(printId: string): NotesSession {
  const path = `/prints/${printId}/notes`;
  const session = new NotesSession({
    load: () => api<PrintNotes>(path),
    keep: (body) => api<PrintNotes>(path, { method: "PUT", body }),
    step: (base, to) => api<PrintNotes>(`${path}/step`, { method: "POST", body: { base, to } }),
    newId: () => crypto.randomUUID(),
    now: () => new Date(),
    after(ms, run) {
      const timer = setTimeout(run, ms);
      return () => clearTimeout(timer);
    },
    onTrouble: notify,
  });
  void session.open().catch((error: Error) => notify(error.message));
  return session;
}

export function useNotesSession(): NotesSession {
  const session = use(NotesContext);
  if (!session) throw new Error("Expected a bench around this.");
  return session;
}

/** Part of the notes of the print on the bench. */
export function useNotes<T>(select: (notes: Notes) => T): T {
  return useStore(useNotesSession().store, ({ notes }) => select(notes));
}
