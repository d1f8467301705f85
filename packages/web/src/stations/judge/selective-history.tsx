import { walkRevisions, type Recipe, type Revision } from "@yelm/core";
import { useMemo, useState } from "react";
import { NoAnswer } from "../../controls/no-answer.tsx";
import { useNotes } from "../../data/notes/use-notes.ts";
import { useEdit } from "../../data/use-session.ts";
import { Chart, themeColours } from "../../instruments/chart.tsx";
import { useLook } from "../../theme/theme.ts";
import { useMeasured, usePool } from "../../workers/use-answer.ts";

/** Most states of the work that are measured. */
const MOST_STATES = 12;
const CHART_PX = 84;

interface State {
  readonly label: string;
  readonly selective: number;
}

/** The subject's contrast over the rest's through the work, from the first state of the print to the present one. */
export function SelectiveHistory() {
  const [open, setOpen] = useState(false);
  const head = useEdit((state) => state.head);
  const revisions = useEdit((state) => state.revisions);
  const path = useMemo(() => sampled(pathTo(head, revisions)), [head, revisions]);
  if (path.length < 2) return null;
  return open ? (
    <History path={path} />
  ) : (
    <div>
      <button className="act -mx-2" onClick={() => setOpen(true)}>
        Its history over the work
      </button>
    </div>
  );
}

function History({ path }: { path: readonly Revision[] }) {
  const pool = usePool();
  const plan = useNotes((notes) => notes.plan);
  const kept = useEdit((state) => state.kept);
  const head = useEdit((state) => state.head);
  const revisions = useEdit((state) => state.revisions);
  const answer = useMeasured<readonly State[]>(
    "selective history",
    async (signal) => {
      const found: State[] = [];
      for (const { id, label } of path) {
        signal.throwIfAborted();
        const recipe: Recipe = walkRevisions(kept, head, id, revisions);
        const { selective } = await pool.ask("eye", { recipe, plan });
        if (selective !== null) found.push({ label, selective });
      }
      return found;
    },
    { key: `${path.map(({ id }) => id).join()} ${JSON.stringify(plan.marks)}`, restMs: 400 },
  );
  const states = answer.data;
  return (
    <div className="pt-1" data-testid="selective-history">
      <NoAnswer answer={answer} what="The history" />
      {!states && !answer.error && <p className="text-quiet">Looking at {path.length} states…</p>}
      {states && states.length > 1 && <Line states={states} />}
    </div>
  );
}

function Line({ states }: { states: readonly State[] }) {
  const { theme } = useLook();
  const option = useMemo(() => {
    const { quiet, rule, accent } = themeColours();
    return {
      theme,
      animation: false,
      grid: { left: 26, right: 6, top: 6, bottom: 6 },
      xAxis: { type: "category", data: states.map((_, i) => i), show: false, boundaryGap: false },
      yAxis: {
        type: "value",
        scale: true,
        splitNumber: 2,
        splitLine: { lineStyle: { color: rule, opacity: 0.35 } },
        axisLabel: { color: quiet, fontSize: 11 },
      },
      series: [
        {
          type: "line",
          data: states.map(({ selective }) => Number(selective.toFixed(2))),
          symbol: "circle",
          symbolSize: 4,
          silent: true,
          lineStyle: { color: accent, width: 1.5 },
          itemStyle: { color: accent },
        },
      ],
    };
  }, [states, theme]);
  const steps = states.slice(1).map((state, i) => ({ ...state, by: state.selective - states[i].selective }));
  const best = steps.reduce((most, step) => (step.by > most.by ? step : most));
  const [first, last] = [states[0], states.at(-1)!];
  const text = `From ${first.selective.toFixed(1)} to ${last.selective.toFixed(1)} times the rest’s contrast`;
  return (
    <>
      <Chart option={option} height={CHART_PX} describe={`${text}, over ${states.length} states of the work`} />
      <p className="text-quiet leading-snug">
        {text}
        {best.by > 0.05 ? `; most of it up to “${best.label}” (+${best.by.toFixed(1)}).` : "."}
      </p>
    </>
  );
}

/** The revisions from the first one to `head`. */
function pathTo(head: string, revisions: ReadonlyMap<string, Revision>): Revision[] {
  const path: Revision[] = [];
  for (let at = revisions.get(head); at; at = at.parent === null ? undefined : revisions.get(at.parent))
    path.unshift(at);
  return path;
}

/** As many as are measured, evenly, the first and the last among them. */
function sampled(path: readonly Revision[]): Revision[] {
  if (path.length <= MOST_STATES) return [...path];
  return Array.from({ length: MOST_STATES }, (_, i) => path[Math.round((i * (path.length - 1)) / (MOST_STATES - 1))]);
}
