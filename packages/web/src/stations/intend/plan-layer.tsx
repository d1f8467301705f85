import type { PlanMark } from "@yelm/core";
import { useStore } from "zustand";
import { useNotes } from "../../data/notes/use-notes.ts";
import { useAct } from "../../keys/acts.ts";
import { BENCH_ACTS } from "../../bench/acts.ts";
import { benchView } from "../../picture/bench-view.ts";
import { shapeMapping, type Mapping, type OverlayPlace } from "../../shapes/mapping.ts";
import { toolOf } from "../../shapes/shape-tools.ts";
import { MARKS } from "./mark-words.ts";

/** While its key is held, the plan lies over the picture in any station. */
export function HeldPlan(place: OverlayPlace) {
  const { planHeld } = useStore(benchView);
  const set = (on: boolean) => () => benchView.setState({ planHeld: on });
  useAct({ ...BENCH_ACTS["plan-held"], run: set(true), release: set(false) });
  return planHeld ? <PlanLayer {...place} /> : null;
}

/** The marks of the plan, and its sentence, as on a work print. */
export function PlanLayer({
  chosen,
  onChoose,
  ...place
}: OverlayPlace & { chosen?: string | null; onChoose?: (id: string) => void }) {
  const plan = useNotes(({ plan: all }) => all);
  const mapping = shapeMapping(place);
  return (
    <>
      <svg className="pointer-events-none absolute inset-0 h-full w-full" data-testid="plan">
        {plan.marks.map((mark) => (
          <Mark key={mark.id} mark={mark} mapping={mapping} active={mark.id === chosen} onChoose={onChoose} />
        ))}
      </svg>
      {plan.sentence !== "" && !onChoose && (
        <p className="pointer-events-none absolute bottom-4 left-1/2 w-max max-w-[80%] -translate-x-1/2 rounded-[2px] bg-[#f4efe3] px-4 py-1.5 font-serif text-[15px] text-[#26221b]">
          {plan.sentence}
        </p>
      )}
    </>
  );
}

interface MarkProps {
  readonly mark: PlanMark;
  readonly mapping: Mapping;
  readonly active: boolean;
  readonly onChoose?: (id: string) => void;
}

/** An area with its border, dots or hatching of its kind, and its sign on a slip at the upper edge. */
function Mark({ mark: { id, kind, shape }, mapping, active, onChoose }: MarkProps) {
  const colour = active ? "var(--color-accent)" : "#f4efe3";
  const tool = toolOf(shape.kind);
  const [x, y] = tool.labelAt(shape, mapping);
  const { sign, name } = MARKS[kind];
  const width = 18 + 6.4 * name.length;
  return (
    <g>
      {"points" in shape ? (
        <Loop kind={kind} points={shape.points} colour={colour} mapping={mapping} />
      ) : (
        <tool.Outline shape={shape} colour={colour} mapping={mapping} />
      )}
      <g
        transform={`translate(${x} ${y - 14})`}
        style={{ pointerEvents: onChoose ? "auto" : "none", cursor: "pointer" }}
        role={onChoose ? "button" : undefined}
        aria-label={onChoose ? `Mark: ${name}` : undefined}
        onClick={() => onChoose?.(id)}
      >
        <rect
          x={-10}
          y={-10}
          width={width + 12}
          height={20}
          rx={2}
          fill="#f4efe3"
          stroke={active ? "var(--color-accent)" : "#26221b"}
          strokeOpacity={active ? 1 : 0.4}
        />
        <text x={-2} y={5} fontSize={15} className="font-serif" fill="#26221b" textAnchor="middle" dx={2}>
          {sign}
        </text>
        <text x={10} y={4} fontSize={12} fill="#26221b">
          {name}
        </text>
      </g>
    </g>
  );
}

const INK = "#26221b";

/** A loop as a pen draws it: its line, and what fills it, say what it is without colour. */
function Loop({
  kind,
  points,
  colour,
  mapping,
}: {
  kind: PlanMark["kind"];
  points: readonly (readonly [number, number])[];
  colour: string;
  mapping: Mapping;
}) {
  const corners = points.map(([x, y]) => mapping.toPane(x, y).join()).join(" ");
  const ground = kind === "hold back" || kind === "may go black" ? colour : INK;
  const line = kind === "hold back" || kind === "may go black" ? INK : colour;
  const hatch = kind === "may go black" ? "plan-rising" : kind === "may go white" ? "plan-falling" : null;
  return (
    <g fill="none" pointerEvents="none" strokeLinejoin="round">
      {hatch && (
        <>
          <pattern
            id={hatch}
            width={9}
            height={9}
            patternUnits="userSpaceOnUse"
            patternTransform={`rotate(${hatch === "plan-rising" ? 45 : -45})`}
          >
            <line x1={0} y1={0} x2={0} y2={9} stroke={line} strokeWidth={1.5} strokeOpacity={0.8} />
          </pattern>
          <polygon points={corners} fill={`url(#${hatch})`} />
        </>
      )}
      <polygon points={corners} stroke={ground} strokeOpacity={0.6} strokeWidth={kind === "subject" ? 6 : 4} />
      <polygon
        points={corners}
        stroke={line}
        strokeWidth={kind === "subject" ? 3.5 : 1.75}
        strokeDasharray={kind === "keep detail" ? "0.1 5" : undefined}
        strokeLinecap="round"
      />
      {kind === "subject" && <polygon points={corners} stroke={INK} strokeWidth={1.2} />}
    </g>
  );
}
