import { newShape, RAMP_SIDES, rampDirection, rampSchema, rangeOf, type RampShape } from "@yelm/core";
import { ArrowDownToLine } from "lucide-react";
import { Amount } from "../controls/amount.tsx";
import { Choice } from "../controls/choice.tsx";
import { asDegrees, asPercent } from "../controls/formats.ts";
import { facts } from "../keys/act-facts.ts";
import { Handle } from "./handle.tsx";
import type { ControlProps, HandleProps, OutlineProps, ShapeTool } from "./shape-tool.ts";

const LEAST_REACH = rangeOf(rampSchema, "reach").minimum;
/** Half the length of the line that is drawn for it, long edges: beyond any picture. */
const HALF_LINE = 3;

export const rampTool: ShapeTool<RampShape> = {
  kind: "ramp",
  act: facts({ "shape-ramp": ["Light", "Ramp", "a"] })["shape-ramp"],
  icon: ArrowDownToLine,
  hint: "Drag from where it is full to where it has faded out; Esc leaves it",
  firstStops: -0.5,
  pull: {
    begin: ([x, y]) => ({ ...(newShape("ramp", x, y) as RampShape), reach: LEAST_REACH }),
    follow: (shape, from, to) => towards({ ...shape, x: from[0], y: from[1] }, to[0], to[1]),
  },
  Outline,
  Handles,
  Controls,
  labelAt: ({ x, y }, mapping) => mapping.toPane(x, y),
  distance(shape, x, y) {
    const [ux, uy] = rampDirection(shape);
    return Math.abs(ux * (x - shape.x) + uy * (y - shape.y));
  },
};

/** The ramp that fades out at a place. */
function towards(shape: RampShape, x: number, y: number): RampShape {
  const [dx, dy] = [x - shape.x, y - shape.y];
  const reach = Math.max(LEAST_REACH, Math.hypot(dx, dy));
  return { ...shape, reach, angleDegrees: (Math.atan2(dy, dx) * 180) / Math.PI };
}

/** Its line, and where it has faded out. */
function Outline({ shape, colour, mapping }: OutlineProps<RampShape>) {
  const [ux, uy] = rampDirection(shape);
  const offsets = shape.sides === "two" ? [0, shape.reach, -shape.reach] : [0, shape.reach];
  return (
    <g fill="none" pointerEvents="none">
      {offsets.map((offset) => {
        const [cx, cy] = [shape.x + ux * offset, shape.y + uy * offset];
        const [x1, y1] = mapping.toPane(cx - uy * HALF_LINE, cy + ux * HALF_LINE);
        const [x2, y2] = mapping.toPane(cx + uy * HALF_LINE, cy - ux * HALF_LINE);
        return (
          <g key={offset}>
            <line {...{ x1, y1, x2, y2 }} stroke="#000" strokeOpacity={0.5} strokeWidth={2.5} />
            <line
              {...{ x1, y1, x2, y2 }}
              stroke={colour}
              strokeWidth={1.25}
              strokeDasharray={offset === 0 ? "6 4" : "1 5"}
              strokeLinecap={offset === 0 ? undefined : "round"}
            />
          </g>
        );
      })}
    </g>
  );
}

/** The middle moves it, the far end turns it and sets its reach. */
function Handles({ shape, mapping, local, set, onEnd }: HandleProps<RampShape>) {
  const [ux, uy] = rampDirection(shape);
  const rest = { mapping, local, onEnd };
  return (
    <>
      <Handle
        name="middle"
        round
        at={mapping.toPane(shape.x, shape.y)}
        onMove={(x, y) => set((old) => ({ ...old, x, y }))}
        {...rest}
      />
      <Handle
        name="far end"
        at={mapping.toPane(shape.x + ux * shape.reach, shape.y + uy * shape.reach)}
        onMove={(x, y) => set((old) => towards(old, x, y))}
        {...rest}
      />
    </>
  );
}

function Controls({ shape, preview, keep }: ControlProps<RampShape>) {
  return (
    <>
      <Amount
        label="Reach"
        value={shape.reach}
        range={{ ...rangeOf(rampSchema, "reach"), maximum: 1.5 }}
        step={0.02}
        format={asPercent}
        typedScale={100}
        onChange={(reach) => preview({ ...shape, reach })}
        onEnd={() => keep("Reach")}
      />
      <Amount
        label="Turned"
        value={shape.angleDegrees}
        range={{ minimum: -180, maximum: 180, default: 90, description: "Where it fades to: 90° is down." }}
        step={5}
        format={asDegrees}
        onChange={(angleDegrees) => preview({ ...shape, angleDegrees })}
        onEnd={() => keep("Turn")}
      />
      <div className="pt-1">
        <Choice
          label="Sides"
          value={shape.sides}
          options={RAMP_SIDES.map((sides) => [sides, sides === "one" ? "one side" : "both sides"] as const)}
          onChoose={(sides) => {
            preview({ ...shape, sides });
            keep("Sides");
          }}
        />
      </div>
    </>
  );
}
