import { MARK_KINDS, thinned, type MarkKind, type PlanMark } from "@yelm/core";
import { useRef, useState, type PointerEvent as ReactPointerEvent } from "react";
import { useStore } from "zustand";
import { useNotesSession } from "../../data/notes/use-notes.ts";
import { benchView } from "../../picture/bench-view.ts";
import { shapeMapping } from "../../shapes/mapping.ts";
import { newId } from "../../shapes/stack-edits.ts";
import type { OverlayProps } from "../station.ts";
import { MARKS, markTool } from "./mark-words.ts";
import { PlanLayer } from "./plan-layer.tsx";

type Point = [number, number];
/** Points nearer to each other than this, long edges, are one; an outline is thinned to within so much. */
const APART = 0.006;
const FAITHFUL = 0.002;
/** What is drawn smaller than this, long edges, was a click: a circle of this radius is meant. */
const CLICK = 0.02;
const CLICK_RADIUS = 0.08;

/** The plan, drawn over the picture with a pen: rough loops. */
export function IntendOverlay(props: OverlayProps) {
  const { tool, markId } = useStore(benchView);
  const session = useNotesSession();
  const mapping = shapeMapping(props);
  const layer = useRef<SVGSVGElement>(null);
  const [line, setLine] = useState<readonly Point[] | null>(null);
  const kind = MARK_KINDS.find((one) => markTool(one) === tool);
  const placeOf = (event: ReactPointerEvent): Point => {
    const box = layer.current!.getBoundingClientRect();
    return mapping.toFlat(event.clientX - box.left, event.clientY - box.top);
  };
  const finish = () => {
    if (!line || !kind) return;
    const mark = markOf(kind, line);
    session.change(`Mark: ${MARKS[kind].name}`, (notes) => ({
      ...notes,
      plan: { ...notes.plan, marks: [...notes.plan.marks, mark] },
    }));
    setLine(null);
    benchView.setState({ markId: mark.id, tool: kind === "subject" ? "look" : tool });
  };
  return (
    <>
      <PlanLayer {...props} chosen={markId} onChoose={(id) => benchView.setState({ markId: id })} />
      {kind && (
        <svg
          ref={layer}
          data-testid="plan-pen"
          className="absolute inset-0 h-full w-full"
          style={{ cursor: "crosshair" }}
          onPointerDown={(event) => {
            if (event.button !== 0) return;
            event.currentTarget.setPointerCapture(event.pointerId);
            setLine([placeOf(event)]);
          }}
          onPointerMove={(event) => {
            if (!line) return;
            const [x, y] = placeOf(event);
            const [lx, ly] = line.at(-1)!;
            if (Math.hypot(x - lx, y - ly) >= APART) setLine([...line, [x, y]]);
          }}
          onPointerUp={finish}
        >
          {line && (
            <polyline
              points={line.map(([x, y]) => mapping.toPane(x, y).join()).join(" ")}
              fill="none"
              stroke="#f4efe3"
              strokeWidth={2}
              strokeLinejoin="round"
            />
          )}
        </svg>
      )}
    </>
  );
}

function markOf(kind: MarkKind, line: readonly Point[]): PlanMark {
  const xs = line.map(([x]) => x);
  const ys = line.map(([, y]) => y);
  const small = Math.max(...xs) - Math.min(...xs) < CLICK && Math.max(...ys) - Math.min(...ys) < CLICK;
  const points = small ? circle(line[0][0], line[0][1], CLICK_RADIUS) : thinned([...line], FAITHFUL);
  return { id: newId(), kind, shape: { kind: "outline", points: points.map(([x, y]) => [x, y]), spread: 0.02 } };
}

/** A loop about a place, for those who click instead of drawing. */
export function circle(x: number, y: number, radius: number): Point[] {
  return Array.from({ length: 24 }, (_, i) => {
    const angle = (2 * Math.PI * i) / 24;
    return [x + radius * Math.cos(angle), y + radius * Math.sin(angle)];
  });
}
