import { ChevronDown, ChevronUp } from "lucide-react";
import { useEffect, useState } from "react";
import { useLocation } from "react-router";
import { useStore } from "zustand";
import { clearImports, stopImports, uploads } from "../data/imports.ts";
import { useImports } from "../data/queries.ts";
import { notify } from "./shell-view.ts";

const SHOWN_MS = 6000;

interface Row {
  readonly id: string;
  readonly name: string;
  readonly word: string;
  readonly reason?: string;
  readonly share?: number;
}

/** Files being brought in: how far it is, what is worked on, and a reason for each that could not be. */
export function ImportTray() {
  const sending = useStore(uploads);
  const jobs = useImports().data ?? [];
  // At the bench it says in one line how far it is, out of the way; reasons wait for the roll.
  const bench = useLocation().pathname.startsWith("/prints/");
  const [unfolded, setOpen] = useState(true);
  const open = unfolded && !bench;
  const waiting = jobs.filter(({ state }) => state === "waiting");
  const running = jobs.filter(({ state }) => state === "running");
  const failed = jobs.filter(({ state }) => state === "failed");
  const refused = sending.filter(({ state }) => state === "failed");
  const underWay = sending.length - refused.length + waiting.length + running.length;
  const total = sending.length + jobs.length;
  const bad = failed.length + refused.length;
  const done = total - underWay;
  // When all went well the list goes by itself; a reason stays until it was read.
  useEffect(() => {
    if (total === 0 || underWay > 0 || bad > 0) return;
    const timer = setTimeout(() => void clearImports().catch(() => undefined), SHOWN_MS);
    return () => clearTimeout(timer);
  }, [total, underWay, bad]);
  if (total === 0 || (bench && underWay === 0)) return null;

  const known = jobs.filter(({ state }) => state === "duplicate").length;
  const repaired = jobs.filter(({ state }) => state === "repaired").length;
  const stopped = jobs.filter(({ state }) => state === "cancelled").length;
  const parts = [`${done - bad - known - repaired - stopped} brought in`];
  if (known > 0) parts.push(`${known} already here`);
  if (repaired > 0) parts.push(`${repaired} repaired`);
  if (stopped > 0) parts.push(`${stopped} stopped`);
  if (bad > 0) parts.push(`${bad} not`);
  const rows: Row[] = [
    ...refused.map(({ id, name, reason }) => ({ id, name, word: "not brought in", reason })),
    ...failed.map(({ id, fileName, error, hint }) => ({
      id,
      name: fileName,
      word: "not brought in",
      reason: [error, hint].filter(Boolean).join(" "),
    })),
    ...running.map(({ id, fileName }) => ({ id, name: fileName, word: "developing" })),
    ...sending
      .filter(({ state }) => state === "sending" || state === "away")
      .map(({ id, name, state, sent }) => ({
        id,
        name,
        word: state === "away" ? "waiting for the server" : "copying",
        share: sent,
      })),
  ];
  const act = (work: () => Promise<void>) => void work().catch((error: Error) => notify(error.message));
  return (
    <aside
      aria-label="Imports"
      className={`border-line bg-base-100 fixed z-30 rounded-md border ${bench ? "top-14 right-36 w-[260px]" : "right-4 bottom-4 w-[400px]"}`}
      data-testid="import-tray"
    >
      <header className="flex items-center justify-between py-2 pr-2 pl-4">
        <span className="font-serif text-[15px]" role="status">
          {underWay > 0 ? `Bringing in ${Math.min(done + 1, total)} of ${total}` : parts.join(", ")}
        </span>
        <span className="flex">
          {underWay > 0 ? (
            <button className="act" onClick={() => act(stopImports)}>
              Stop
            </button>
          ) : (
            <button className="act" onClick={() => act(clearImports)}>
              Done
            </button>
          )}
          {rows.length > 0 && !bench && (
            <button
              className="act"
              aria-label={open ? "Fold the list" : "Unfold the list"}
              onClick={() => setOpen(!open)}
            >
              {open ? <ChevronDown size={14} /> : <ChevronUp size={14} />}
            </button>
          )}
        </span>
      </header>
      {underWay > 0 && (
        <progress
          className="progress block h-0.5 w-full rounded-none"
          value={done}
          max={total}
          aria-label="Brought in"
        />
      )}
      {open && rows.length > 0 && (
        <ul className="slim-scroll border-line max-h-64 overflow-y-auto border-t py-1">
          {rows.map(({ id, name, word, reason, share }) => (
            <li key={id} className="px-4 py-1">
              <div className="flex justify-between gap-3">
                <span className="truncate">{name}</span>
                <span className={reason ? "text-accent shrink-0" : "text-quiet shrink-0"}>{word}</span>
              </div>
              {share !== undefined && share < 1 && (
                <progress className="progress h-1 w-full" value={share} max={1} aria-label={`${name} sent`} />
              )}
              {reason && <p className="text-quiet">{reason}</p>}
            </li>
          ))}
        </ul>
      )}
    </aside>
  );
}
