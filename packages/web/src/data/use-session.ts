import { createContext, useContext } from "react";
import { useStore } from "zustand";
import type { EditSession } from "./session/session.ts";
import type { EditState } from "./session/state.ts";

export const SessionContext = createContext<EditSession | null>(null);

/** The print being edited on this bench. */
export function useSession(): EditSession {
  const session = useContext(SessionContext);
  if (!session) throw new Error("Expected a bench around this control.");
  return session;
}

/** Part of the edited print's state; the component is drawn again when that part changes. */
export function useEdit<T>(select: (state: EditState) => T): T {
  return useStore(useSession().store, select);
}
