import {
  formatSigned,
  LADDER_STOPS,
  lightToStops,
  printZone,
  stopsToLight,
  toneCurve,
  type Histograms,
  type Negative,
} from "@yelm/core";
import { memo, useLayoutEffect, useMemo, useRef, useState, type PointerEvent } from "react";
import { useStore } from "zustand";
import { useEdit, useSession } from "../data/use-session.ts";
import { useHistograms } from "./use-histograms.ts";
import { benchView } from "../picture/bench-view.ts";
import { asStops, zoneNumeral, zoneThirds } from "../controls/formats.ts";
import { placeSpot, useSpots, type SpotReading } from "./spots.ts";
import { placeRung } from "./curve-edits.ts";

const LOWEST = -7;
const HIGHEST = 3;
const STOPS = Array.from({ length: HIGHEST - LOWEST + 1 }, (_, i) => LOWEST + i);
const ZONES = Array.from({ length: 11 }, (_, i) => i);
const WIDTH = 131;
const SCENE_X = 50;
const PRINT_X = 88;
const TOP = 34;
const FOOT = 58;

/**
 * The tone ladder: scene stops on the left, print zones on the right, each with its histogram; the rungs between them
 * are the curve. A rung's right end is a handle: it places that light on a zone.
 */
export function ToneLadder({ negative }: { negative: Negative }) {
  const { histograms } = useHistograms();
  const box = useRef<HTMLDivElement>(null);
  const [height, setHeight] = useState(560);
  const shape = useEdit((state) => state.recipe.shape);
  const exposureEv = useEdit((state) => state.recipe.ground.exposureEv);
  const session = useSession();
  const { spot, spotId, zone: shownZone } = useStore(benchView);
  const { readings } = useSpots();
  const [pulled, setPulled] = useState<SpotReading | null>(null);
  const [held, setHeld] = useState<number | null>(null);
  const curve = useMemo(() => toneCurve(shape), [shape]);

  useLayoutEffect(() => {
    const observer = new ResizeObserver(([entry]) => setHeight(Math.floor(entry.contentRect.height)));
    observer.observe(box.current!);
    return () => observer.disconnect();
  }, []);

  const bottom = height - FOOT;
  const sceneY = (stops: number) => placeOfStops(stops, bottom);
  const zoneY = (zone: number) => placeOfZone(zone, bottom);
  const zoneOf = (stops: number) => printZone(curve(stopsToLight(stops)));
  const spotStops = spot ? Math.min(HIGHEST, Math.max(LOWEST, lightToStops(spot.light))) : null;
  // Through the curve as it is now, which may have changed under a pointer at rest.
  const spotZone = spot ? printZone(curve(spot.light)) : null;

  const pull = (event: PointerEvent<SVGElement>) => {
    if (!pulled) return;
    const y = event.clientY - box.current!.getBoundingClientRect().top;
    const zone = Math.min(10, Math.max(0, ((bottom - y) / (bottom - TOP)) * 10));
    session.revert();
    session.preview((recipe) => ({ ...recipe, shape: placeSpot(recipe.shape, readings, pulled.spot.id, zone).shape }));
  };
  const letGo = () => {
    if (!pulled) return;
    const { recipe, kept } = session.store.getState();
    const spot = recipe.shape.spots.find(({ id }) => id === pulled.spot.id);
    if (spot && recipe !== kept) session.commit("Shape", `Spot placed on Zone ${zoneThirds(spot.zone)}`);
    setPulled(null);
  };
  const grab = (stops: number) => (event: PointerEvent<SVGElement>) => {
    event.currentTarget.setPointerCapture(event.pointerId);
    setHeld(stops);
  };
  const drag = (event: PointerEvent<SVGElement>) => {
    if (held === null) return;
    const y = event.clientY - box.current!.getBoundingClientRect().top;
    const zone = Math.min(10, Math.max(0, ((bottom - y) / (bottom - TOP)) * 10));
    session.revert();
    session.preview((recipe) => ({ ...recipe, shape: placeRung(recipe.shape, held, zone) }));
  };
  const drop = () => {
    if (held === null) return;
    session.commit(
      "Shape",
      `Placed ${asStops(held) === "0" ? "middle grey" : asStops(held)} on Zone ${zoneThirds(zoneOf(held))}`,
    );
    setHeld(null);
  };

  return (
    <div ref={box} className="bg-base-200 border-line h-full border-l select-none" data-testid="ladder">
      <svg width={WIDTH} height={height} role="img" aria-label="Tone ladder" className="block">
        <text x={8} y={20} className="fill-quiet font-serif" fontSize={13}>
          scene
        </text>
        <text x={WIDTH - 8} y={20} textAnchor="end" className="fill-quiet font-serif" fontSize={13}>
          print
        </text>
        {histograms && <SceneHistogram counts={histograms.scene} bottom={bottom} />}
        {histograms && <PrintHistogram print={histograms.print} bottom={bottom} />}
        <line x1={SCENE_X} x2={SCENE_X} y1={TOP} y2={bottom} className="stroke-quiet" strokeOpacity={0.5} />
        <line x1={PRINT_X} x2={PRINT_X} y1={TOP} y2={bottom} className="stroke-quiet" strokeOpacity={0.5} />
        {STOPS.map((stops) => (
          <g key={stops}>
            <text
              x={6}
              y={sceneY(stops) + 4}
              fontSize={11}
              className={stops === 0 ? "fill-base-content" : "fill-quiet"}
            >
              {stops > 0 ? `+${stops}` : String(stops).replace("-", "−")}
            </text>
            <line
              x1={SCENE_X}
              y1={sceneY(stops)}
              x2={PRINT_X}
              y2={zoneY(zoneOf(stops))}
              className={held === stops ? "stroke-accent" : "stroke-quiet"}
              strokeWidth={held === stops || stops === 0 ? 1.5 : 1}
            />
          </g>
        ))}
        <Headroom negative={negative} exposureEv={exposureEv} y={sceneY} top={TOP} />
        {ZONES.map((zone) => (
          <text
            key={zone}
            x={WIDTH - 6}
            y={zoneY(zone) + 4}
            textAnchor="end"
            fontSize={12}
            data-testid={`zone-${zone}`}
            className={`cursor-pointer touch-none font-serif ${shownZone === zone ? "fill-accent" : "fill-quiet"}`}
            onPointerDown={(event) => {
              event.currentTarget.setPointerCapture(event.pointerId);
              benchView.setState({ zone });
            }}
            onPointerUp={() => benchView.setState({ zone: null })}
            onPointerCancel={() => benchView.setState({ zone: null })}
          >
            <title>{`Hold to see where Zone ${zoneNumeral(zone)} lies in the picture`}</title>
            {zoneNumeral(zone)}
          </text>
        ))}
        {spotStops !== null && spotZone !== null && (
          <g className="stroke-accent fill-accent" data-testid="spot-rung">
            <line x1={SCENE_X} y1={sceneY(spotStops)} x2={PRINT_X} y2={zoneY(spotZone)} strokeWidth={2} />
            <circle cx={SCENE_X} cy={sceneY(spotStops)} r={2.5} stroke="none" />
            <circle cx={PRINT_X} cy={zoneY(spotZone)} r={2.5} stroke="none" />
          </g>
        )}
        {readings.map((reading) => {
          const { spot, number, stops, zone } = reading;
          if (stops === null) return null;
          const y = sceneY(Math.min(HIGHEST, Math.max(LOWEST, stops)));
          const colour = spot.id === spotId ? "accent" : "base-content";
          return (
            <g key={spot.id} className={`stroke-${colour} fill-${colour}`} data-testid="placed-rung">
              <line
                x1={SCENE_X}
                y1={y}
                x2={PRINT_X}
                y2={zoneY(zone)}
                strokeWidth={1.5}
                strokeDasharray={spot.placed ? undefined : "3 3"}
              />
              <text x={SCENE_X + 4} y={y - 3} fontSize={11} stroke="none" className="font-serif">
                {number}
              </text>
              <circle
                cx={PRINT_X}
                cy={zoneY(zone)}
                r={5}
                className="cursor-ns-resize touch-none"
                onPointerDown={(event) => {
                  event.currentTarget.setPointerCapture(event.pointerId);
                  benchView.setState({ spotId: spot.id });
                  setPulled(reading);
                }}
                onPointerMove={pull}
                onPointerUp={letGo}
                onPointerCancel={letGo}
              >
                <title>{`Spot ${number} prints on Zone ${zoneThirds(zone)}; drag to place it`}</title>
              </circle>
            </g>
          );
        })}
        {STOPS.map((stops) => (
          <circle
            key={stops}
            cx={PRINT_X}
            cy={zoneY(zoneOf(stops))}
            r={8}
            fill="transparent"
            className="ladder-handle cursor-ns-resize touch-none"
            onPointerDown={grab(stops)}
            onPointerMove={drag}
            onPointerUp={drop}
            onPointerCancel={drop}
          >
            <title>{`${asStops(stops)} prints on Zone ${zoneThirds(zoneOf(stops))}; drag to place it`}</title>
          </circle>
        ))}
        <text x={8} y={height - 28} fontSize={12} className="fill-base-content">
          {spot ? formatSigned(within(lightToStops(spot.light)), 1) : ""}
        </text>
        <text x={WIDTH - 8} y={height - 28} fontSize={13} textAnchor="end" className="fill-accent font-serif">
          {spotZone === null ? "" : `Zone ${zoneThirds(spotZone)}`}
        </text>
        {histograms && <Clipped {...histograms} y={height - 10} />}
      </svg>
    </div>
  );
}

