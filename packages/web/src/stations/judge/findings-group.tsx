import type { Finding, Negative } from "@yelm/core";
import { frameOf } from "@yelm/core";
import { useState } from "react";
import { useStore } from "zustand";
import { Group } from "../../controls/group.tsx";
import { useNotesSession } from "../../data/notes/use-notes.ts";
import { useSession } from "../../data/use-session.ts";
import { benchView } from "../../picture/bench-view.ts";
import { notify } from "../../shell/shell-view.ts";
import { useSecondLook } from "./second-look.ts";

/** What a second look finds: measure, place, one act, or that it is meant so. */
export function FindingsGroup({ negative }: { negative: Negative }) {
  const { open, meant, pending, error } = useSecondLook();
  const notes = useNotesSession();
  const unsay = (id: string) =>
    notes.change("No longer meant so", (old) => ({ ...old, meant: old.meant.filter(({ finding }) => finding !== id) }));
  return (
    <Group title="Second look" aside={pending && <span className="text-quiet">looking…</span>}>
      {error && <p className="text-accent">{error.message}</p>}
      {!pending && open.length === 0 && !error && (
        <p className="font-serif text-[15px] leading-snug" data-testid="no-findings">
          Nothing stands out. {meant.length > 0 ? "What did is meant so." : ""}
        </p>
      )}
      <ol className="-mx-2 space-y-1" aria-label="Findings" data-pending={pending}>
        {open.map((finding, i) => (
          <FindingRow key={finding.id} finding={finding} number={i + 1} negative={negative} />
        ))}
      </ol>
      {meant.length > 0 && (
        <ul aria-label="Meant so" className="text-quiet pt-2">
          {meant.map(({ finding, said }) => (
            <li key={finding.id} className="flex items-baseline justify-between gap-2">
              <span className="min-w-0">
                Meant so: {finding.kind}
                {said.reason && <span className="font-serif italic"> “{said.reason}”</span>}
              </span>
              <button className="act px-1" onClick={() => unsay(finding.id)}>
                No longer
              </button>
            </li>
          ))}
        </ul>
      )}
    </Group>
  );
}

function FindingRow({ finding, number, negative }: { finding: Finding; number: number; negative: Negative }) {
  const { findingId } = useStore(benchView);
  const session = useSession();
  const notes = useNotesSession();
  const [reason, setReason] = useState<string | null>(null);
  const active = finding.id === findingId;
  const { place, mend, text, kind } = finding;
  const goThere = () => {
    if (!place) return;
    const frame = frameOf(negative, session.store.getState().recipe.ground);
    const zoom = Math.max(frame.width, frame.height) > 1600 ? 0.5 : 1;
    benchView.setState({ findingId: finding.id, zoom: { zoom, centreX: place.x, centreY: place.y } });
  };
  const take = () => {
    if (!mend) return;
    benchView.setState({ tried: null, findingId: null });
    session.change("Judge", mend.label, () => mend.recipe);
    notify(`${mend.label}.`, { label: "Take it back", run: session.takeBack() });
  };
  const tried = (on: boolean) => benchView.setState({ tried: on && mend ? mend.recipe : null });
  const say = () => {
    const said = { finding: finding.id, reason: (reason ?? "").trim(), at: new Date().toISOString() };
    notes.change(`Meant so: ${kind}`, (old) => ({
      ...old,
      meant: [...old.meant.filter((one) => one.finding !== finding.id), said],
    }));
    setReason(null);
  };
  return (
    <li
      className={`rounded px-2 py-1.5 ${active ? "bg-fill" : ""}`}
      data-kind={kind}
      onPointerEnter={() => benchView.setState({ findingId: finding.id })}
      onPointerLeave={() => benchView.setState({ findingId: null })}
    >
      <button className="flex w-full cursor-pointer gap-2 text-left leading-snug" onClick={goThere} disabled={!place}>
        <span className="text-accent w-3 shrink-0 font-serif text-[15px]">{number}</span>
        <span className="min-w-0">{text}</span>
      </button>
      {reason === null ? (
        <div className="flex flex-wrap pl-3">
          {mend && (
            <button
              className="act text-left leading-snug"
              style={{ whiteSpace: "normal" }}
              onPointerEnter={() => tried(true)}
              onPointerLeave={() => tried(false)}
              onFocus={() => tried(true)}
              onBlur={() => tried(false)}
              onClick={take}
            >
              {mend.label}
            </button>
          )}
          <button className="act text-quiet" onClick={() => setReason("")}>
            It is meant so
          </button>
        </div>
      ) : (
        <form
          className="flex gap-1 pt-1 pl-5"
          onSubmit={(event) => {
            event.preventDefault();
            say();
          }}
        >
          <input
            className="field min-w-0 flex-1"
            aria-label="Why it is meant so"
            placeholder="Why? (may stay empty)"
            maxLength={400}
            autoFocus
            value={reason}
            onChange={(event) => setReason(event.target.value)}
            onKeyDown={(event) => event.key === "Escape" && setReason(null)}
          />
          <button className="act" type="submit">
            Keep
          </button>
        </form>
      )}
    </li>
  );
}
