import { formatStops, formatZone, lightMoveSchema, rangeOf, zonesSchema, type LightMove } from "@yelm/core";
import { useEffect, useRef, useState } from "react";
import { useStore } from "zustand";
import { Amount } from "../../controls/amount.tsx";
import { zoneThirds } from "../../controls/formats.ts";
import { NoAnswer } from "../../controls/no-answer.tsx";
import { useEdit, useSession } from "../../data/use-session.ts";
import { useAct } from "../../keys/acts.ts";
import { Keys } from "../../keys/keys.tsx";
import { benchView } from "../../picture/bench-view.ts";
import { useAnswer } from "../../workers/use-answer.ts";
import { LIGHT_ACTS } from "./acts.ts";
import { changeMove } from "./edits.ts";

const STEP_STOPS = 1 / 6;
const MOST_STOPS = (lightMoveSchema.properties.byZone.items as { maximum?: number }).maximum ?? 3;
/** Zones of which there is less inside the shape are passed over. */
const LEAST_SHARE = 0.005;

/** On which zones a move acts, and what it does to each by itself. */
export function ZonesOfMove({ move }: { readonly move: LightMove }) {
  const session = useSession();
  const [open, setOpen] = useState(move.byZone.some((stops) => stops !== 0));
  const [asked, setAsked] = useState(false);
  const turn = () => {
    setAsked(!open);
    setOpen(!open);
  };
  const set = (zones: Partial<LightMove["zones"]>) =>
    session.preview((recipe) => changeMove(recipe, move.id, (old) => ({ ...old, zones: { ...old.zones, ...zones } })));
  const keep = () => session.commit("Light", `Zones of ${move.name}`);
  useAct({ ...LIGHT_ACTS["zone-by-zone"], run: turn });
  const limit = (field: "from" | "to", label: string, bound: (zone: number) => Partial<LightMove["zones"]>) => (
    <Amount
      label={label}
      value={move.zones[field]}
      range={rangeOf(zonesSchema, field)}
      step={1}
      format={zoneThirds}
      onChange={(zone) => set(bound(Math.round(3 * zone) / 3))}
      onEnd={keep}
    />
  );
  return (
    <div className="pt-2">
      {limit("from", "From zone", (from) => ({ from, to: Math.max(from, move.zones.to) }))}
      {limit("to", "To zone", (to) => ({ to, from: Math.min(to, move.zones.from) }))}
      <button className="act -mx-2" aria-pressed={open} onClick={turn}>
        Zone by zone <Keys of={LIGHT_ACTS["zone-by-zone"]} />
      </button>
      {open && <ZoneRows move={move} asked={asked} onLeave={() => setOpen(false)} />}
    </div>
  );
}

interface ZoneRowsProps {
  readonly move: LightMove;
  /** Whether they were asked for just now: then they come into sight. */
  readonly asked: boolean;
  readonly onLeave: () => void;
}

