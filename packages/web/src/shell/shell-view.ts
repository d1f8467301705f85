import { createStore } from "zustand/vanilla";

/** A quiet line, with at most one act. */
export interface Notice {
  readonly id: number;
  readonly text: string;
  readonly act?: { readonly label: string; readonly run: () => void };
}

interface ShellView {
  readonly paletteOpen: boolean;
  /** Oldest first; the newest is shown. */
  readonly notices: readonly Notice[];
}

/** A notice stays for as long as it takes to read it. */
const LEAST_MS = 5000;
const MS_PER_CHARACTER = 45;
const MOST_NOTICES = 4;
let lastId = 0;
const timers = new Map<number, ReturnType<typeof setTimeout>>();

export const shellView = createStore<ShellView>(() => ({ paletteOpen: false, notices: [] }));

/** Shows a line for some seconds. The same line again is shown once, for longer. */
export function notify(text: string, act?: Notice["act"]): number {
  const id = ++lastId;
  shellView.setState(({ notices }) => ({
    notices: [...notices.filter((notice) => notice.text !== text).slice(1 - MOST_NOTICES), { id, text, act }],
  }));
  leaveLater(id, text);
  return id;
}

export function dismiss(id: number): void {
  clearTimeout(timers.get(id));
  timers.delete(id);
  shellView.setState(({ notices }) => ({ notices: notices.filter((notice) => notice.id !== id) }));
}

/** Keeps a notice while it is looked at. */
export function hold(id: number, held: boolean): void {
  clearTimeout(timers.get(id));
  const notice = shellView.getState().notices.find((one) => one.id === id);
  if (!held && notice) leaveLater(id, notice.text);
}

function leaveLater(id: number, text: string): void {
  timers.set(
    id,
    setTimeout(() => dismiss(id), LEAST_MS + MS_PER_CHARACTER * text.length),
  );
}
