import { useDrag } from "@use-gesture/react";
import { applyAffine, invertAffine, type EllipseShape, type Frame, type Negative, type Stroke } from "@yelm/core";
import { useRef, useState, type PointerEvent as ReactPointerEvent } from "react";
import { useStore } from "zustand";
import { useEdit, useSession } from "../data/use-session.ts";
import { withStroke } from "../stations/stack-edits.ts";
import { benchView } from "./bench-view.ts";
import { frameToPane, paneToFrame, type Placement } from "./placement.ts";
import type { Shaped, ShapeStack } from "./shape-stacks.ts";

interface OverlayProps {
  readonly negative: Negative;
  readonly frame: Frame;
  readonly placement: Placement;
}

/** Between lengths on the flat picture (fractions of the long edge) and pane points. */
function useMapping({ negative, frame, placement }: OverlayProps) {
  const edge = Math.max(negative.width, negative.height);
  const toFrame = invertAffine(frame.toFlat);
  return {
    /** CSS pixels per long edge. */
    pixels: (edge * placement.scale) / placement.dpr,
    angleDegrees: (Math.atan2(toFrame.ay, toFrame.ax) * 180) / Math.PI,
    toPane: (x: number, y: number) => frameToPane(placement, ...applyAffine(toFrame, x * edge, y * edge)),
    toFlat: (x: number, y: number): [number, number] => {
      const [nx, ny] = applyAffine(frame.toFlat, ...paneToFrame(placement, x, y));
      return [nx / edge, ny / edge];
    },
  };
}

/** The shapes of a stack on the picture: dashed outlines, few handles, number and label; and the brush. */
export function ShapeOverlay({ stack, ...props }: OverlayProps & { stack: ShapeStack }) {
  const mapping = useMapping(props);
  const recipe = useEdit((state) => state.recipe);
  const items = stack.list(recipe);
  const view = useStore(benchView);
  const { tool, brush, mode } = view;
  const activeId = stack.activeId(view);
  const session = useSession();
  const layer = useRef<SVGSVGElement>(null);
  const [pointer, setPointer] = useState<[number, number] | null>(null);
  const local = (event: { clientX: number; clientY: number }): [number, number] => {
    const box = layer.current!.getBoundingClientRect();
    return [event.clientX - box.left, event.clientY - box.top];
  };
  const painting = usePainting(stack, mapping, local);
  const drawing = useRef<{ id: string; from: [number, number] } | null>(null);

  const onPointerDown = (event: ReactPointerEvent) => {
    if (event.button !== 0 || (event.target as Element).closest("[data-handle]")) return;
    if (tool === "brush") painting.start(event);
    if (tool === "ellipse") {
      const [x, y] = mapping.toFlat(...local(event));
      const made = stack.add(session.store.getState().recipe, {
        kind: "ellipse",
        x,
        y,
        radiusX: 0.02,
        radiusY: 0.02,
        angleDegrees: 0,
        softness: 0.9,
      });
      session.preview(() => made.recipe);
      drawing.current = { id: made.id, from: [x, y] };
      layer.current!.setPointerCapture(event.pointerId);
      stack.activate(made.id);
    }
  };
  const onPointerMove = (event: ReactPointerEvent) => {
    setPointer(local(event));
    if (tool === "brush") painting.go(event);
    const now = drawing.current;
    if (!now) return;
    const [x, y] = mapping.toFlat(...local(event));
    const [fx, fy] = now.from;
    session.preview((old) =>
      stack.change(old, now.id, (shape) => ({
        ...(shape as EllipseShape),
        radiusX: Math.max(0.01, Math.abs(x - fx)),
        radiusY: Math.max(0.01, Math.abs(y - fy)),
      })),
    );
  };
  const onPointerUp = () => {
    painting.end();
    if (!drawing.current) return;
    drawing.current = null;
    session.commit(stack.station, "New ellipse");
    benchView.setState({ tool: "look" });
  };

  if (mode !== "print") return null;
  return (
    <svg
      ref={layer}
      data-testid="shape-overlay"
      className="absolute inset-0 h-full w-full"
      style={{ pointerEvents: tool === "look" ? "none" : "auto", cursor: tool === "brush" ? "none" : "crosshair" }}
      onPointerDown={onPointerDown}
      onPointerMove={onPointerMove}
      onPointerUp={onPointerUp}
      onPointerCancel={onPointerUp}
      onPointerLeave={() => setPointer(null)}
    >
      {items.map((item, i) => (
        <ItemShape
          key={item.id}
          stack={stack}
          item={item}
          number={i + 1}
          active={item.id === activeId}
          mapping={mapping}
          local={local}
        />
      ))}
      {tool === "brush" && pointer && (
        <g pointerEvents="none" fill="none">
          <Ring x={pointer[0]} y={pointer[1]} radius={brush.radius * mapping.pixels} />
          <Ring
            x={pointer[0]}
            y={pointer[1]}
            radius={brush.radius * mapping.pixels * (1 - brush.softness * 0.6)}
            faint
          />
        </g>
      )}
    </svg>
  );
}

