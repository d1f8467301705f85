import { isDrawn, type RegionShape, type SingleShape } from "@yelm/core";
import { useEffect, useRef, useState, type PointerEvent as ReactPointerEvent } from "react";
import { useStore } from "zustand";
import { useEdit, useSession } from "../data/use-session.ts";
import { useAct } from "../keys/acts.ts";
import { benchView } from "../picture/bench-view.ts";
import { SHAPE_ACTS } from "./acts.ts";
import { addShape } from "./add-shape.ts";
import { changePart, partInHand } from "./joined-parts.ts";
import { LabelPlate, placeLabels, type Label } from "./labels.tsx";
import { shapeMapping, type Local, type Mapping, type OverlayPlace } from "./mapping.ts";
import { usePainting } from "./painting.ts";
import { useScribbling, type ScribbledLine } from "./scribbling.ts";
import { isShapeTool, toolOf } from "./shape-tools.ts";
import type { ShapeStack } from "./stack.ts";

/** A shape is pointed at within this distance of its outline, CSS pixels. */
const NEAR_PX = 9;
const ABOVE_EDGE_PX = 14;

/**
 * The shapes of a stack on the picture: outline, handles, number and label of the one in hand, and of the one that is pointed
 * at; of all while a key is held. Nothing of it shows while a value moves.
 */
export function ShapeOverlay({ stack, ...place }: OverlayPlace & { stack: ShapeStack }) {
  const mapping = shapeMapping(place);
  const recipe = useEdit((state) => state.recipe);
  const isMoving = useEdit((state) => state.recipe !== state.kept);
  const items = stack.list(recipe);
  const view = useStore(benchView);
  const { tool, brush, mode, allShapes, pointedShape, spot } = view;
  const activeId = stack.activeId(view);
  const session = useSession();
  const layer = useRef<SVGSVGElement>(null);
  const [pointer, setPointer] = useState<[number, number] | null>(null);
  const local: Local = (event) => {
    const box = layer.current!.getBoundingClientRect();
    return [event.clientX - box.left, event.clientY - box.top];
  };
  const painting = usePainting(stack, mapping, local);
  const scribbling = useScribbling(stack, mapping, local);
  const drawing = useRef<{ id: string; partId: string | null; from: [number, number] } | null>(null);
  const [handling, setHandling] = useState(false);
  useAct({
    ...SHAPE_ACTS["shapes-all"],
    run: () => benchView.setState({ allShapes: true }),
    release: () => benchView.setState({ allShapes: false }),
  });
  useEffect(() => () => benchView.setState({ allShapes: false, pointedShape: null }), []);

  const onPointerDown = (event: ReactPointerEvent) => {
    if (event.button !== 0 || (event.target as Element).closest("[data-handle]") || !isShapeTool(tool)) return;
    const { pull } = toolOf(tool);
    if (tool === "region") {
      scribbling.start(event);
      return;
    }
    if (!pull) {
      painting.start(event);
      return;
    }
    const from = mapping.toFlat(...local(event));
    const made = addShape(session, stack, pull.begin(from) as SingleShape);
    if (!made) return;
    drawing.current = { ...made, from };
    layer.current!.setPointerCapture(event.pointerId);
  };
  const onPointerMove = (event: ReactPointerEvent) => {
    setPointer(local(event));
    painting.go(event);
    scribbling.go(event);
    const now = drawing.current;
    if (!now || !isShapeTool(tool)) return;
    const to = mapping.toFlat(...local(event));
    session.preview((old) =>
      stack.change(old, now.id, (shape) =>
        changePart(shape, now.partId, (part) => toolOf(tool).pull!.follow(part, now.from, to)),
      ),
    );
  };
  const onPointerUp = () => {
    painting.end();
    scribbling.end();
    if (!drawing.current) return;
    drawing.current = null;
    session.commit(stack.station, `New ${tool}`);
    benchView.setState({ tool: "look", laying: null });
  };

  if (mode !== "print") return null;
  const at = spot && tool === "look" ? mapping.toFlat(spot.x, spot.y) : null;
  const hovered =
    at && items.find(({ shape }) => toolOf(shape.kind).distance(shape, ...at) * mapping.pixels < NEAR_PX)?.id;
  const busy = isMoving && !handling && !drawing.current;
  const shown = items.filter(
    ({ id, shape }) =>
      isDrawn(shape) && !busy && (allShapes || id === activeId || id === pointedShape || id === hovered),
  );
  const colourOf = (id: string) => (id === activeId ? "var(--color-accent)" : "#fff");
  const labels = shown.map(({ id, shape, label }): Label => {
    const [x, y] = toolOf(shape.kind).labelAt(shape, mapping);
    const number = items.findIndex((item) => item.id === id) + 1;
    return { id, x, y: y - ABOVE_EDGE_PX, text: `${number}  ${label}`, colour: colourOf(id) };
  });
  const box = layer.current?.getBoundingClientRect() ?? { width: Infinity, height: Infinity };
  const active = shown.find(({ id }) => id === activeId);
  const inHand = active && partInHand(active.shape, view.partId);
  const ActiveHandles = inHand && toolOf(inHand.shape.kind).Handles;
  return (
    <svg
      ref={layer}
      data-testid="shape-overlay"
      className="absolute inset-0 h-full w-full"
      style={{ pointerEvents: isShapeTool(tool) ? "auto" : "none", cursor: tool === "brush" ? "none" : "crosshair" }}
      onPointerDown={onPointerDown}
      onPointerMove={onPointerMove}
      onPointerUp={onPointerUp}
      onPointerCancel={onPointerUp}
      onPointerLeave={() => setPointer(null)}
    >
      {shown.map(({ id, on, shape }) => {
        const { Outline } = toolOf(shape.kind);
        return (
          <g key={id} opacity={on ? 1 : 0.4}>
            <Outline shape={shape} colour={colourOf(id)} mapping={mapping} />
          </g>
        );
      })}
      {view.offered && <OfferedOutline shape={view.offered} mapping={mapping} />}
      {scribbling.line && <Scribble {...scribbling.line} mapping={mapping} />}
      {placeLabels(labels, box).map((label) => (
        <LabelPlate key={label.id} label={label} onChoose={() => stack.activate(label.id)} />
      ))}
      {active && ActiveHandles && (
        <g style={{ pointerEvents: "auto" }}>
          <ActiveHandles
            shape={inHand.shape}
            mapping={mapping}
            local={local}
            set={(change) => {
              setHandling(true);
              session.preview((old) =>
                stack.change(old, active.id, (shape) => changePart(shape, inHand.id, (part) => change(part))),
              );
            }}
            onEnd={() => {
              setHandling(false);
              session.commit(stack.station, `Shape of ${active.name}`);
            }}
          />
        </g>
      )}
      {tool === "brush" && pointer && (
        <g pointerEvents="none" fill="none">
          <Ring at={pointer} radius={brush.radius * mapping.pixels} />
          <Ring at={pointer} radius={brush.radius * mapping.pixels * (1 - brush.softness * 0.6)} faint />
        </g>
      )}
    </svg>
  );
}

