import { useState } from "react";
import { useStore } from "zustand";
import { goToStation } from "../../bench/go.ts";
import { Group } from "../../controls/group.tsx";
import { NoAnswer } from "../../controls/no-answer.tsx";
import { useNotes } from "../../data/notes/use-notes.ts";
import { useEdit, useSession } from "../../data/use-session.ts";
import { nameOf } from "../../instruments/use-histograms.ts";
import { useAct } from "../../keys/acts.ts";
import { Keys } from "../../keys/keys.tsx";
import { BENCH_ACTS } from "../../bench/acts.ts";
import { benchView } from "../../picture/bench-view.ts";
import { notify } from "../../shell/shell-view.ts";
import { useAnswer, usePool } from "../../workers/use-answer.ts";
import { JUDGE_ACTS } from "./acts.ts";
import { SelectiveHistory } from "./selective-history.tsx";

const ORDINALS = ["first", "second", "third", "fourth", "fifth", "sixth", "seventh"];

/** Where the eye goes, beside where the plan wants it. */
export function EyeGroup() {
  const recipe = useEdit((state) => state.recipe);
  const session = useSession();
  const plan = useNotes((notes) => notes.plan);
  const { squint } = useStore(benchView);
  const pool = usePool();
  const [busy, setBusy] = useState(false);
  const answer = useAnswer(
    "eye",
    { recipe, plan },
    { key: `${nameOf(recipe)} ${JSON.stringify(plan.marks)}`, restMs: 300 },
  );
  const eye = answer.data;
  const marked = plan.marks.some(({ kind }) => kind === "subject");
  const isFirst = eye?.subject === 1;
  const mend = async () => {
    setBusy(true);
    try {
      const found = await pool.ask("eyeMend", { recipe, plan });
      if (!found) {
        notify(
          isFirst
            ? "The subject is first already."
            : "Two and a half stops do not bring the subject first: another crop may.",
        );
        return;
      }
      session.change("Judge", found.label, () => found.recipe);
      notify(`${found.label[0].toUpperCase()}${found.label.slice(1)}.`, {
        label: "Take it back",
        run: session.takeBack(),
      });
    } catch (error) {
      notify(error instanceof Error ? error.message : String(error));
    } finally {
      setBusy(false);
    }
  };
  useAct({ ...JUDGE_ACTS["judge-mend-eye"], enabled: marked && !isFirst && !busy, run: () => void mend() });
  return (
    <Group
      title="The eye"
      aside={
        <button className="act" aria-pressed={squint} onClick={() => benchView.setState({ squint: !squint })}>
          Squint <Keys of={BENCH_ACTS.squint} hold />
        </button>
      }
    >
      <NoAnswer answer={answer} what="The eye’s way" />
      {!marked ? (
        <p className="text-quiet leading-snug">
          No subject is marked.{" "}
          <button className="text-accent cursor-pointer hover:underline" onClick={() => goToStation("Intend")}>
            Mark it in the plan
          </button>
          , and its place among what pulls is told.
        </p>
      ) : (
        eye && (
          <div data-testid="eye-reading" className="leading-snug">
            <p>
              The subject is{" "}
              <span className="font-serif text-[16px]">
                {eye.subject === null ? "not among what pulls" : ORDINALS[eye.subject - 1]}
              </span>
              .
            </p>
            {eye.selective !== null && (
              <p className="text-quiet">
                It has {eye.selective.toFixed(1)} times the contrast of the rest
                {eye.selective < 1 ? ": the rest is busier." : "."}
              </p>
            )}
            {eye.selective !== null && <SelectiveHistory />}
            {!isFirst && (
              <button className="act -mx-2" disabled={busy} onClick={() => void mend()}>
                {busy ? "Trying moves…" : "Bring it first"} <Keys of={JUDGE_ACTS["judge-mend-eye"]} />
              </button>
            )}
          </div>
        )
      )}
    </Group>
  );
}
