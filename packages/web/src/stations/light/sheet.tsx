import {
  formatSigned,
  formatStops,
  isRich,
  lightMoveSchema,
  rangeOf,
  shapeWords,
  type LightMove,
  type Recipe,
} from "@yelm/core";
import { useEffect } from "react";
import { useStore } from "zustand";
import { goToStation } from "../../bench/go.ts";
import { Amount } from "../../controls/amount.tsx";
import { asStops } from "../../controls/formats.ts";
import { useEdit, useSession } from "../../data/use-session.ts";
import { nameOf } from "../../instruments/use-histograms.ts";
import { useAct } from "../../keys/acts.ts";
import { Keys } from "../../keys/keys.tsx";
import { benchView, type AmountInHand } from "../../picture/bench-view.ts";
import { useAnswer } from "../../workers/use-answer.ts";
import { removeShape, ShapeGroup, ShapeList } from "../../shapes/shape-list.tsx";
import { ShapeToolRow } from "../../shapes/tool-row.tsx";
import { LIGHT_ACTS } from "./acts.ts";
import { newId } from "../../shapes/stack-edits.ts";
import { addArea } from "../weigh/area-edits.ts";
import { addOpposite, changeMove, duplicateMove, scaleMoves } from "./edits.ts";
import { CurveOfMove } from "./curve-of-move.tsx";
import { EffectsOfMove } from "./effects-of-move.tsx";
import { GroupOfMove, LightGroups } from "./groups.tsx";
import { LimitsOfMove } from "./limits-of-move.tsx";
import { Guides } from "./guides.tsx";
import type { SheetProps } from "../station.ts";
import { LightReading } from "./reading.tsx";
import { LIGHT_STACK } from "./stack.ts";
import { ZonesOfMove } from "./zones-of-move.tsx";

const A_LITTLE_STOPS = 1 / 6;
const SOME_STOPS = 1 / 3;
const MUCH_STOPS = 2 / 3;
/** Stops that fill a row's bar. */
const FULL_BAR_STOPS = 1.5;

/** Light: the ordered stack of moves and the one in hand. */
export function LightStation({ negative }: SheetProps) {
  const moves = useEdit((state) => state.recipe.light.moves);
  const { moveId } = useStore(benchView);
  const index = moves.findIndex((move) => move.id === moveId);
  const active = moves[index] as LightMove | undefined;
  const find = (id: string) => moves.find((move) => move.id === id)!;
  const session = useSession();
  const halveAll = () => session.change("Light", "All moves halved", (recipe) => scaleMoves(recipe, 0.5));
  const strip = () => benchView.setState({ laidOut: "strip", stripOf: [allMoves(session)] });
  useAct({ ...LIGHT_ACTS["moves-strip"], enabled: moves.length > 0, run: strip });
  useAct({ ...LIGHT_ACTS["halve-all"], enabled: moves.length > 0, run: halveAll });
  return (
    <>
      <ShapeToolRow stack={LIGHT_STACK} active={active && { ...active, label: "" }} />
      {moves.length === 0 ? (
        <p className="text-quiet py-3 leading-relaxed">
          No light moves yet. Take the brush and paint where the picture wants less light, or draw an ellipse from its
          middle outwards where it wants more. Stops are set afterwards.
        </p>
      ) : (
        <ShapeList
          stack={LIGHT_STACK}
          label="Light moves"
          more={(id) => moreOf(find(id))}
          aside={(id) => <StopsBar stops={find(id).stops} active={id === moveId} />}
        />
      )}
      {moves.length > 1 && (
        <div className="-mx-2 flex">
          <button className="act" title="Every move at half its amount" onClick={halveAll}>
            Halve all <Keys of={LIGHT_ACTS["halve-all"]} />
          </button>
          <button className="act" title="The print with all moves at five strengths" onClick={strip}>
            All in a strip
          </button>
        </div>
      )}
      {moves.length > 0 && <LightReading />}
      {active && <MoveGroup key={active.id} move={active} number={index + 1} />}
      {active && <EffectsOfMove move={active} />}
      {active && <CurveOfMove key={`curve ${active.id}`} move={active} />}
      {active && <LimitsOfMove move={active} />}
      <LightGroups />
      <Guides negative={negative} />
    </>
  );
}

