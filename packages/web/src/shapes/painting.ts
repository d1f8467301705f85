import { brushSchema, strokeSchema, type SingleShape, type Stroke } from "@yelm/core";
import { useRef, type PointerEvent as ReactPointerEvent } from "react";
import { useStore } from "zustand";
import { useSession } from "../data/use-session.ts";
import { benchView } from "../picture/bench-view.ts";
import { addShape } from "./add-shape.ts";
import { changePart, partInHand } from "./joined-parts.ts";
import type { Local, Mapping } from "./mapping.ts";
import type { ShapeStack } from "./stack.ts";
import { newId } from "./stack-edits.ts";

const MOST_POINTS = strokeSchema.properties.points.maxItems ?? Infinity;
const MOST_STROKES = brushSchema.properties.strokes.maxItems ?? Infinity;
/** Points nearer to each other than this share of the radius are one; the last goes with the pointer until it is farther. */
const STEP = 0.08;

type StrokePoint = Stroke["points"][number];

/** Brush strokes into the active brushed shape, or a new one. A full one is not painted on: a new one begins. */
export function usePainting(stack: ShapeStack, mapping: Mapping, local: Local) {
  const session = useSession();
  const painted = useRef<{ id: string; partId: string | null; stroke: Stroke; end: StrokePoint | null } | null>(null);
  const { brush } = useStore(benchView);
  const show = () => {
    const { id, partId, stroke, end } = painted.current!;
    session.revert();
    const points = end ? [...stroke.points, end] : [...stroke.points];
    session.preview((recipe) =>
      stack.change(recipe, id, (shape) => changePart(shape, partId, (part) => withStroke(part, { ...stroke, points }))),
    );
  };
  const add = (event: ReactPointerEvent) => {
    const now = painted.current!;
    const { points } = now.stroke;
    let [x, y] = mapping.toFlat(...local(event));
    // A straight line from where it began, or from where the last stroke ended.
    if (event.shiftKey && points.length > 1) points.length = 1;
    const last = points.at(-1);
    if (last && !event.shiftKey) {
      // A shaky hand: the brush follows behind the pointer.
      const { steadiness } = benchView.getState();
      [x, y] = [x + steadiness * (last[0] - x), y + steadiness * (last[1] - y)];
    }
    // Room for one more is left for the end.
    if (points.length >= MOST_POINTS - 1) return false;
    const inside = (v: number) => Math.min(2, Math.max(-1, Number(v.toFixed(5))));
    const point: StrokePoint = [
      inside(x),
      inside(y),
      event.pointerType === "pen" ? Number(event.pressure.toFixed(3)) : 1,
    ];
    const isNear = last && Math.hypot(x - last[0], y - last[1]) < brush.radius * STEP;
    now.end = isNear ? point : null;
    if (!isNear) points.push(point);
    return true;
  };
  return {
    start(event: ReactPointerEvent) {
      const view = benchView.getState();
      const { recipe } = session.store.getState();
      const active = stack.list(recipe).find(({ id }) => id === stack.activeId(view));
      const inHand = active && !view.laying ? partInHand(active.shape, view.partId) : null;
      let at = active && inHand && isOpen(inHand.shape) ? { id: active.id, partId: inHand.id } : null;
      if (!at) {
        at = addShape(session, stack, { kind: "brush", strokes: [] });
        if (!at) return;
        session.commit(stack.station, `New brush ${stack.noun}`);
        benchView.setState({ laying: null });
      }
      painted.current = {
        ...at,
        end: null,
        stroke: { ...view.brush, erase: view.brush.erase !== event.altKey, id: newId(), points: [] },
      };
      event.currentTarget.setPointerCapture(event.pointerId);
      if (event.shiftKey && inHand?.shape.kind === "brush") {
        const end = inHand.shape.strokes.at(-1)?.points.at(-1);
        if (end) painted.current.stroke.points.push([...end]);
      }
      add(event);
      show();
    },
    go(event: ReactPointerEvent) {
      if (painted.current && add(event)) show();
    },
    end() {
      if (!painted.current) return;
      painted.current = null;
      session.commit(stack.station, brush.erase ? "Brush stroke taken away" : "Brush stroke");
    },
  };
}

/** Whether another stroke fits into a shape. */
function isOpen(shape: SingleShape): boolean {
  return shape.kind === "brush" && shape.strokes.length < MOST_STROKES;
}

function withStroke(shape: SingleShape, stroke: Stroke): SingleShape {
  return shape.kind === "brush" ? { ...shape, strokes: [...shape.strokes, stroke] } : shape;
}