/** A region that is offered, while it is pointed at. */
function OfferedOutline({ shape, mapping }: { shape: RegionShape; mapping: Mapping }) {
  const { Outline } = toolOf("region");
  return <Outline shape={shape} colour="var(--color-accent)" mapping={mapping} />;
}

/** What is being scribbled: a full line inside, a broken one outside. */
function Scribble({ points, inside, mapping }: ScribbledLine & { mapping: Mapping }) {
  const line = points.map(([x, y]) => mapping.toPane(x, y).join()).join(" ");
  return (
    <g fill="none" pointerEvents="none" strokeLinecap="round">
      <polyline points={line} stroke="#000" strokeOpacity={0.5} strokeWidth={6} />
      <polyline points={line} stroke="#fff" strokeWidth={3} strokeDasharray={inside ? undefined : "2 7"} />
    </g>
  );
}

function Ring({ at: [x, y], radius, faint }: { at: [number, number]; radius: number; faint?: boolean }) {
  return (
    <g opacity={faint ? 0.45 : 1}>
      <circle cx={x} cy={y} r={radius} stroke="#000" strokeOpacity={0.6} strokeWidth={2.5} />
      <circle cx={x} cy={y} r={radius} stroke="#fff" strokeWidth={1} strokeDasharray="4 3" />
    </g>
  );
}
