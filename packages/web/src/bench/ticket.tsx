import { comparing } from "../stations/judge/compare.ts";
import { BENCH_ACTS } from "./acts.ts";
import { goToStation } from "./go.ts";
import {
  describeRecipe,
  restoreLine,
  STATIONS,
  strikeLine,
  type Negative,
  type Recipe,
  type Revision,
  type Station,
  type TicketLine,
  changeFrame,
  itemOfLine,
} from "@yelm/core";
import { formatDistanceToNowStrict } from "date-fns";
import { ChevronDown, ChevronUp } from "lucide-react";
import { useMemo, useState } from "react";
import { useStore } from "zustand";
import { useEdit, useSession } from "../data/use-session.ts";
import { useAct } from "../keys/acts.ts";
import { benchView } from "../picture/bench-view.ts";

const FOLDED_LINES = 2;

interface TicketProps {
  readonly negative: Negative;
  /** @param itemId - of the light move or area that the line is about. */
  readonly onGo: (station: Station, itemId: string | null) => void;
}

/** The recipe as a slip of paper: one line an act. Folded it shows the last lines; open, all of them and the history. */
export function Ticket({ negative, onGo }: TicketProps) {
  const recipe = useEdit((state) => state.recipe);
  const { ticketOpen } = useStore(benchView);
  const [struck, setStruck] = useState<ReadonlyMap<string, Recipe>>(new Map());
  const [page, setPage] = useState<"lines" | "history">("lines");
  const lines = useMemo(() => withStruck(describeRecipe(recipe), struck), [recipe, struck]);
  const toggle = () => benchView.setState({ ticketOpen: !ticketOpen });
  useAct({ ...BENCH_ACTS["ticket"], run: toggle });
  return (
    <div className="relative h-full w-[250px] shrink-0 py-2 pr-2">
      <button
        className="bg-paper text-ink block h-full w-full cursor-pointer overflow-hidden rounded-[2px] px-3 py-1.5 text-left font-serif text-[14px] leading-[1.3]"
        aria-expanded={ticketOpen}
        aria-label="Ticket"
        onClick={toggle}
      >
        {lines.length === 0 && <span className="text-ink-quiet">A plain print: nothing done yet.</span>}
        {lines.slice(-FOLDED_LINES).map((line) => (
          <span key={line.id} className="block truncate">
            {numberOf(line)} · {line.text}
          </span>
        ))}
        <span className="text-ink-quiet absolute right-5 bottom-3 flex items-center gap-1 text-[12px]">
          {lines.length} {lines.length === 1 ? "line" : "lines"} <ChevronUp size={12} />
        </span>
      </button>
      {ticketOpen && (
        <section
          aria-label="Ticket, open"
          data-testid="ticket"
          className="bg-paper text-ink absolute right-2 bottom-2 z-20 flex max-h-[70vh] w-[340px] flex-col rounded-[2px] font-serif text-[15px] shadow-lg"
        >
          <header className="flex items-center justify-between px-4 pt-3 pb-1">
            <span className="flex gap-4" role="tablist">
              {(["lines", "history"] as const).map((name) => (
                <button
                  key={name}
                  role="tab"
                  aria-selected={page === name}
                  className={`cursor-pointer ${page === name ? "underline underline-offset-4" : "text-ink-quiet"}`}
                  onClick={() => setPage(name)}
                >
                  {name === "lines" ? "Ticket" : "History"}
                </button>
              ))}
            </span>
            <button className="text-ink-quiet cursor-pointer p-1" aria-label="Fold the ticket" onClick={toggle}>
              <ChevronDown size={16} />
            </button>
          </header>
          <div className="slim-scroll overflow-y-auto px-4 pb-4">
            {page === "lines" ? (
              <Lines negative={negative} lines={lines} struck={struck} setStruck={setStruck} onGo={onGo} />
            ) : (
              <History />
            )}
          </div>
        </section>
      )}
    </div>
  );
}

interface ShownLine extends TicketLine {
  readonly off: boolean;
}

interface LinesProps {
  readonly lines: readonly ShownLine[];
  readonly struck: ReadonlyMap<string, Recipe>;
  readonly setStruck: (struck: ReadonlyMap<string, Recipe>) => void;
  /** @param itemId - of the light move or area that the line is about. */
  readonly onGo: (station: Station, itemId: string | null) => void;
  readonly negative: Negative;
}

