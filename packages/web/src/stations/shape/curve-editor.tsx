import { monotoneCubic, STRAIGHT_CURVE, type Histograms } from "@yelm/core";
import { useRef, useState, type PointerEvent } from "react";
import { useEdit, useSession } from "../../data/use-session.ts";
import { movePoint, removePoint, setPoint } from "../../instruments/curve-edits.ts";
import { zoneNumeral, zoneThirds } from "../../controls/formats.ts";

const SIZE = 228;
const LEFT = 30;
const WIDTH = LEFT + SIZE + 10;
const GRID = [0, 2, 4, 5, 6, 8, 10];

/** The free curve on zones: across what the points and the grade made, up what is printed. */
export function CurveEditor({ histograms }: { histograms: Histograms | null }) {
  const session = useSession();
  const curve = useEdit((state) => state.recipe.shape.curve);
  const svg = useRef<SVGSVGElement>(null);
  const [held, setHeld] = useState<number | null>(null);
  const [chosen, setChosen] = useState<number | null>(null);
  const f = monotoneCubic(curve);
  const px = (x: number) => LEFT + x * SIZE;
  const py = (y: number) => 6 + (1 - y) * SIZE;
  const place = (event: { clientX: number; clientY: number }): [number, number] => {
    const box = svg.current!.getBoundingClientRect();
    const inside = (v: number) => Math.min(1, Math.max(0, v));
    const unit = WIDTH / box.width;
    return [
      inside(((event.clientX - box.left) * unit - LEFT) / SIZE),
      inside(1 - ((event.clientY - box.top) * unit - 6) / SIZE),
    ];
  };
  const put = (next: typeof curve) =>
    session.preview((recipe) => ({ ...recipe, shape: { ...recipe.shape, curve: next } }));
  const keep = (label: string) => session.commit("Shape", label);

  const onPointerDown = (event: PointerEvent) => {
    if (event.button !== 0) return;
    svg.current!.setPointerCapture(event.pointerId);
    const [x, y] = place(event);
    const near = curve.findIndex((point) => Math.hypot(px(point[0]) - px(x), py(point[1]) - py(y)) < 14);
    if (near >= 0) {
      setHeld(near);
      setChosen(near);
      return;
    }
    const next = setPoint(curve, x, f(x) + (y - f(x)) * 0.5);
    put(next);
    const added = next.findIndex((point) => Math.abs(point[0] - x) < 0.036);
    setHeld(added);
    setChosen(added);
  };
  const onPointerMove = (event: PointerEvent) => {
    if (held === null) return;
    put(movePoint(session.store.getState().recipe.shape.curve, held, ...place(event)));
  };
  const onPointerUp = () => {
    if (held !== null) keep("Curve");
    setHeld(null);
  };
  const takeAway = (index: number) => {
    put(removePoint(curve, index));
    keep("Curve point taken away");
    setChosen(null);
  };

  const path = Array.from({ length: 101 }, (_, i) => `${px(i / 100)},${py(f(i / 100))}`).join(" ");
  const top = Math.max(1e-6, ...(histograms?.print ?? [0]));
  const straight = JSON.stringify(curve) === JSON.stringify(STRAIGHT_CURVE);
  return (
    <div>
      <svg
        ref={svg}
        viewBox={`0 0 ${WIDTH} ${SIZE + 30}`}
        className="block w-full cursor-crosshair touch-none outline-offset-2"
        aria-label={`Free curve of ${curve.length} points`}
        role="application"
        tabIndex={0}
        data-testid="curve"
        onPointerDown={onPointerDown}
        onPointerMove={onPointerMove}
        onPointerUp={onPointerUp}
        onPointerCancel={onPointerUp}
        onKeyDown={(event) => {
          const move = { ArrowUp: [0, 1], ArrowDown: [0, -1], ArrowLeft: [-1, 0], ArrowRight: [1, 0] }[event.key];
          if (chosen === null || !curve[chosen]) return;
          if (move) {
            event.preventDefault();
            const step = event.shiftKey ? 0.05 : event.altKey ? 0.002 : 0.01;
            put(movePoint(curve, chosen, curve[chosen][0] + move[0] * step, curve[chosen][1] + move[1] * step));
            keep("Curve");
          }
          if (event.key === "Delete" || event.key === "Backspace") {
            event.stopPropagation();
            takeAway(chosen);
          }
        }}
      >
        {GRID.map((zone) => (
          <g key={zone} className="stroke-line">
            <line x1={px(zone / 10)} x2={px(zone / 10)} y1={py(0)} y2={py(1)} />
            <line x1={px(0)} x2={px(1)} y1={py(zone / 10)} y2={py(zone / 10)} />
            <text
              x={LEFT - 5}
              y={py(zone / 10) + 4}
              textAnchor="end"
              stroke="none"
              fontSize={11}
              className="fill-quiet font-serif"
            >
              {zoneNumeral(zone)}
            </text>
            <text
              x={px(zone / 10)}
              y={SIZE + 22}
              textAnchor="middle"
              stroke="none"
              fontSize={11}
              className="fill-quiet font-serif"
            >
              {zoneNumeral(zone)}
            </text>
          </g>
        ))}
        {histograms?.print.map((count, i) => {
          const length = 40 * (count / top) ** 0.6;
          const step = SIZE / histograms.print.length;
          return (
            <rect
              key={i}
              x={px(0)}
              y={py(0) - (i + 1) * step}
              width={length}
              height={step}
              className="fill-quiet"
              fillOpacity={0.25}
            />
          );
        })}
        <line
          x1={px(0)}
          y1={py(0)}
          x2={px(1)}
          y2={py(1)}
          className="stroke-quiet"
          strokeOpacity={0.5}
          strokeDasharray="2 4"
        />
        <polyline points={path} fill="none" className="stroke-base-content" strokeWidth={1.5} />
        {curve.map(([x, y], i) => (
          <circle
            key={i}
            cx={px(x)}
            cy={py(y)}
            r={5}
            className={i === chosen ? "fill-accent stroke-base-100" : "fill-base-content stroke-base-100"}
            onDoubleClick={() => takeAway(i)}
          >
            <title>{`Zone ${zoneThirds(10 * x)} prints as ${zoneThirds(10 * y)}; double-click takes it away`}</title>
          </circle>
        ))}
      </svg>
      <div className="text-quiet flex min-h-6 items-center justify-between pt-1">
        <span>
          {chosen !== null && curve[chosen]
            ? `${zoneThirds(10 * curve[chosen][0])} → ${zoneThirds(10 * curve[chosen][1])}`
            : "Click the line to add a point"}
        </span>
        {!straight && (
          <button
            className="act"
            onClick={() => {
              put(STRAIGHT_CURVE);
              keep("Curve straightened");
              setChosen(null);
            }}
          >
            Straighten
          </button>
        )}
      </div>
    </div>
  );
}
