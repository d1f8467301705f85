import { ChevronDown, ChevronRight } from "lucide-react";
import type { ReactNode } from "react";
import { useStore } from "zustand";
import { rememberOpen, sheetMemory } from "./sheet-memory.ts";

interface GroupProps {
  readonly title: string;
  readonly aside?: ReactNode;
  /** Begins folded, and is unfolded by its title; what it holds in short stands beside it. */
  readonly folded?: string;
  readonly children: ReactNode;
}

/** A titled block of controls in a station sheet. One that folds remembers how it was left. */
export function Group({ title, aside, folded, children }: GroupProps) {
  const remembered = useStore(sheetMemory, ({ open }) => open[title]);
  const open = folded === undefined || remembered === true;
  return (
    <section aria-label={title} data-find={title} className="border-line border-t py-3 first-of-type:border-t-0">
      <header className="mb-1.5 flex min-h-6 items-center justify-between gap-2">
        {folded === undefined ? (
          <h3 className="min-w-0 truncate font-serif text-[15px]">{title}</h3>
        ) : (
          <h3 className="font-serif text-[15px]">
            <button
              className="-ml-1 inline-flex cursor-pointer items-center gap-1"
              aria-expanded={open}
              onClick={() => rememberOpen(title, !open)}
            >
              {open ? <ChevronDown size={13} /> : <ChevronRight size={13} />}
              {title}
            </button>
          </h3>
        )}
        {open ? aside : <span className="text-quiet truncate">{folded}</span>}
      </header>
      {open && children}
    </section>
  );
}
