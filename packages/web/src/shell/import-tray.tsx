import { ChevronDown, ChevronUp } from "lucide-react";
import { useState } from "react";
import { useStore } from "zustand";
import { imports, clearImports, type ImportItem } from "../data/imports.ts";

/** Files being brought in: progress for each, and a reason for each that could not be. */
export function ImportTray() {
  const items = useStore(imports);
  const [open, setOpen] = useState(true);
  if (items.length === 0) return null;
  const working = items.filter(({ state }) => state === "waiting" || state === "sending" || state === "developing");
  const failed = items.filter(({ state }) => state === "failed").length;
  const title =
    working.length > 0
      ? `Bringing in ${items.length - working.length + 1} of ${items.length}`
      : `${items.length - failed} brought in${failed ? `, ${failed} not` : ""}`;
  return (
    <aside
      aria-label="Imports"
      className="border-line bg-base-100 fixed right-4 bottom-4 z-30 w-[380px] rounded-md border"
      data-testid="import-tray"
    >
      <header className="flex items-center justify-between px-4 py-2">
        <span className="font-serif text-[15px]">{title}</span>
        <span className="flex">
          {working.length === 0 && (
            <button className="act" onClick={clearImports}>
              Done
            </button>
          )}
          <button
            className="act"
            aria-label={open ? "Fold the list" : "Unfold the list"}
            onClick={() => setOpen(!open)}
          >
            {open ? <ChevronDown size={14} /> : <ChevronUp size={14} />}
          </button>
        </span>
      </header>
      {open && (
        <ul className="slim-scroll border-line max-h-64 overflow-y-auto border-t py-1">
          {items.map((item) => (
            <ImportRow key={item.id} item={item} />
          ))}
        </ul>
      )}
    </aside>
  );
}

const WORDS: Readonly<Record<ImportItem["state"], string>> = {
  waiting: "waiting",
  sending: "copying",
  developing: "developing",
  imported: "in",
  duplicate: "already here",
  failed: "not brought in",
};

function ImportRow({ item: { name, state, sent, reason } }: { item: ImportItem }) {
  return (
    <li className="px-4 py-1">
      <div className="flex justify-between gap-3">
        <span className="truncate">{name}</span>
        <span className={state === "failed" ? "text-accent" : "text-quiet"}>{WORDS[state]}</span>
      </div>
      {(state === "sending" || state === "developing") && (
        <progress
          className="progress h-[2px] w-full"
          aria-label={`${name}: ${WORDS[state]}`}
          {...(state === "sending" ? { value: sent, max: 1 } : {})}
        />
      )}
      {reason && <p className="text-quiet">{reason}</p>}
    </li>
  );
}
