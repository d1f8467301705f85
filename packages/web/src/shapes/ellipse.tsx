import { ellipseSchema, newShape, rangeOf, type EllipseShape } from "@yelm/core";
import { Circle } from "lucide-react";
import { Amount } from "../controls/amount.tsx";
import { asDegrees, asPercent } from "../controls/formats.ts";
import { facts } from "../keys/act-facts.ts";
import { Handle } from "./handle.tsx";
import type { ControlProps, HandleProps, OutlineProps, ShapeTool } from "./shape-tool.ts";

const LEAST_RADIUS = 0.01;

export const ellipseTool: ShapeTool<EllipseShape> = {
  kind: "ellipse",
  act: facts({ "shape-ellipse": ["Light", "Ellipse", "e"] })["shape-ellipse"],
  icon: Circle,
  hint: "Drag from the middle outwards; Esc leaves it",
  firstStops: 0.5,
  pull: {
    begin: ([x, y]) => ({ ...(newShape("ellipse", x, y) as EllipseShape), radiusX: 0.02, radiusY: 0.02 }),
    follow: (shape, [fx, fy], [x, y]) => ({
      ...shape,
      radiusX: Math.max(LEAST_RADIUS, Math.abs(x - fx)),
      radiusY: Math.max(LEAST_RADIUS, Math.abs(y - fy)),
    }),
  },
  Outline,
  Handles,
  Controls,
  labelAt(shape, mapping) {
    const angle = (shape.angleDegrees * Math.PI) / 180;
    const ends = [1, -1].map((side) =>
      mapping.toPane(
        shape.x + side * shape.radiusY * Math.sin(angle),
        shape.y - side * shape.radiusY * Math.cos(angle),
      ),
    );
    return ends[0][1] < ends[1][1] ? ends[0] : ends[1];
  },
  distance(shape, x, y) {
    const angle = (shape.angleDegrees * Math.PI) / 180;
    const [dx, dy] = [x - shape.x, y - shape.y];
    const u = (dx * Math.cos(angle) + dy * Math.sin(angle)) / shape.radiusX;
    const v = (dy * Math.cos(angle) - dx * Math.sin(angle)) / shape.radiusY;
    const r = Math.hypot(u, v);
    return r === 0 ? Math.min(shape.radiusX, shape.radiusY) : (Math.abs(r - 1) * Math.hypot(dx, dy)) / r;
  },
};

function Outline({ shape, colour, mapping }: OutlineProps<EllipseShape>) {
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

/** The middle moves it, opposite sides are pulled together, or one alone with Alt; the knob outside turns it. */
function Handles({ shape, mapping, local, set, onEnd }: HandleProps<EllipseShape>) {
  const angle = (shape.angleDegrees * Math.PI) / 180;
  const cos = Math.cos(angle);
  const sin = Math.sin(angle);
  const at = (u: number, v: number) => mapping.toPane(shape.x + cos * u - sin * v, shape.y + sin * u + cos * v);
  const pull = (axis: "radiusX" | "radiusY", sign: 1 | -1) => (x: number, y: number, alone: boolean) =>
    set((old) => {
      const [ux, uy] = axis === "radiusX" ? [cos, sin] : [-sin, cos];
      const reach = sign * ((x - old.x) * ux + (y - old.y) * uy);
      if (!alone) return { ...old, [axis]: Math.max(LEAST_RADIUS, reach) };
      const half = Math.max(LEAST_RADIUS / 2, (reach + old[axis]) / 2);
      const shift = sign * (half - old[axis]);
      return { ...old, [axis]: half, x: old.x + ux * shift, y: old.y + uy * shift };
    });
  const knob = shape.radiusY + 26 / mapping.pixels;
  const handles: [string, [number, number], (x: number, y: number, alone: boolean) => void][] = [
    ["middle", at(0, 0), (x, y) => set((old) => ({ ...old, x, y }))],
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
  return handles.map(([name, place, onMove]) => (
    <Handle
      key={name}
      name={name}
      round={name === "turn" || name === "middle"}
      at={place}
      mapping={mapping}
      local={local}
      onMove={onMove}
      onEnd={onEnd}
    />
  ));
}

function Controls({ shape, preview, keep }: ControlProps<EllipseShape>) {
  return (
    <>
      <Amount
        label="Softness"
        value={shape.softness}
        range={rangeOf(ellipseSchema, "softness")}
        step={0.05}
        format={asPercent}
        typedScale={100}
        onChange={(softness) => preview({ ...shape, softness })}
        onEnd={() => keep("Softness")}
      />
      <Amount
        label="Turned"
        value={shape.angleDegrees}
        range={{ minimum: -180, maximum: 180, default: 0, description: "Turned clockwise." }}
        step={5}
        format={asDegrees}
        onChange={(angleDegrees) => preview({ ...shape, angleDegrees })}
        onEnd={() => keep("Turn")}
      />
    </>
  );
}
