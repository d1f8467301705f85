import {
  MATCHED_PARTS,
  OWN_LOOKS,
  type MatchedPart,
  type MatchPlan,
  type PasteAnswer,
  type SetEntry,
} from "@yelm/core";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { Amount } from "../controls/amount.tsx";
import { asPercent } from "../controls/formats.ts";
import { tellMany } from "../copied-parts/paste.ts";
import { api } from "../data/api.ts";
import { queryClient, useLooks, watchLook } from "../data/queries.ts";
import { notify } from "../shell/shell-view.ts";
import { Rung } from "./set-tones.tsx";

/** What matching would change, before it is done. */
export function Matching({ pattern, to }: { pattern: SetEntry | null; to: readonly string[] }) {
  const [parts, setParts] = useState<readonly MatchedPart[]>(MATCHED_PARTS);
  const wish = { pattern: pattern?.id, to, parts };
  const ready = pattern !== null && to.length > 0 && parts.length > 0;
  const plan = useQuery({
    queryKey: ["negatives", "match", wish],
    queryFn: () => api<MatchPlan[]>("/prints/match/plan", { method: "POST", body: wish }),
    enabled: ready,
  });
  const [busy, setBusy] = useState(false);
  const match = async () => {
    setBusy(true);
    try {
      const answer = await api<PasteAnswer>("/prints/match", { method: "POST", body: wish });
      await tellMany(answer, `Matched to “${pattern!.negative}”`);
      await queryClient.invalidateQueries({ queryKey: ["negatives"] });
    } finally {
      setBusy(false);
    }
  };
  return (
    <section className="pt-8" aria-label="Match">
      <h2 className="font-serif text-[19px]">Match to a print</h2>
      <p className="text-quiet pb-2">
        {pattern === null
          ? "Choose the pattern, and the prints that are to match it."
          : to.length === 0
            ? `Choose the prints that are to match “${pattern.negative}”.`
            : "Nothing is changed before you say so; one undo takes back all of it."}
      </p>
      <div className="flex flex-wrap gap-1" role="group" aria-label="What is matched">
        {MATCHED_PARTS.map((part) => (
          <button
            key={part}
            className={`chip ${parts.includes(part) ? "chip-on" : ""}`}
            aria-pressed={parts.includes(part)}
            onClick={() => setParts(parts.includes(part) ? parts.filter((one) => one !== part) : [...parts, part])}
          >
            {part}
          </button>
        ))}
      </div>
      {ready && plan.error && <p className="text-accent pt-2">{plan.error.message}</p>}
      {ready && plan.data && (
        <>
          <ul className="max-w-[1100px] pt-3" aria-label="What would change">
            {plan.data.map(({ id, negative, before, after, changes }) => (
              <li key={id} className="border-line flex items-center gap-4 border-b py-1.5">
                <span className="w-56 truncate">{negative}</span>
                <Rung tones={before} accent={false} />
                <span className="text-quiet">→</span>
                <Rung tones={after} accent />
                <span className="min-w-0 truncate">{changes.length === 0 ? "nothing" : changes.join(", ")}</span>
              </li>
            ))}
          </ul>
          <button
            className="write-act mt-3 max-w-[300px]"
            disabled={busy}
            onClick={() => void match().catch((error: Error) => notify(error.message))}
          >
            {to.length === 1 ? "Match one print" : `Match ${to.length} prints`}
          </button>
        </>
      )}
    </section>
  );
}

/** One look on many prints, each fitted to its own picture. */
export function LookOnMany({ to }: { to: readonly string[] }) {
  const own = useLooks().data ?? [];
  const looks = [...own, ...OWN_LOOKS];
  const [id, setId] = useState(OWN_LOOKS[0].id);
  const [amount, setAmount] = useState(100);
  const [progress, setProgress] = useState<number | null>(null);
  const busy = progress !== null;
  const lay = async () => {
    setProgress(0);
    const stopWatching = watchLook(id, (done) => setProgress(done));
    try {
      const answer = await api<PasteAnswer>(`/looks/${id}/lay`, {
        method: "POST",
        body: { to, amountPercent: amount },
      });
      await tellMany(answer, `“${looks.find((look) => look.id === id)?.name}” laid`);
      await queryClient.invalidateQueries({ queryKey: ["negatives"] });
    } finally {
      stopWatching();
      setProgress(null);
    }
  };
  return (
    <section className="pt-8" aria-label="A look on many">
      <h2 className="font-serif text-[19px]">A look on the chosen prints</h2>
      <p className="text-quiet pb-2">
        Each print’s points follow its own light; exposure, crop, mended places and light moves stay.
      </p>
      <div className="flex max-w-[560px] items-center gap-4">
        <select className="field" aria-label="Look" value={id} onChange={(event) => setId(event.target.value)}>
          {looks.map((look) => (
            <option key={look.id} value={look.id}>
              {look.name}
            </option>
          ))}
        </select>
        <div className="w-64">
          <Amount
            label="Amount"
            value={amount / 100}
            range={{ minimum: 0, maximum: 1.5, default: 1, description: "How far each print goes towards the look." }}
            step={0.1}
            format={asPercent}
            typedScale={100}
            onChange={(share) => setAmount(Math.round(100 * share))}
            onEnd={() => undefined}
          />
        </div>
        <button
          className="act"
          disabled={busy || to.length === 0}
          onClick={() => void lay().catch((error: Error) => notify(error.message))}
        >
          {busy ? `${progress} of ${to.length} fitted…` : to.length === 1 ? "Lay it on one" : `Lay it on ${to.length}`}
        </button>
      </div>
      {busy && (
        <progress
          className="progress mt-3 block h-1 max-w-[560px]"
          value={progress}
          max={to.length}
          aria-label="Prints fitted"
        />
      )}
    </section>
  );
}