/** The zones found inside the shape, with their share and what is done to each: one in hand, lifted and burned by keys. */
function ZoneRows({ move, asked, onLeave }: ZoneRowsProps) {
  const session = useSession();
  const recipe = useEdit((state) => state.recipe);
  const { ground, weigh, shape } = recipe;
  const key = JSON.stringify([ground, weigh, shape, move.shape, move.invert]);
  const answer = useAnswer("zonesInside", { recipe, moveId: move.id }, { key, restMs: 250 });
  const shares = answer.data ?? null;
  const zones = move.byZone.map((_, zone) => zone).filter((zone) => move.byZone[zone] !== 0 || (shares?.[zone] ?? 0) >= LEAST_SHARE); // prettier-ignore
  const [chosen, setChosen] = useState<number | null>(null);
  // First the zone of which there is most.
  const most = shares ? zones.toSorted((p, q) => shares[q] - shares[p])[0] : zones[0];
  const inHand = chosen !== null && zones.includes(chosen) ? chosen : (most ?? null);
  // Opened and stepped through by keys, they must be seen.
  const rows = useRef<HTMLDivElement>(null);
  useEffect(() => {
    if (asked || chosen !== null) rows.current?.scrollIntoView({ block: "nearest" });
  }, [asked, chosen, zones.length]);
  const go = (by: 1 | -1) => {
    if (inHand === null) return;
    const next = zones[zones.indexOf(inHand) + by];
    if (next !== undefined) setChosen(next);
  };
  const step = (zone: number | null, by: number) => {
    if (zone === null) return;
    // Keys may come faster than the page is drawn, so what is changed is read from the session.
    const now = session.store.getState().recipe.light.moves.find(({ id }) => id === move.id);
    if (!now) return;
    const stops = Number(Math.min(MOST_STOPS, Math.max(-MOST_STOPS, now.byZone[zone] + by)).toFixed(4));
    // Told with its stops: acts of one name that follow each other soon are one, and every press is to be taken back by itself.
    session.change("Light", `Zone ${formatZone(zone)} of ${move.name} ${formatStops(stops)}`, (recipe) =>
      changeMove(recipe, move.id, (old) => ({
        ...old,
        byZone: old.byZone.map((own, i) => (i === zone ? stops : own)),
      })),
    );
  };
  useAct({ ...LIGHT_ACTS["zone-lighter"], run: () => go(1) });
  useAct({ ...LIGHT_ACTS["zone-darker"], run: () => go(-1) });
  useAct({ ...LIGHT_ACTS["zone-lift"], run: () => step(inHand, STEP_STOPS) });
  useAct({ ...LIGHT_ACTS["zone-burn"], run: () => step(inHand, -STEP_STOPS) });
  // What is laid out over the picture is left first.
  const isLaidOut = useStore(benchView, ({ laidOut }) => laidOut !== null);
  useAct({ ...LIGHT_ACTS["zone-done"], enabled: !isLaidOut, run: onLeave });
  return (
    <div ref={rows} className="scroll-mt-12 pt-1">
      <NoAnswer answer={answer} what="The zones inside" />
      {answer.data === null && <p className="text-quiet">Nothing of the shape lies in the frame.</p>}
      <ol
        aria-label="Zones inside the shape"
        className="-mx-2"
        onPointerLeave={() => benchView.setState({ zone: null })}
      >
        {zones.toReversed().map((zone) => {
          const active = zone === inHand;
          return (
            <li
              key={zone}
              aria-current={active || undefined}
              className={`flex items-center gap-2 rounded px-2 ${active ? "bg-base-200" : ""}`}
            >
              <button
                className="flex flex-1 cursor-pointer items-baseline gap-2 py-0.5 text-left"
                title="Held, it is hatched in the picture"
                onClick={() => setChosen(zone)}
                onPointerDown={() => benchView.setState({ zone })}
                onPointerUp={() => benchView.setState({ zone: null })}
              >
                <span className={`w-9 font-serif text-[15px] ${active ? "text-accent" : ""}`}>{formatZone(zone)}</span>
                <span className="text-quiet w-12 tabular-nums">
                  {shares ? `${Math.round(100 * shares[zone])} %` : ""}
                </span>
                <span className="font-serif text-[15px]">
                  {move.byZone[zone] === 0 ? "" : formatStops(move.byZone[zone])}
                </span>
              </button>
              <button
                className="act px-1.5"
                aria-label={`Burn zone ${formatZone(zone)} a little`}
                onClick={() => step(zone, -STEP_STOPS)}
              >
                −
              </button>
              <button
                className="act px-1.5"
                aria-label={`Lift zone ${formatZone(zone)} a little`}
                onClick={() => step(zone, STEP_STOPS)}
              >
                +
              </button>
            </li>
          );
        })}
      </ol>
      <p className="text-quiet pt-1">
        Next zone <kbd>↑</kbd> <kbd>↓</kbd>, burn or lift it <kbd>←</kbd> <kbd>→</kbd>
      </p>
    </div>
  );
}