type Mapping = ReturnType<typeof useMapping>;
type Local = (event: { clientX: number; clientY: number }) => [number, number];

function Ring({ x, y, radius, faint }: { x: number; y: number; radius: number; faint?: boolean }) {
  return (
    <g opacity={faint ? 0.45 : 1}>
      <circle cx={x} cy={y} r={radius} stroke="#000" strokeOpacity={0.6} strokeWidth={2.5} />
      <circle cx={x} cy={y} r={radius} stroke="#fff" strokeWidth={1} strokeDasharray="4 3" />
    </g>
  );
}

function ItemShape({
  stack,
  item,
  number,
  active,
  mapping,
  local,
}: {
  stack: ShapeStack;
  item: Shaped;
  number: number;
  active: boolean;
  mapping: Mapping;
  local: Local;
}) {
  const { shape } = item;
  const [x, y] =
    shape.kind === "ellipse" ? mapping.toPane(shape.x, shape.y) : mapping.toPane(...middleOf(shape.strokes));
  const colour = active ? "var(--color-accent)" : "#fff";
  return (
    <g opacity={item.on ? 1 : 0.4}>
      {shape.kind === "ellipse" && <EllipseOutline shape={shape} colour={colour} mapping={mapping} />}
      {shape.kind === "brush" && active && <StrokeLines strokes={shape.strokes} colour={colour} mapping={mapping} />}
      {(shape.kind === "ellipse" || shape.strokes.length > 0) && (
        <ItemLabel
          x={x}
          y={y - 14}
          text={`${number}  ${item.label}`}
          colour={colour}
          onChoose={() => stack.activate(item.id)}
        />
      )}
      {shape.kind === "ellipse" && active && (
        <EllipseHandles stack={stack} item={item} shape={shape} mapping={mapping} local={local} />
      )}
    </g>
  );
}

/** Number and label, on a plate that keeps them readable on any picture; a click takes the shape in hand. */
function ItemLabel({
  x,
  y,
  text,
  colour,
  onChoose,
}: {
  x: number;
  y: number;
  text: string;
  colour: string;
  onChoose: () => void;
}) {
  const width = 14 + 7.5 * text.length;
  return (
    <g data-handle className="cursor-pointer" style={{ pointerEvents: "auto" }} onClick={onChoose}>
      <rect x={x - width / 2} y={y - 11} width={width} height={22} rx={2} fill="#000" fillOpacity={0.62} />
      <text x={x} y={y + 5} textAnchor="middle" className="font-serif" fontSize={16} fill={colour} xmlSpace="preserve">
        {text}
      </text>
    </g>
  );
}

function EllipseOutline({ shape, colour, mapping }: { shape: EllipseShape; colour: string; mapping: Mapping }) {
  const [x, y] = mapping.toPane(shape.x, shape.y);
  const turn = `rotate(${shape.angleDegrees + mapping.angleDegrees} ${x} ${y})`;
  const rx = shape.radiusX * mapping.pixels;
  const ry = shape.radiusY * mapping.pixels;
  return (
    <g transform={turn} fill="none" pointerEvents="none">
      <ellipse cx={x} cy={y} rx={rx} ry={ry} stroke="#000" strokeOpacity={0.5} strokeWidth={2.5} />
      <ellipse cx={x} cy={y} rx={rx} ry={ry} stroke={colour} strokeWidth={1.25} strokeDasharray="6 4" />
    </g>
  );
}

function StrokeLines({ strokes, colour, mapping }: { strokes: readonly Stroke[]; colour: string; mapping: Mapping }) {
  return (
    <g fill="none" pointerEvents="none" opacity={0.7}>
      {strokes.map((stroke, i) => (
        <polyline
          key={i}
          points={stroke.points.map(([x, y]) => mapping.toPane(x, y).join()).join(" ")}
          stroke={colour}
          strokeWidth={1.25}
          strokeDasharray="1 5"
          strokeLinecap="round"
        />
      ))}
    </g>
  );
}

