import { JOINS, rangeOf, strokeSchema, type Join, type RegionShape } from "@yelm/core";
import { useEffect } from "react";
import { useStore } from "zustand";
import { Amount } from "../controls/amount.tsx";
import { asPercent } from "../controls/formats.ts";
import { Group } from "../controls/group.tsx";
import { NoAnswer } from "../controls/no-answer.tsx";
import { useEdit, useSession } from "../data/use-session.ts";
import { useAct } from "../keys/acts.ts";
import { Keys } from "../keys/keys.tsx";
import { benchView } from "../picture/bench-view.ts";
import { useAnswer } from "../workers/use-answer.ts";
import { SHAPE_ACTS } from "./acts.ts";
import { addShape } from "./add-shape.ts";
import { partInHand } from "./joined-parts.ts";
import { JOIN_WORDS } from "./joined.tsx";
import { SHAPE_TOOLS } from "./shape-tools.ts";
import type { Shaped, ShapeStack } from "./stack.ts";

/** The tools that draw shapes, as a row of acts; and the brush while it is in hand. */
export function ShapeToolRow({ stack, active }: { stack: ShapeStack; active: Shaped | undefined }) {
  const { tool, laying, partId, laidOut } = useStore(benchView);
  useEffect(() => () => benchView.setState({ tool: "look", laying: null, offered: null }), []);
  useAct({
    ...SHAPE_ACTS["shape-lay-down"],
    // What is laid out over the picture is left first.
    enabled: tool !== "look" && laidOut === null,
    run: () => benchView.setState({ tool: "look" }),
  });
  const newBrush = () => {
    stack.activate(null);
    benchView.setState({ tool: "brush" });
  };
  useAct({ ...SHAPE_ACTS["shape-new-brush"], run: newBrush });
  return (
    <>
      <div className="-mx-2 flex flex-wrap pb-2">
        {SHAPE_TOOLS.map((one) => (
          <ToolAct key={one.kind} tool={one} isTaken={tool === one.kind} />
        ))}
      </div>
      {active && <LayingRow noun={stack.noun} />}
      <ReadyRegions stack={stack} />
      {tool === "brush" && (
        <BrushGroup
          continues={active && !laying && partInHand(active.shape, partId)?.shape.kind === "brush" ? active.name : null}
          noun={stack.noun}
          onNew={newBrush}
        />
      )}
    </>
  );
}

/** What becomes of the next shape: something new, or laid onto the one in hand. */
function LayingRow({ noun }: { noun: string }) {
  const { laying } = useStore(benchView);
  const set = (next: Join | null) => benchView.setState({ laying: next });
  useAct({ ...SHAPE_ACTS["lay-new"], run: () => set(null) });
  useAct({ ...SHAPE_ACTS["lay-join"], run: () => set("join") });
  useAct({ ...SHAPE_ACTS["lay-subtract"], run: () => set("subtract") });
  useAct({ ...SHAPE_ACTS["lay-intersect"], run: () => set("intersect") });
  const one = (how: Join | null, text: string) => (
    <button
      key={text}
      className={`chip ${laying === how ? "chip-on" : ""}`}
      aria-pressed={laying === how}
      onClick={() => set(how)}
    >
      {text}
    </button>
  );
  return (
    <div className="flex flex-wrap items-center gap-1 pb-2" role="group" aria-label="The next shape">
      <span className="text-quiet pr-1">Next shape</span>
      {one(null, `new ${noun}`)}
      {JOINS.map((how) => one(how, JOIN_WORDS[how]))}
    </div>
  );
}