/** The strength of all moves together, as an amount whose present value is always the whole. */
function allMoves(session: ReturnType<typeof useSession>): AmountInHand {
  return {
    label: "All moves",
    now: () => ({
      value: 1,
      range: { minimum: 0, maximum: 2 },
      step: 0.125,
      format: (share) => `${Math.round(100 * share)} %`,
      onChange: (share) => session.preview((recipe) => scaleMoves(recipe, share)),
      onEnd: () => session.commit("Light", "Strength of all moves"),
    }),
  };
}

function moreOf(move: LightMove): string {
  const { shape, invert, amountPercent } = move;
  const words = `${invert ? `outside ${shapeWords(shape)}` : shapeWords(shape)}${isRich(move) && move.shape.kind !== "region" ? ", with more" : ""}`;
  return amountPercent === 100 ? words : `${words}, ${amountPercent} %`;
}

/** Burn left and lift right of one line, in stops. */
function StopsBar({ stops, active }: { stops: number; active: boolean }) {
  const share = Math.min(1, Math.abs(stops) / FULL_BAR_STOPS) * 50;
  return (
    <>
      <span className="relative h-[7px] w-[56px] shrink-0" aria-hidden>
        <i className="bg-quiet absolute top-[-2px] left-1/2 h-[11px] w-px" />
        <i
          className={`absolute top-0 h-full ${active ? "bg-accent" : "bg-quiet"}`}
          style={stops < 0 ? { right: "50%", width: `${share}%` } : { left: "50%", width: `${share}%` }}
        />
      </span>
      <span className="w-9 shrink-0 text-right font-serif text-[15px]">{formatStops(stops)}</span>
    </>
  );
}

/** What the move does at most, on average, and to how much of the picture. */
function Extent({ move }: { move: LightMove }) {
  const recipe = useEdit((state) => state.recipe);
  const key = [recipe.ground, recipe.weigh, recipe.shape, recipe.light.groups, move].map(nameOf).join();
  const { data } = useAnswer("moveExtent", { recipe, moveId: move.id }, { key, restMs: 300 });
  if (!data) return null;
  if (data.share === 0) return <p className="text-quiet pt-1">It changes nothing in the frame.</p>;
  return (
    <p className="text-quiet pt-1" data-testid="move-extent">
      at most {formatSigned(data.most, 2)}, {formatSigned(data.mean, 2)} on average, over{" "}
      {Math.max(1, Math.round(100 * data.share))} % of the picture
    </p>
  );
}

