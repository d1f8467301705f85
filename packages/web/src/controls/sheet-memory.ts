import { createStore } from "zustand/vanilla";

/** What was open in the sheets, so that it is open again. */
interface SheetMemory {
  /** Groups by title: unfolded or folded by hand. */
  readonly open: Readonly<Record<string, boolean>>;
  /** The page of a sheet that has several, by sheet. */
  readonly page: Readonly<Record<string, string>>;
}

const KEY = "yelm-sheets";
const EMPTY: SheetMemory = { open: {}, page: {} };

function read(): SheetMemory {
  try {
    return { ...EMPTY, ...(JSON.parse(localStorage.getItem(KEY) ?? "{}") as Partial<SheetMemory>) };
  } catch {
    return EMPTY;
  }
}

export const sheetMemory = createStore<SheetMemory>(read);

sheetMemory.subscribe((memory) => {
  try {
    localStorage.setItem(KEY, JSON.stringify(memory));
  } catch {
    // Without storage the sheets begin as usual next time.
  }
});

export function rememberOpen(title: string, open: boolean): void {
  sheetMemory.setState((memory) => ({ open: { ...memory.open, [title]: open } }));
}

export function rememberPage(sheet: string, page: string): void {
  sheetMemory.setState((memory) => ({ page: { ...memory.page, [sheet]: page } }));
}
