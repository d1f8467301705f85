import { rangeOf, strokeSchema } from "@yelm/core";
import { useEffect } from "react";
import { useStore } from "zustand";
import { Amount } from "../controls/amount.tsx";
import { asPercent } from "../controls/formats.ts";
import { Group } from "../controls/group.tsx";
import { useAct } from "../keys/acts.ts";
import { Keys } from "../keys/keys.tsx";
import { benchView } from "../picture/bench-view.ts";
import { SHAPE_ACTS } from "./acts.ts";
import { SHAPE_TOOLS } from "./shape-tools.ts";
import type { Shaped, ShapeStack } from "./stack.ts";

/** The tools that draw shapes, as a row of acts; and the brush while it is in hand. */
export function ShapeToolRow({ stack, active }: { stack: ShapeStack; active: Shaped | undefined }) {
  const { tool } = useStore(benchView);
  useEffect(() => () => benchView.setState({ tool: "look" }), []);
  useAct({
    ...SHAPE_ACTS["shape-lay-down"],
    enabled: tool !== "look",
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
      {tool === "brush" && (
        <BrushGroup
          continues={active?.shape.kind === "brush" ? active.name : null}
          noun={stack.noun}
          onNew={newBrush}
        />
      )}
    </>
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
  const { brush } = useStore(benchView);
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
      <p className="text-quiet pt-1">
        {continues ? `Strokes go on in “${continues}”.` : `The first stroke begins a new ${noun}.`} Q and W change the
        radius.
      </p>
    </Group>
  );
}
