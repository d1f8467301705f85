import {
  lightnessToLuminance,
  luminanceToLightness,
  monotoneCubic,
  printZone,
  STRAIGHT_CURVE,
  stopsToLight,
  LADDER_STOPS,
  type CharacteristicReading,
  type CurvePoints,
  type Histograms,
} from "@yelm/core";
import { useRef, useState, type KeyboardEvent, type PointerEvent } from "react";
import { useStore } from "zustand";
import { zoneNumeral, zoneThirds } from "../controls/formats.ts";
import { parseAmount } from "../controls/parse-amount.ts";
import { rememberPage, sheetMemory } from "../controls/sheet-memory.ts";
import { movePoint, removePoint, setPoint } from "./curve-edits.ts";

const LEFT = 30;
const RIGHT = 22;
const TOP = 8;
const WIDTH = 268;
const HEIGHT = 236;
const FOOT = 34;
const LIGHTS_FROM = -8;
const LIGHTS_TO = 4;
/** Densities beyond this lie on the chart's floor. */
const DEEPEST = 2.4;
const SAMPLES = 120;
/** A point is had from this near, units of the chart. */
const NEAR = 12;
const ZONES = [0, 1, 2, 3, 4, 5, 6, 7, 8, 9, 10];

type Scale = "density" | "zones";

interface CurveChartProps {
  readonly label: string;
  readonly curve: CurvePoints;
  /** The curve as it is at this moment, while a hand moves it. */
  readonly now: () => CurvePoints;
  /** What light prints as without the curve, and with it. */
  readonly plain: (light: number) => number;
  readonly whole: (light: number) => number;
  readonly put: (next: CurvePoints) => void;
  readonly keep: (what: string) => void;
  readonly histograms: Histograms | null;
  /** What is read off the line without the curve. */
  readonly reading?: CharacteristicReading;
}

/**
 * What light prints as: log exposure across, density up (or zones), the picture's histogram under it. The thin line is without the
 * free curve, the bright one with it, whose points are moved here.
 */
