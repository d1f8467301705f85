import { habitFindings, LOOKS, setFindings, worstFirst, type Finding, type Meant } from "@yelm/core";
import { useMemo } from "react";
import { useNotes } from "../../data/notes/use-notes.ts";
import { useHabits, useNegative, useSet } from "../../data/queries.ts";
import { useEdit } from "../../data/use-session.ts";
import { nameOf } from "../../instruments/use-histograms.ts";
import { useMeasured, usePool } from "../../workers/use-answer.ts";

/** The print is looked at once it has rested for so long. */
const REST_MS = 700;

export interface SecondLook {
  /** Findings that are open, the worst first. */
  readonly open: readonly Finding[];
  /** Those that are meant so. */
  readonly meant: readonly { readonly finding: Finding; readonly said: Meant }[];
  readonly pending: boolean;
  readonly error: Error | null;
}

/** What a second look finds in the print as it is; one look after the other, so that the hand is never kept waiting. */
export function useSecondLook(): SecondLook {
  const recipe = useEdit((state) => state.recipe);
  const plan = useNotes((notes) => notes.plan);
  const meant = useNotes((notes) => notes.meant);
  const pool = usePool();
  const answer = useMeasured(
    "second look",
    async (signal) => {
      const found: Finding[] = [];
      for (const look of LOOKS) {
        signal.throwIfAborted();
        found.push(...(await pool.ask("lookFor", { recipe, plan, look })));
      }
      return found;
    },
    { key: `${nameOf(recipe)} ${JSON.stringify(plan)}`, restMs: REST_MS },
  );
  const { data, error, isFetching } = answer;
  const habits = useHabits().data;
  const { id: printId, negativeId } = useEdit((state) => state.print);
  const rollId = useNegative(negativeId).data?.rollId;
  const entry = useSet(rollId).data?.find(({ id }) => id === printId);
  return useMemo(() => {
    const all = worstFirst([
      ...(data ?? []),
      ...(data && habits ? habitFindings(recipe, habits) : []),
      ...(data && entry ? setFindings(entry.outlying) : []),
    ]);
    const said = (finding: Finding) => meant.find((one) => one.finding === finding.id);
    return {
      open: all.filter((finding) => !said(finding)),
      meant: all.flatMap((finding) => {
        const one = said(finding);
        return one ? [{ finding, said: one }] : [];
      }),
      pending: isFetching || data === undefined,
      error,
    };
  }, [data, meant, isFetching, error, habits, entry, recipe]);
}
