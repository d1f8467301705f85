import {
  formatStops,
  type BurnMap,
  type Contour,
  type Negative,
  type Recipe,
  LEAST_AGREEMENT,
  sideOfLight,
} from "@yelm/core";
import { useEffect } from "react";
import { useStore } from "zustand";
import { Amount } from "../../controls/amount.tsx";
import { asPercent } from "../../controls/formats.ts";
import { Group } from "../../controls/group.tsx";
import { NoAnswer } from "../../controls/no-answer.tsx";
import { useEdit, useSession } from "../../data/use-session.ts";
import { beforeCurve } from "../../instruments/before-curve.ts";
import { nameOf } from "../../instruments/use-histograms.ts";
import { useAct } from "../../keys/acts.ts";
import { Keys } from "../../keys/keys.tsx";
import { benchView } from "../../picture/bench-view.ts";
import { useFrame } from "../../picture/use-picture.ts";
import { useAnswer } from "../../workers/use-answer.ts";
import { LIGHT_ACTS } from "./acts.ts";
import {
  contourTotals,
  contoursToMoves,
  directionMoves,
  placesInFrame,
  planesRecipe,
  splashMoves,
} from "./guide-edits.ts";

/** Aids to see light before it is changed: lit planes, a plan of contours, where light comes from, splashes of it. */
export function Guides({ negative }: { readonly negative: Negative }) {
  const session = useSession();
  const recipe = useEdit((state) => state.recipe);
  const { tool, pen, smoothing, planShown } = useStore(benchView);
  const { contours } = recipe.light;
  const planes = (on: boolean) => () =>
    benchView.setState({
      tried: on ? planesRecipe(session.store.getState().recipe, benchView.getState().smoothing) : null,
    });
  useEffect(() => () => benchView.setState({ tried: null }), []);
  useAct({ ...LIGHT_ACTS.planes, run: planes(true), release: planes(false) });
  const takePen = (lift: boolean) => () => benchView.setState({ tool: "contour", pen: lift, planShown: true });
  useAct({ ...LIGHT_ACTS["pen-lift"], run: takePen(true) });
  useAct({ ...LIGHT_ACTS["pen-burn"], run: takePen(false) });
  useAct({
    ...LIGHT_ACTS["plan-shown"],
    run: () => benchView.setState({ planShown: !benchView.getState().planShown }),
  });
  const carryOut = () => {
    session.change("Light", "Contour plan carried out", contoursToMoves);
    benchView.setState({ tool: "look" });
  };
  const wipe = () =>
    session.change("Light", "Contour plan wiped", (old) => ({ ...old, light: { ...old.light, contours: [] } }));
  useAct({ ...LIGHT_ACTS["plan-moves"], enabled: contours.length > 0, run: carryOut });
  return (
    <Group title="Guides" folded={contours.length > 0 ? `plan of ${contours.length} lines` : "planes, plan, direction"}>
      <Amount
        label="Smoothing"
        value={smoothing}
        range={{
          minimum: 0,
          maximum: 1,
          default: 0.7,
          description: "How much detail is left out while lit planes are shown.",
        }}
        step={0.1}
        format={asPercent}
        typedScale={100}
        onChange={(next) => benchView.setState({ smoothing: next })}
        onEnd={() => undefined}
      />
      <div className="-mx-2 flex flex-wrap">
        <button className="act" onPointerDown={planes(true)} onPointerUp={planes(false)} onPointerLeave={planes(false)}>
          Lit planes <Keys of={LIGHT_ACTS.planes} hold />
        </button>
        <button className="act" aria-pressed={tool === "contour" && pen} onClick={takePen(true)}>
          Pen that lifts <Keys of={LIGHT_ACTS["pen-lift"]} />
        </button>
        <button className="act" aria-pressed={tool === "contour" && !pen} onClick={takePen(false)}>
          Pen that burns <Keys of={LIGHT_ACTS["pen-burn"]} />
        </button>
        <button className="act" aria-pressed={planShown} onClick={() => benchView.setState({ planShown: !planShown })}>
          Plan shown <Keys of={LIGHT_ACTS["plan-shown"]} />
        </button>
        {contours.length > 0 && (
          <>
            <button className="act" title="A brush along all lines of each pen" onClick={carryOut}>
              Make it moves
            </button>
            <button className="act" onClick={wipe}>
              Wipe the plan
            </button>
          </>
        )}
      </div>
      {contours.length > 0 && <PlanAndDone negative={negative} recipe={recipe} contours={contours} />}
      <FromShading recipe={recipe} />
    </Group>
  );
}

/** The plan beside what the moves do along its lines. */
function PlanAndDone({
  negative,
  recipe,
  contours,
}: {
  negative: Negative;
  recipe: Recipe;
  contours: readonly Contour[];
}) {
  const answer = useAnswer("burnMap", { recipe }, { key: nameOf(recipe), restMs: 300 });
  const map: BurnMap | undefined = answer.data;
  const frame = useFrame(negative, recipe);
  if (!map) return null;
  const totals = contourTotals(contours, placesInFrame(contours, negative, frame), map);
  return (
    <p className="text-quiet pt-1">
      {totals.map(({ lift, lines, stops }) => (
        <span key={String(lift)} className="block">
          {lines} {lines === 1 ? "line" : "lines"} to {lift ? "lift" : "burn"}: now{" "}
          <span className="text-base-content font-serif">{formatStops(stops)}</span>
          {(lift ? stops : -stops) < 0.05 && ", not yet done"}
        </span>
      ))}
    </p>
  );
}

/** What the shading tells, and moves that strengthen it. */
function FromShading({ recipe }: { recipe: Recipe }) {
  const session = useSession();
  const answer = useAnswer("shading", { recipe }, { key: beforeCurve(recipe), restMs: 300 });
  const shading = answer.data;
  const splashes = shading?.splashes ?? [];
  // Planes that contradict each other have no direction.
  const direction = shading && shading.direction.agreement >= LEAST_AGREEMENT ? shading.direction : null;
  useEffect(() => {
    benchView.setState({ lightAngle: direction ? direction.angleDegrees : null });
    return () => benchView.setState({ lightAngle: null });
  }, [direction]);
  return (
    <div className="pt-2">
      <NoAnswer answer={answer} what="The direction of light" />
      {shading && !direction && <p className="text-quiet">The shading has no one direction.</p>}
      {direction && (
        <p>
          Light from {sideOfLight(direction.angleDegrees)},{" "}
          <span className="font-serif">{formatStops(direction.stops)}</span> over the picture.
        </p>
      )}
      <div className="-mx-2 flex flex-wrap">
        {direction && (
          <button
            className="act"
            title="Two soft ramps: a lift from the light, a burn from across, in a group with its own amount"
            onClick={() =>
              session.change("Light", "Direction of light", (old) => directionMoves(old, direction.angleDegrees))
            }
          >
            Strengthen it
          </button>
        )}
        {splashes.length > 0 && (
          <button
            className="act"
            title="The picture held down, its broadest lights lifted as ellipses, in a group with its own amount"
            onClick={() => session.change("Light", "Splashes of light", (old) => splashMoves(old, splashes))}
          >
            {splashes.length} {splashes.length === 1 ? "splash" : "splashes"} of light
          </button>
        )}
      </div>
    </div>
  );
}