export function CurveChart(props: CurveChartProps) {
  const { label, curve, now: nowOf, plain, whole, put, keep, histograms, reading } = props;
  const scale: Scale = useStore(sheetMemory, (memory) => memory.page.Chart) === "density" ? "density" : "zones";
  const svg = useRef<SVGSVGElement>(null);
  const [held, setHeld] = useState<number | null>(null);
  const [chosen, setChosen] = useState<number | null>(null);

  const px = (stops: number) => LEFT + ((stops - LIGHTS_FROM) / (LIGHTS_TO - LIGHTS_FROM)) * (WIDTH - LEFT - RIGHT);
  const height = HEIGHT - TOP - FOOT;
  const pyOf = (reflectance: number) => {
    const share =
      scale === "zones"
        ? printZone(reflectance) / 10
        : 1 - Math.min(DEEPEST, -Math.log10(Math.max(1e-9, reflectance))) / DEEPEST;
    return TOP + (1 - share) * height;
  };
  const lightnessAt = (y: number) => {
    const share = Math.min(1, Math.max(0, 1 - (y - TOP) / height));
    return scale === "zones" ? share : luminanceToLightness(10 ** (-DEEPEST * (1 - share))) / 100;
  };
  /** Where on the axis of light a lightness before the free curve lies. */
  const stopsOf = (before: number) => {
    let [low, high] = [LIGHTS_FROM, LIGHTS_TO];
    const wanted = lightnessToLuminance(100 * before);
    for (let i = 0; i < 24; i++) {
      const middle = (low + high) / 2;
      if (plain(stopsToLight(middle)) < wanted) low = middle;
      else high = middle;
    }
    return (low + high) / 2;
  };
  const line = (f: (light: number) => number) =>
    Array.from({ length: SAMPLES + 1 }, (_, i) => {
      const stops = LIGHTS_FROM + ((LIGHTS_TO - LIGHTS_FROM) * i) / SAMPLES;
      return `${px(stops).toFixed(1)},${pyOf(f(stopsToLight(stops))).toFixed(1)}`;
    }).join(" ");
  const points = curve.map(([x, y]) => ({ x: px(stopsOf(x)), y: pyOf(lightnessToLuminance(100 * y)) }));

  /** Lightness before and after the free curve at the pointer; with Shift on the nearest third of a zone. */
  const place = (event: PointerEvent): [number, number] => {
    const box = svg.current!.getBoundingClientRect();
    const unit = WIDTH / box.width;
    const stops =
      LIGHTS_FROM + (((event.clientX - box.left) * unit - LEFT) / (WIDTH - LEFT - RIGHT)) * (LIGHTS_TO - LIGHTS_FROM);
    const to = lightnessAt((event.clientY - box.top) * unit);
    const snapped = event.shiftKey ? Math.round(to * 30) / 30 : to;
    return [luminanceToLightness(plain(stopsToLight(stops))) / 100, snapped];
  };
  const onPointerDown = (event: PointerEvent) => {
    if (event.button !== 0) return;
    svg.current!.setPointerCapture(event.pointerId);
    const box = svg.current!.getBoundingClientRect();
    const unit = WIDTH / box.width;
    const [x, y] = [(event.clientX - box.left) * unit, (event.clientY - box.top) * unit];
    const near = points.findIndex((point) => Math.hypot(point.x - x, point.y - y) < NEAR);
    if (near >= 0) {
      setHeld(near);
      setChosen(near);
      return;
    }
    const [before, to] = place(event);
    const now = monotoneCubic(curve)(before);
    const next = setPoint(curve, before, now + (to - now) * 0.5);
    put(next);
    const added = next.findIndex((point) => Math.abs(point[0] - before) < 0.036);
    setHeld(added);
    setChosen(added);
  };
  const onPointerMove = (event: PointerEvent) => {
    if (held !== null) put(movePoint(nowOf(), held, ...place(event)));
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
  const onKeyDown = (event: KeyboardEvent) => {
    if (chosen === null || !curve[chosen]) return;
    const move = { ArrowUp: [0, 1], ArrowDown: [0, -1], ArrowLeft: [-1, 0], ArrowRight: [1, 0] }[event.key];
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
  };
  const straight = JSON.stringify(curve) === JSON.stringify(STRAIGHT_CURVE);
  const top = Math.max(1e-6, ...(histograms?.scene ?? [0]));
  const perBin = histograms ? (LADDER_STOPS.highest - LADDER_STOPS.lowest) / histograms.scene.length : 1;
  return (
    <div>
      <svg
        ref={svg}
        viewBox={`0 0 ${WIDTH} ${HEIGHT}`}
        className="block w-full cursor-crosshair touch-none outline-offset-2 select-none"
        aria-label={label}
        role="application"
        tabIndex={0}
        data-testid="curve"
        onPointerDown={onPointerDown}
        onPointerMove={onPointerMove}
        onPointerUp={onPointerUp}
        onPointerCancel={onPointerUp}
        onKeyDown={onKeyDown}
      >
        <Heap histograms={histograms} px={px} floor={TOP + height} perBin={perBin} top={top} />
        <Axes scale={scale} px={px} pyOf={pyOf} />
        {(reading ? [reading.straightFrom, reading.straightTo] : []).map(
          (stops, i) =>
            stops > LIGHTS_FROM &&
            stops < LIGHTS_TO && (
              <line
                key={i}
                x1={px(stops)}
                x2={px(stops)}
                y1={pyOf(plain(stopsToLight(stops))) - 7}
                y2={pyOf(plain(stopsToLight(stops))) + 7}
                className="stroke-quiet"
              >
                <title>{i === 0 ? "The shoulder ends here" : "The toe begins here"}</title>
              </line>
            ),
        )}
        <polyline
          points={line(plain)}
          fill="none"
          className="stroke-quiet"
          strokeDasharray={straight ? undefined : "3 3"}
        />
        <polyline points={line(whole)} fill="none" className="stroke-base-content" strokeWidth={1.6} />
        {points.map(({ x, y }, i) => (
          <circle
            key={i}
            cx={x}
            cy={y}
            r={4.5}
            className={i === chosen ? "fill-accent stroke-base-100" : "fill-base-content stroke-base-100"}
            onDoubleClick={() => takeAway(i)}
          >
            <title>{`Zone ${zoneThirds(10 * curve[i][0])} prints as ${zoneThirds(10 * curve[i][1])}; double-click takes it away`}</title>
          </circle>
        ))}
      </svg>
      <div className="text-quiet flex items-baseline justify-between gap-2" data-testid="characteristic">
        {reading ? (
          <span
            className="whitespace-nowrap"
            title="Slope of density over log exposure in the straight part; densities of the whitest and the blackest"
          >
            gamma {reading.gamma.toFixed(2)}, D {reading.dMin.toFixed(2)}–{reading.dMax.toFixed(2)}
          </span>
        ) : (
          <span>thin line: without it</span>
        )}
        <button
          className="act -mr-1.5 whitespace-nowrap"
          title="Whether density or print zones go up"
          onClick={() => rememberPage("Chart", scale === "density" ? "zones" : "density")}
        >
          by {scale === "density" ? "density" : "zone"}
        </button>
      </div>
      <div className="text-quiet flex min-h-7 items-center justify-between">
        {chosen !== null && curve[chosen] ? (
          <PointFields
            key={chosen}
            point={curve[chosen]}
            onTyped={(x, y) => {
              put(movePoint(curve, chosen, x, y));
              keep("Curve point typed");
            }}
          />
        ) : (
          <span title="Shift keeps a point on thirds of a zone">Click the line to add a point</span>
        )}
        {!straight && (
          <button
            className="act -mr-1.5"
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

interface AxesProps {
  readonly scale: Scale;
  readonly px: (stops: number) => number;
  readonly pyOf: (reflectance: number) => number;
}

function Axes({ scale, px, pyOf }: AxesProps) {
  const reflectances =
    scale === "zones"
      ? ZONES.filter((zone) => zone % 2 === 0 || zone === 5).map(
          (zone) => [lightnessToLuminance(10 * zone), zoneNumeral(zone)] as const,
        )
      : [0, 0.5, 1, 1.5, 2].map((density) => [10 ** -density, density.toFixed(1)] as const);
  const lights = [-8, -6, -4, -2, 0, 2, 4];
  const foot = pyOf(0) + 15;
  return (
    <g fontSize={11} className="fill-quiet stroke-line">
      {reflectances.map(([reflectance, label]) => (
        <g key={label}>
          <line x1={px(LIGHTS_FROM)} x2={px(LIGHTS_TO)} y1={pyOf(reflectance)} y2={pyOf(reflectance)} />
          <text
            x={LEFT - 5}
            y={pyOf(reflectance) + 4}
            textAnchor="end"
            stroke="none"
            className={scale === "zones" ? "font-serif" : "tabular-nums"}
          >
            {label}
          </text>
        </g>
      ))}
      {lights.map((stops) => (
        <g key={stops}>
          <line x1={px(stops)} x2={px(stops)} y1={pyOf(1)} y2={pyOf(0)} />
          <text x={px(stops)} y={foot} textAnchor="middle" stroke="none" className="tabular-nums">
            {stops > 0 ? `+${stops}` : String(stops).replace("-", "−")}
          </text>
        </g>
      ))}
      <text x={px(LIGHTS_TO)} y={foot + 14} textAnchor="end" stroke="none">
        log exposure, stops about V
      </text>
    </g>
  );
}

interface HeapProps {
  readonly histograms: Histograms | null;
  readonly px: (stops: number) => number;
  readonly floor: number;
  readonly perBin: number;
  readonly top: number;
}

/** The picture's light under the curve. */
function Heap({ histograms, px, floor, perBin, top }: HeapProps) {
  return histograms?.scene.map((count, i) => {
    const stops = LADDER_STOPS.lowest + i * perBin;
    if (stops < LIGHTS_FROM || count === 0) return null;
    const rise = 56 * (count / top) ** 0.6;
    return (
      <rect
        key={i}
        x={px(stops)}
        y={floor - rise}
        width={px(stops + perBin) - px(stops)}
        height={rise}
        className="fill-quiet"
        fillOpacity={0.25}
      />
    );
  });
}

interface PointFieldsProps {
  readonly point: readonly [number, number];
  readonly onTyped: (x: number, y: number) => void;
}

/** A point in zones, to be typed. */
function PointFields({ point, onTyped }: PointFieldsProps) {
  const fields = ["zone before", "zone printed"] as const;
  return (
    <span className="flex items-center gap-1">
      {fields.map((label, i) => (
        <span key={label} className="flex items-center gap-1">
          {i === 1 && "→"}
          <input
            className="field w-12 text-center"
            aria-label={`Point, ${label}`}
            defaultValue={(10 * point[i]).toFixed(1)}
            key={point[i]}
            onKeyDown={(event) => {
              event.stopPropagation();
              if (event.key === "Enter") event.currentTarget.blur();
            }}
            onBlur={(event) => {
              const typed = parseAmount(event.target.value);
              if (typed === null) event.target.value = (10 * point[i]).toFixed(1);
              else if (Math.abs(typed / 10 - point[i]) > 1e-3) {
                const next: [number, number] = [point[0], point[1]];
                next[i] = Math.min(1, Math.max(0, typed / 10));
                onTyped(...next);
              }
            }}
          />
        </span>
      ))}
    </span>
  );
}