/** Regions that stand ready: pointed at they are outlined, taken they become a shape. */
function ReadyRegions({ stack }: { stack: ShapeStack }) {
  const session = useSession();
  const { tool } = useStore(benchView);
  const recipe = useEdit((state) => state.recipe);
  const answer = useAnswer(
    "readyRegions",
    { recipe },
    { key: JSON.stringify(recipe.ground.lens), restMs: 300, enabled: tool === "region" },
  );
  if (tool !== "region") return null;
  const ready = answer.data ?? [];
  const take = (shape: RegionShape) => {
    benchView.setState({ offered: null });
    if (!addShape(session, stack, shape)) return;
    session.commit(stack.station, `Region: ${shape.of}`);
    benchView.setState({ laying: null, tool: "look" });
  };
  let even = 0;
  return (
    <div
      className="flex flex-wrap items-center gap-1 pb-2"
      role="group"
      aria-label="Regions that stand ready"
      onPointerLeave={() => benchView.setState({ offered: null })}
    >
      <span className="text-quiet pr-1">
        {answer.isPending
          ? "Looking for regions…"
          : ready.length > 0
            ? "Ready"
            : "No region stands ready: scribble on what is meant."}
      </span>
      <NoAnswer answer={answer} what="Regions" />
      {ready.map(({ shape, share }, i) => (
        <button
          key={i}
          className="chip"
          title={`${Math.round(100 * share)} % of the picture`}
          onPointerEnter={() => benchView.setState({ offered: shape })}
          onFocus={() => benchView.setState({ offered: shape })}
          onBlur={() => benchView.setState({ offered: null })}
          onClick={() => take(shape)}
        >
          {shape.of === "even" ? `even ${++even}` : shape.of}
        </button>
      ))}
    </div>
  );
}

function ToolAct({
  tool: { kind, act, icon: Icon },
  isTaken,
}: {
  tool: (typeof SHAPE_TOOLS)[number];
  isTaken: boolean;
}) {
  const take = () => benchView.setState({ tool: isTaken ? "look" : kind });
  useAct({ ...act, run: take });
  return (
    <button className="act" aria-pressed={isTaken} onClick={take}>
      <Icon size={15} /> {act.label} <Keys of={act} />
    </button>
  );
}

function BrushGroup({ continues, noun, onNew }: { continues: string | null; noun: string; onNew: () => void }) {
  const { brush, steadiness } = useStore(benchView);
  const set = (change: Partial<typeof brush>) => benchView.setState({ brush: { ...brush, ...change } });
  const props = (field: "radius" | "softness" | "flow", label: string) => ({
    label,
    value: brush[field],
    range: rangeOf(strokeSchema, field),
    format: asPercent,
    typedScale: 100,
    onChange: (value: number) => set({ [field]: value }),
    onEnd: () => undefined,
  });
  const grow = (factor: number) => set({ radius: Math.min(1, Math.max(0.001, brush.radius * factor)) });
  const flip = () => set({ erase: !brush.erase });
  useAct({ ...SHAPE_ACTS["brush-wider"], run: () => grow(1.2) });
  useAct({ ...SHAPE_ACTS["brush-narrower"], run: () => grow(1 / 1.2) });
  useAct({ ...SHAPE_ACTS["brush-erase"], run: flip });
  return (
    <Group
      title="Brush"
      aside={
        <span className="flex">
          <button className="act" aria-pressed={brush.erase} onClick={flip}>
            {brush.erase ? "Takes away" : "Lays down"} <Keys of={SHAPE_ACTS["brush-erase"]} />
          </button>
          {continues && (
            <button className="act" onClick={onNew} title={`The next stroke begins a new ${noun}`}>
              New
            </button>
          )}
        </span>
      }
    >
      <Amount
        {...props("radius", "Radius")}
        range={{ ...rangeOf(strokeSchema, "radius"), maximum: 0.3 }}
        step={0.005}
      />
      <Amount {...props("softness", "Brush softness")} step={0.05} />
      <Amount {...props("flow", "Flow")} step={0.01} />
      <Amount
        label="Steadied"
        value={steadiness}
        range={{ minimum: 0, maximum: 0.95, default: 0, description: "How far the brush follows behind a shaky hand." }}
        step={0.05}
        format={asPercent}
        typedScale={100}
        onChange={(next) => benchView.setState({ steadiness: next })}
        onEnd={() => undefined}
      />
      <p className="text-quiet pt-1">
        {continues ? `Strokes go on in “${continues}”.` : `The first stroke begins a new ${noun}.`} Q and W change the
        radius; Shift draws straight on, Alt takes away.
      </p>
    </Group>
  );
}
