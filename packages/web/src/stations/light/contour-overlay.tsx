import { contourSchema, type Contour } from "@yelm/core";
import { useRef, useState, type PointerEvent as ReactPointerEvent } from "react";
import { useStore } from "zustand";
import { useEdit, useSession } from "../../data/use-session.ts";
import { benchView } from "../../picture/bench-view.ts";
import { frameToPane } from "../../picture/placement.ts";
import { shapeMapping, type Mapping } from "../../shapes/mapping.ts";
import { newId } from "../../shapes/stack-edits.ts";
import type { OverlayProps } from "../station.ts";

const MOST_POINTS = contourSchema.properties.points.maxItems ?? Infinity;
/** Points nearer to each other than this, long edges, are one. */
const APART = 0.004;

/** The contour plan: lines of two pens, drawn over the picture; and where light comes from. */
export function ContourOverlay(props: OverlayProps) {
  const mapping = shapeMapping(props);
  const session = useSession();
  const contours = useEdit((state) => state.recipe.light.contours);
  const isMoving = useEdit((state) => state.recipe !== state.kept);
  const { tool, pen, planShown, lightAngle, mode } = useStore(benchView);
  const layer = useRef<SVGSVGElement>(null);
  const [line, setLine] = useState<Contour | null>(null);
  const placeOf = (event: ReactPointerEvent) => {
    const box = layer.current!.getBoundingClientRect();
    return mapping.toFlat(event.clientX - box.left, event.clientY - box.top);
  };
  const drawing = tool === "contour";
  if (mode !== "print" || isMoving) return null;
  return (
    <svg
      ref={layer}
      data-testid="contour-plan"
      className="absolute inset-0 h-full w-full"
      style={{ pointerEvents: drawing ? "auto" : "none", cursor: "crosshair" }}
      onPointerDown={(event) => {
        if (event.button !== 0) return;
        event.currentTarget.setPointerCapture(event.pointerId);
        setLine({ id: newId(), lift: pen, points: [placeOf(event)] });
      }}
      onPointerMove={(event) => {
        if (!line || line.points.length >= MOST_POINTS) return;
        const [x, y] = placeOf(event);
        const [lx, ly] = line.points.at(-1)!;
        if (Math.hypot(x - lx, y - ly) >= APART) setLine({ ...line, points: [...line.points, [x, y]] });
      }}
      onPointerUp={() => {
        if (line)
          session.change("Light", line.lift ? "Line to lift" : "Line to burn", (old) => ({
            ...old,
            light: { ...old.light, contours: [...old.light.contours, line] },
          }));
        setLine(null);
      }}
    >
      {(planShown || drawing) &&
        [...contours, ...(line ? [line] : [])].map((one) => <Line key={one.id} line={one} mapping={mapping} />)}
      {lightAngle !== null && !drawing && <LightArrow {...props} angleDegrees={lightAngle + mapping.angleDegrees} />}
    </svg>
  );
}

/** A lifting line is light with beads, a burning one dark with bars, so that they are told apart without colour. */
function Line({ line: { lift, points }, mapping }: { line: Contour; mapping: Mapping }) {
  const path = points.map(([x, y]) => mapping.toPane(x, y).join()).join(" ");
  const [ink, ground] = lift ? ["#fff", "#000"] : ["#000", "#fff"];
  return (
    <g fill="none" pointerEvents="none" strokeLinecap="round" strokeLinejoin="round">
      <polyline points={path} stroke={ground} strokeOpacity={0.55} strokeWidth={4.5} />
      <polyline points={path} stroke={ink} strokeWidth={2} strokeDasharray={lift ? "0.1 6" : undefined} />
      {lift && <polyline points={path} stroke={ink} strokeWidth={1} strokeOpacity={0.7} />}
    </g>
  );
}

/** One arrow at the picture's edge, from where the light comes. */
function LightArrow({ frame, placement, angleDegrees }: OverlayProps & { angleDegrees: number }) {
  const [left, top] = frameToPane(placement, 0, 0);
  const [right, bottom] = frameToPane(placement, frame.width, frame.height);
  const angle = (angleDegrees * Math.PI) / 180;
  const [ux, uy] = [Math.cos(angle), Math.sin(angle)];
  const [cx, cy] = [(left + right) / 2, (top + bottom) / 2];
  // Out to the frame, then a little inside.
  const far = Math.min(
    (right - left) / 2 / Math.max(1e-6, Math.abs(ux)),
    (bottom - top) / 2 / Math.max(1e-6, Math.abs(uy)),
  );
  const [x, y] = [cx + ux * (far - 10), cy + uy * (far - 10)];
  return (
    <g
      data-testid="light-arrow"
      pointerEvents="none"
      transform={`translate(${x} ${y}) rotate(${angleDegrees + 180})`}
      fill="none"
      strokeLinecap="round"
    >
      <path d="M0 0H34M24 -7L34 0L24 7" stroke="#000" strokeOpacity={0.6} strokeWidth={5} />
      <path d="M0 0H34M24 -7L34 0L24 7" stroke="var(--color-accent)" strokeWidth={2} />
    </g>
  );
}
