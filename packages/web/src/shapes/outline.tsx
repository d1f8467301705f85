import { MOST_CORNERS, outlineSchema, rangeOf, thinned, type OutlineShape } from "@yelm/core";
import { Lasso } from "lucide-react";
import { Amount } from "../controls/amount.tsx";
import { asPercent } from "../controls/formats.ts";
import { useSession } from "../data/use-session.ts";
import { facts } from "../keys/act-facts.ts";
import { notify } from "../shell/shell-view.ts";
import { usePool } from "../workers/use-answer.ts";
import { Handle } from "./handle.tsx";
import { newId } from "./stack-edits.ts";
import type { ControlProps, HandleProps, OutlineProps, ShapeTool } from "./shape-tool.ts";

/** Corners of a freehand line lie at least so far apart, long edges, and are thinned to within so much of where it was drawn. */
const APART = 0.005;
const FAITHFUL = 0.0015;
/** What {@link Controls} thins to, so that corners can be pulled one by one. */
const ROUGH = 0.012;
/** More corners than this are not pulled one by one. */
const MOST_HANDLES = 48;

export const outlineTool: ShapeTool<OutlineShape> = {
  kind: "outline",
  act: facts({ "shape-outline": ["Light", "Outline", "v"] })["shape-outline"],
  icon: Lasso,
  hint: "Draw around it, roughly; Esc leaves it",
  firstStops: -0.5,
  pull: {
    begin: (from) => ({ kind: "outline", points: [[...from]], spread: 0.03 }),
    follow(shape, _from, to) {
      const [x, y] = shape.points.at(-1) ?? to;
      if (Math.hypot(to[0] - x, to[1] - y) < APART) return shape;
      const points = [...shape.points, [to[0], to[1]] as [number, number]];
      return { ...shape, points: points.length > MOST_CORNERS - 40 ? thinned(points, FAITHFUL) : points };
    },
  },
  Outline,
  Handles,
  Controls,
  labelAt({ points }, mapping) {
    const top = points.reduce((best, point) => (point[1] < best[1] ? point : best), points[0] ?? [0, 0]);
    return mapping.toPane(...top);
  },
  distance: ({ points }, x, y) =>
    Math.min(...points.map((point, i) => fromSide(point, points[(i + 1) % points.length], x, y))),
};

type Point = readonly [number, number];

function fromSide([ax, ay]: Point, [bx, by]: Point, x: number, y: number): number {
  const [dx, dy] = [bx - ax, by - ay];
  const length = dx * dx + dy * dy;
  const t = length > 0 ? Math.min(1, Math.max(0, ((x - ax) * dx + (y - ay) * dy) / length)) : 0;
  return Math.hypot(x - ax - t * dx, y - ay - t * dy);
}

function Outline({ shape, colour, mapping }: OutlineProps<OutlineShape>) {
  const points = shape.points.map(([x, y]) => mapping.toPane(x, y).join()).join(" ");
  return (
    <g fill="none" pointerEvents="none">
      <polygon points={points} stroke="#000" strokeOpacity={0.5} strokeWidth={2.5} />
      <polygon points={points} stroke={colour} strokeWidth={1.25} strokeDasharray="6 4" />
    </g>
  );
}

/** Every corner is pulled by itself; the middle moves all of it. */
function Handles({ shape, mapping, local, set, onEnd }: HandleProps<OutlineShape>) {
  const rest = { mapping, local, onEnd };
  const { points } = shape;
  const middle = (axis: 0 | 1) => points.reduce((sum, point) => sum + point[axis], 0) / points.length;
  const [cx, cy] = [middle(0), middle(1)];
  return (
    <>
      <Handle
        name="middle"
        round
        at={mapping.toPane(cx, cy)}
        onMove={(x, y) => set((old) => ({ ...old, points: old.points.map(([px, py]) => [px + x - cx, py + y - cy]) }))}
        {...rest}
      />
      {points.length <= MOST_HANDLES &&
        points.map(([px, py], i) => (
          <Handle
            key={i}
            name={`corner ${i + 1}`}
            at={mapping.toPane(px, py)}
            onMove={(x, y) =>
              set((old) => ({ ...old, points: old.points.map((point, k) => (k === i ? [x, y] : point)) }))
            }
            {...rest}
          />
        ))}
    </>
  );
}

/** What a rough outline is drawn around is found in the picture. */
function FindWithin({ shape, preview, keep }: ControlProps<OutlineShape>) {
  const session = useSession();
  const pool = usePool();
  const find = async () => {
    const { recipe } = session.store.getState();
    const seeds = [{ id: newId(), inside: true, points: shape.points }];
    const found = await pool.ask("findRegion", { recipe, of: "outline", seeds });
    if (!found) {
      notify("Nothing was found inside the outline.");
      return;
    }
    preview(found as never);
    keep("Region found");
  };
  return (
    <button className="act -mx-2" onClick={() => void find().catch((error: Error) => notify(error.message))}>
      Find what is inside
    </button>
  );
}

function Controls({ shape, preview, keep }: ControlProps<OutlineShape>) {
  return (
    <>
      <Amount
        label="Softness"
        value={shape.spread}
        range={{ ...rangeOf(outlineSchema, "spread"), maximum: 0.3 }}
        step={0.01}
        format={asPercent}
        typedScale={100}
        onChange={(spread) => preview({ ...shape, spread })}
        onEnd={() => keep("Softness")}
      />
      <FindWithin shape={shape} preview={preview} keep={keep} />
      {shape.points.length > 12 && (
        <button
          className="act -mx-2"
          title="Corners that can be pulled one by one"
          onClick={() => {
            preview({ ...shape, points: thinned(shape.points, ROUGH) });
            keep("Corners");
          }}
        >
          Fewer corners
        </button>
      )}
    </>
  );
}
