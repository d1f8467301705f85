import { createStore } from "zustand/vanilla";

/** A quiet line at the foot of the screen, with at most one act. */
export interface Notice {
  readonly id: number;
  readonly text: string;
  readonly act?: { readonly label: string; readonly run: () => void };
}

interface ShellView {
  readonly paletteOpen: boolean;
  readonly notices: readonly Notice[];
}

const NOTICE_MS = 9000;
let lastId = 0;

export const shellView = createStore<ShellView>(() => ({ paletteOpen: false, notices: [] }));

/** Shows a line for some seconds. */
export function notify(text: string, act?: Notice["act"]): void {
  const id = ++lastId;
  shellView.setState(({ notices }) => ({ notices: [...notices.slice(-2), { id, text, act }] }));
  setTimeout(() => dismiss(id), NOTICE_MS);
}

export function dismiss(id: number): void {
  shellView.setState(({ notices }) => ({ notices: notices.filter((notice) => notice.id !== id) }));
}