/** Handles: the middle moves it, each side is pulled without the other, the knob outside turns it. */
function EllipseHandles({
  stack,
  item,
  shape,
  mapping,
  local,
}: {
  stack: ShapeStack;
  item: Shaped;
  shape: EllipseShape;
  mapping: Mapping;
  local: Local;
}) {
  const session = useSession();
  const angle = (shape.angleDegrees * Math.PI) / 180;
  const cos = Math.cos(angle);
  const sin = Math.sin(angle);
  const at = (u: number, v: number) => mapping.toPane(shape.x + cos * u - sin * v, shape.y + sin * u + cos * v);
  const set = (change: (old: EllipseShape) => EllipseShape) =>
    session.preview((recipe) => stack.change(recipe, item.id, (old) => change(old as EllipseShape)));
  const keep = () => session.commit(stack.station, `Shape of ${item.name}`);
  const pull = (axis: "radiusX" | "radiusY", sign: 1 | -1) => (x: number, y: number) =>
    set((old) => {
      const dx = x - old.x;
      const dy = y - old.y;
      const [ux, uy] = axis === "radiusX" ? [cos, sin] : [-sin, cos];
      const reach = sign * (dx * ux + dy * uy);
      const half = Math.max(0.005, (reach + old[axis]) / 2);
      const shift = sign * (half - old[axis]);
      return { ...old, [axis]: half, x: old.x + ux * shift, y: old.y + uy * shift };
    });
  const knob = shape.radiusY + 26 / mapping.pixels;
  const handles: [string, [number, number], (x: number, y: number) => void][] = [
    ["right side", at(shape.radiusX, 0), pull("radiusX", 1)],
    ["left side", at(-shape.radiusX, 0), pull("radiusX", -1)],
    ["lower side", at(0, shape.radiusY), pull("radiusY", 1)],
    ["upper side", at(0, -shape.radiusY), pull("radiusY", -1)],
    [
      "turn",
      at(0, -knob),
      (x, y) => set((old) => ({ ...old, angleDegrees: (Math.atan2(y - old.y, x - old.x) * 180) / Math.PI + 90 })),
    ],
  ];
  return (
    <g style={{ pointerEvents: "auto" }}>
      <Handle
        name="middle"
        round
        at={at(0, 0)}
        mapping={mapping}
        local={local}
        onMove={(x, y) => set((old) => ({ ...old, x, y }))}
        onEnd={keep}
      />
      {handles.map(([name, place, onMove]) => (
        <Handle
          key={name}
          name={name}
          round={name === "turn"}
          at={place}
          mapping={mapping}
          local={local}
          onMove={onMove}
          onEnd={keep}
        />
      ))}
    </g>
  );
}

interface HandleProps {
  readonly name: string;
  readonly at: [number, number];
  readonly round?: boolean;
  readonly mapping: Mapping;
  readonly local: Local;
  readonly onMove: (x: number, y: number) => void;
  readonly onEnd: () => void;
}

function Handle({ name, at: [x, y], round, mapping, local, onMove, onEnd }: HandleProps) {
  const bind = useDrag(({ event, last, first, xy: [clientX, clientY] }) => {
    event.stopPropagation();
    if (!first || !last) onMove(...mapping.toFlat(...local({ clientX, clientY })));
    if (last) onEnd();
  });
  return (
    <g {...bind()} data-handle aria-label={name} className="cursor-move touch-none">
      <rect x={x - 11} y={y - 11} width={22} height={22} fill="transparent" />
      <rect
        x={x - 4}
        y={y - 4}
        width={8}
        height={8}
        rx={round ? 4 : 1}
        fill={name === "middle" ? "var(--color-accent)" : "#fff"}
        stroke="#000"
        strokeOpacity={0.6}
      />
    </g>
  );
}

/** Brush strokes into the active brushed shape, or a new one. */
function usePainting(stack: ShapeStack, mapping: Mapping, local: Local) {
  const session = useSession();
  const stroke = useRef<{ id: string; points: [number, number, number][] } | null>(null);
  const { brush } = useStore(benchView);
  const show = () => {
    const { id, points } = stroke.current!;
    session.revert();
    session.preview((recipe) =>
      stack.change(recipe, id, (shape) => withStroke(shape, { ...brush, points: [...points] })),
    );
  };
  const add = (event: ReactPointerEvent) => {
    const now = stroke.current!;
    const [x, y] = mapping.toFlat(...local(event));
    const last = now.points.at(-1);
    const step = brush.radius * 0.08;
    if (last && Math.hypot(x - last[0], y - last[1]) < step) return false;
    if (now.points.length >= 2000) return false;
    const inside = (v: number) => Math.min(2, Math.max(-1, Number(v.toFixed(5))));
    now.points.push([inside(x), inside(y), event.pointerType === "pen" ? Number(event.pressure.toFixed(3)) : 1]);
    return true;
  };
  return {
    start(event: ReactPointerEvent) {
      const activeId = stack.activeId(benchView.getState());
      const { recipe } = session.store.getState();
      const active = stack.list(recipe).find((item) => item.id === activeId && item.shape.kind === "brush");
      let id = active?.id;
      if (!id) {
        const made = stack.add(recipe, { kind: "brush", strokes: [] });
        id = made.id;
        session.change(stack.station, `New brush ${stack.noun}`, () => made.recipe);
        stack.activate(id);
      }
      stroke.current = { id, points: [] };
      event.currentTarget.setPointerCapture(event.pointerId);
      add(event);
      show();
    },
    go(event: ReactPointerEvent) {
      if (stroke.current && add(event)) show();
    },
    end() {
      if (!stroke.current) return;
      stroke.current = null;
      session.commit(stack.station, brush.erase ? "Brush stroke taken away" : "Brush stroke");
    },
  };
}

function middleOf(strokes: readonly Stroke[]): [number, number] {
  const points = strokes.flatMap((stroke) => stroke.points);
  if (points.length === 0) return [0, 0];
  const sum = points.reduce(([x, y], p) => [x + p[0], y + p[1]], [0, 0]);
  return [sum[0] / points.length, sum[1] / points.length];
}
