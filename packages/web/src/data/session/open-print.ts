import { api } from "../api.ts";
import { negativeQuery, queryClient } from "../queries.ts";
import { browserOutbox, printsWaiting } from "./browser-outbox.ts";
import { printOnServer } from "./server-port.ts";
import { openSession, type EditSession, type SessionPorts } from "./session.ts";

const clock: SessionPorts["clock"] = {
  now: () => new Date(),
  after(ms, run) {
    const timer = setTimeout(run, ms);
    return () => clearTimeout(timer);
  },
  newId: () => crypto.randomUUID(),
};

/**
 * Opens a print for editing in this window.
 * @throws {SendError} when there is no such print, or no server.
 */
export async function openPrint(printId: string): Promise<EditSession> {
  const session = await openSession({
    server: printOnServer(printId, api),
    outbox: browserOutbox(printId),
    clock,
    onSaved: () => void queryClient.invalidateQueries({ queryKey: ["prints"] }),
  });
  void queryClient.prefetchQuery(negativeQuery(session.store.getState().print.negativeId));
  return session;
}

/** Sends what windows that are gone had left, of every print but the ones that are open. */
export async function sendWhatWaits(isOpen: (printId: string) => boolean): Promise<void> {
  for (const printId of await printsWaiting()) {
    if (isOpen(printId)) continue;
    const session = await openPrint(printId).catch(() => null);
    await session?.close();
  }
}