function within(stops: number): number {
  return Math.max(LADDER_STOPS.lowest, stops);
}

function placeOfStops(stops: number, bottom: number): number {
  return bottom - ((stops - LOWEST) / (HIGHEST - LOWEST)) * (bottom - TOP);
}

function placeOfZone(zone: number, bottom: number): number {
  return bottom - (zone / 10) * (bottom - TOP);
}

interface HeadroomProps {
  readonly negative: Negative;
  readonly exposureEv: number;
  readonly y: (stops: number) => number;
  readonly top: number;
}

/** Where the capture's sensor is full, and how far beyond it is still measured. */
function Headroom({ negative, exposureEv, y, top }: HeadroomProps) {
  const { clipped, headroomStops = 0 } = negative.capture;
  if (!clipped) return null;
  const full = lightToStops(1) + exposureEv;
  if (full > HIGHEST) return null;
  const at = y(full);
  const end = Math.max(top, y(full + headroomStops));
  const share = Math.max(...clipped);
  return (
    <g className="stroke-accent" data-testid="sensor-full">
      <title>
        {`Sensor white. ${headroomStops > 0.05 ? `${headroomStops.toFixed(1)} stops beyond it are measured by the channels that are not full.` : ""} ${share > 5e-5 ? `At most ${(100 * share).toFixed(1)} % of a channel's sites are saturated.` : "Nothing is saturated."}`}
      </title>
      <line x1={SCENE_X - 5} x2={SCENE_X + 5} y1={at} y2={at} strokeWidth={2} />
      {headroomStops > 0.05 && (
        <line x1={SCENE_X} x2={SCENE_X} y1={at} y2={end} strokeWidth={2} strokeDasharray="2 3" />
      )}
      {share > 5e-5 &&
        [0, 4, 8].map((d) => <line key={d} x1={SCENE_X - 14} x2={SCENE_X - 6} y1={at - d} y2={at - d - 6} />)}
    </g>
  );
}

const SceneHistogram = memo(function SceneHistogram({ counts, bottom }: { counts: readonly number[]; bottom: number }) {
  const perStop = counts.length / (LADDER_STOPS.highest - LADDER_STOPS.lowest);
  const shown = counts
    .map((count, i) => ({ count, from: LADDER_STOPS.lowest + i / perStop }))
    .filter(({ from }) => from >= LOWEST && from < HIGHEST);
  const top = Math.max(1e-6, ...shown.map(({ count }) => count));
  const steps = shown.map(({ count, from }) => {
    const length = (SCENE_X - 24) * (count / top) ** 0.6;
    return `H${SCENE_X - length}V${placeOfStops(from + 1 / perStop, bottom)}`;
  });
  const path = `M${SCENE_X} ${placeOfStops(LOWEST, bottom)}${steps.join("")}H${SCENE_X}Z`;
  return <path d={path} className="fill-quiet" fillOpacity={0.55} />;
});

const PrintHistogram = memo(function PrintHistogram({ print, bottom }: { print: readonly number[]; bottom: number }) {
  const perZone = print.length / 10;
  const top = Math.max(1e-6, ...print);
  const steps = print.map((count, i) => {
    const length = (WIDTH - PRINT_X - 27) * (count / top) ** 0.6;
    return `H${PRINT_X + length}V${placeOfZone((i + 1) / perZone, bottom)}`;
  });
  const path = `M${PRINT_X} ${placeOfZone(0, bottom)}${steps.join("")}H${PRINT_X}Z`;
  return <path d={path} className="fill-base-content" fillOpacity={0.45} />;
});

/** Shares that print as pure black and pure white, each with its own hatching. */
function Clipped({ black, white, y }: Histograms & { y: number }) {
  const text = (share: number) => (share < 0.0005 ? "0" : share < 0.01 ? "<1 %" : `${Math.round(100 * share)} %`);
  return (
    <g fontSize={11} className="fill-quiet">
      <Hatch x={8} y={y - 9} rising />
      <text x={22} y={y}>
        <title>Share of the picture that prints as the deepest black</title>
        {text(black)}
      </text>
      <Hatch x={WIDTH - 18} y={y - 9} />
      <text x={WIDTH - 22} y={y} textAnchor="end">
        <title>Share of the picture that prints as bare paper</title>
        {text(white)}
      </text>
    </g>
  );
}

function Hatch({ x, y, rising }: { x: number; y: number; rising?: boolean }) {
  return (
    <g className="stroke-quiet">
      {[0, 4, 8].map((d) =>
        rising ? (
          <line
            key={d}
            x1={x + Math.max(0, d - 6)}
            y1={y + Math.min(10, d + 4)}
            x2={x + Math.min(10, d + 4)}
            y2={y + Math.max(0, d - 6)}
          />
        ) : (
          <line
            key={d}
            x1={x + Math.max(0, 6 - d)}
            y1={y + Math.max(0, d - 6)}
            x2={x + Math.min(10, 16 - d)}
            y2={y + Math.min(10, 4 + d)}
          />
        ),
      )}
    </g>
  );
}