function MoveGroup({ move, number }: { move: LightMove; number: number }) {
  const session = useSession();
  const preview = (change: (old: LightMove) => LightMove) =>
    session.preview((recipe) => changeMove(recipe, move.id, change));
  const keep = (what: string) => session.commit("Light", `${what} of ${move.name}`);
  const change = (what: string, next: (old: LightMove) => LightMove) => {
    preview(next);
    keep(what);
  };
  const range = rangeOf(lightMoveSchema, "stops");
  const setStops = (what: string, next: (stops: number) => number) =>
    change(what, (old) => ({
      ...old,
      stops: Number(Math.min(range.maximum, Math.max(range.minimum, next(old.stops))).toFixed(4)),
    }));
  /** Adds a move made of this one, and takes it in hand. */
  const addFrom = (what: string, make: (recipe: Recipe, copyId: string) => Recipe) => {
    const copyId = newId();
    session.change("Light", what, (recipe) => make(recipe, copyId));
    const { moves } = session.store.getState().recipe.light;
    if (moves.some(({ id }) => id === copyId)) benchView.setState({ moveId: copyId });
  };
  const duplicate = () =>
    addFrom(`Copy of ${move.name}`, (recipe, copyId) => duplicateMove(recipe, move.id, copyId).recipe);
  const duplicateLinked = () =>
    addFrom(`Linked copy of ${move.name}`, (recipe, copyId) => duplicateMove(recipe, move.id, copyId, newId()).recipe);
  const around = () => addFrom(`Opposite of ${move.name}`, (recipe, copyId) => addOpposite(recipe, move.id, copyId));
  const unlink = () => change("Link", (old) => ({ ...old, link: "" }));
  const weighApart = () => {
    const made = addArea(session.store.getState().recipe, structuredClone(move.shape));
    session.change(
      "Weigh",
      `Area of ${move.name}`,
      (recipe) => addArea(recipe, structuredClone(move.shape), made.id).recipe,
    );
    benchView.setState({ areaId: made.id });
    goToStation("Weigh");
    benchView.setState({ areaId: made.id });
  };
  const before = (on: boolean) => () =>
    benchView.setState({
      tried: on
        ? changeMove(session.store.getState().recipe, move.id, (old) => ({ ...old, on: false, link: "" }))
        : null,
    });
  useEffect(() => () => benchView.setState({ tried: null }), []);
  useAct({ ...LIGHT_ACTS["opposite-around"], run: around });
  useAct({ ...LIGHT_ACTS["duplicate-linked"], run: duplicateLinked });
  useAct({ ...LIGHT_ACTS.unlink, enabled: move.link !== "", run: unlink });
  useAct({ ...LIGHT_ACTS["weigh-apart"], run: weighApart });
  useAct({ ...LIGHT_ACTS["before-move"], run: before(true), release: before(false) });
  const less = () => setStops("Stops", (s) => s - A_LITTLE_STOPS);
  const more = () => setStops("Stops", (s) => s + A_LITTLE_STOPS);
  useAct({ ...LIGHT_ACTS["some-less"], run: () => setStops("Stops", (s) => s - SOME_STOPS) });
  useAct({ ...LIGHT_ACTS["some-more"], run: () => setStops("Stops", (s) => s + SOME_STOPS) });
  useAct({ ...LIGHT_ACTS["much-less"], run: () => setStops("Stops", (s) => s - MUCH_STOPS) });
  useAct({ ...LIGHT_ACTS["much-more"], run: () => setStops("Stops", (s) => s + MUCH_STOPS) });
  const halve = () => setStops("Half", (s) => s / 2);
  const opposite = () => setStops("Opposite", (s) => -s);
  const invert = () => change("Side", (old) => ({ ...old, invert: !old.invert }));
  useAct({ ...LIGHT_ACTS.less, run: less });
  useAct({ ...LIGHT_ACTS.more, run: more });
  useAct({ ...LIGHT_ACTS.halve, run: halve });
  useAct({ ...LIGHT_ACTS.opposite, run: opposite });
  useAct({ ...LIGHT_ACTS.invert, run: invert });
  useAct({ ...LIGHT_ACTS["duplicate-move"], run: duplicate });
  useAct({ ...LIGHT_ACTS["remove-move"], run: () => removeShape(session, LIGHT_STACK, move.id, move.name) });

  return (
    <ShapeGroup stack={LIGHT_STACK} item={{ ...move, label: "" }} number={number} onDuplicate={duplicate}>
      <Amount
        label="Stops"
        value={move.stops}
        range={{ ...range, default: 0 }}
        step={A_LITTLE_STOPS}
        format={asStops}
        onChange={(stops) => preview((old) => ({ ...old, stops }))}
        onEnd={() => keep("Stops")}
      />
      <Amount
        label="Amount"
        value={move.amountPercent}
        range={rangeOf(lightMoveSchema, "amountPercent")}
        step={5}
        format={(v) => `${Math.round(v)} %`}
        onChange={(v) => preview((old) => ({ ...old, amountPercent: Math.round(v) }))}
        onEnd={() => keep("Amount")}
      />
      <div className="-mx-2 flex flex-wrap pt-1">
        <button className="act" onClick={less}>
          Darker <Keys of={LIGHT_ACTS.less} />
        </button>
        <button className="act" onClick={more}>
          Lighter <Keys of={LIGHT_ACTS.more} />
        </button>
        <button className="act" onClick={halve}>
          Halve it <Keys of={LIGHT_ACTS.halve} />
        </button>
        <button className="act" onClick={opposite}>
          Opposite <Keys of={LIGHT_ACTS.opposite} />
        </button>
        <button className="act" aria-pressed={move.invert} onClick={invert}>
          {move.invert ? "Outside" : "Inside"} <Keys of={LIGHT_ACTS.invert} />
        </button>
        <button className="act" title="A move that does the opposite outside of this one" onClick={around}>
          Opposite elsewhere <Keys of={LIGHT_ACTS["opposite-around"]} />
        </button>
        <button className="act" onPointerDown={before(true)} onPointerUp={before(false)} onPointerLeave={before(false)}>
          Before <Keys of={LIGHT_ACTS["before-move"]} hold />
        </button>
        <button className="act" title="A copy that is changed together with this one" onClick={duplicateLinked}>
          Linked copy
        </button>
        {move.link !== "" && (
          <button className="act" onClick={unlink}>
            Unlink
          </button>
        )}
        <button
          className="act"
          title="The same shape as an area of Weigh, with a conversion of its own"
          onClick={weighApart}
        >
          Weigh it apart
        </button>
      </div>
      <Extent move={move} />
      <GroupOfMove move={move} />
      <ZonesOfMove move={move} />
    </ShapeGroup>
  );
}