function Lines({ negative, lines, struck, setStruck, onGo }: LinesProps) {
  const session = useSession();
  const flip = (line: ShownLine) => {
    const { recipe } = session.store.getState();
    // Struck or put back, a lens correction takes the light moves along.
    const carried = (from: Recipe, to: Recipe) =>
      JSON.stringify(from.ground.lens) === JSON.stringify(to.ground.lens)
        ? to
        : changeFrame({ ...to, ground: { ...to.ground, lens: from.ground.lens } }, negative, { lens: to.ground.lens });
    const next = new Map(struck);
    if (line.off) {
      session.change(line.station, `Put back: ${line.text}`.slice(0, 200), () =>
        carried(recipe, restoreLine(recipe, line.id, struck.get(line.id) ?? recipe)),
      );
      next.delete(line.id);
    } else {
      if (!itemOfLine(line.id)) next.set(line.id, recipe);
      session.change(line.station, `Struck out: ${line.text}`.slice(0, 200), () =>
        carried(recipe, strikeLine(recipe, line.id)),
      );
    }
    setStruck(next);
  };
  if (lines.length === 0) return <p className="text-ink-quiet py-2">A plain print: nothing done yet.</p>;
  return (
    <ol>
      {lines.map((line) => (
        <li key={line.id} className="flex items-baseline gap-2 border-b border-black/10 py-1">
          <span className="text-ink-quiet w-4 shrink-0 text-right">{numberOf(line)}</span>
          <button
            className={`flex-1 cursor-pointer text-left ${line.off ? "text-ink-quiet line-through" : ""}`}
            onClick={() => onGo(line.station, itemOfLine(line.id)?.id ?? null)}
          >
            {line.text}
          </button>
          <button
            role="switch"
            aria-checked={!line.off}
            aria-label={line.text}
            className="text-ink-quiet w-7 cursor-pointer font-sans text-[12px]"
            onClick={() => flip(line)}
          >
            {line.off ? "off" : "on"}
          </button>
        </li>
      ))}
    </ol>
  );
}

function History() {
  const session = useSession();
  const head = useEdit((state) => state.head);
  const revisions = useEdit((state) => state.revisions);
  const compare = (id: string) => {
    comparing.setState({ by: "wipe", against: { kind: "revision", id } });
    goToStation("Judge");
  };
  const shown = [...revisions.values()].reverse();
  const above = useMemo(() => ancestors(head, revisions), [head, revisions]);
  return (
    <ol>
      {shown.map((revision) => (
        <li key={revision.id} className="group flex items-baseline border-b border-black/10">
          <button
            aria-current={revision.id === head ? "step" : undefined}
            className={`flex min-w-0 flex-1 cursor-pointer items-baseline justify-between gap-3 py-1 text-left ${above.has(revision.id) ? "" : "text-ink-quiet italic"}`}
            onClick={() => session.goTo(revision.id)}
          >
            <span className="truncate">
              {revision.id === head && "→ "}
              {revision.label}
            </span>
            <span className="text-ink-quiet shrink-0 font-sans text-[11px]">
              {formatDistanceToNowStrict(new Date(revision.at))} ago
            </span>
          </button>
          {revision.id !== head && (
            <button
              className="text-ink-quiet shrink-0 cursor-pointer pl-2 font-sans text-[11px] opacity-0 group-hover:opacity-100 focus:opacity-100"
              title="See the print beside this state, in Judge"
              onClick={() => compare(revision.id)}
            >
              compare
            </button>
          )}
        </li>
      ))}
    </ol>
  );
}

function ancestors(head: string, revisions: ReadonlyMap<string, Revision>): Set<string> {
  const found = new Set<string>();
  for (let id: string | null = head; id; id = revisions.get(id)?.parent ?? null) found.add(id);
  return found;
}

/** Lines of the recipe with those that were struck out kept in their places. */
function withStruck(lines: readonly TicketLine[], struck: ReadonlyMap<string, Recipe>): ShownLine[] {
  const live = lines.map((line) => ({ ...line, off: line.text.endsWith("(off)") }));
  const gone = [...struck].flatMap(([id, recipe]) =>
    live.some((line) => line.id === id) ? [] : describeRecipe(recipe).filter((line) => line.id === id),
  );
  const all = [...live, ...gone.map((line) => ({ ...line, off: true }))];
  return all.sort((a, b) => STATIONS.indexOf(a.station) - STATIONS.indexOf(b.station));
}

function numberOf(line: TicketLine): number {
  return STATIONS.indexOf(line.station) + 1;
}
