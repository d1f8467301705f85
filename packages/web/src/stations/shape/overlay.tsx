import { useEffect, useRef, useState, type PointerEvent } from "react";
import { useStore } from "zustand";
import { zoneThirds } from "../../controls/formats.ts";
import { useEdit, useSession } from "../../data/use-session.ts";
import { benchView } from "../../picture/bench-view.ts";
import { shapeMapping } from "../../shapes/mapping.ts";
import { newId } from "../../shapes/stack-edits.ts";
import type { OverlayProps } from "../station.ts";
import { EndsOverlay } from "./ends-overlay.tsx";
import { SparedOverlay } from "./spared-overlay.tsx";
import { placeSpot, useSpots } from "../../instruments/spots.ts";

/** Pixels of the pointer's way that move a spot by a zone. */
const PIXELS_A_ZONE = 34;

/** Shape on the picture: pinned spots, and what clips. */
export function ShapeStationOverlay(props: OverlayProps) {
  const { ends, mode, spared } = useStore(benchView);
  if (mode !== "print") return null;
  return (
    <>
      {ends && <EndsOverlay {...props} end={ends} />}
      {spared && <SparedOverlay {...props} />}
      <SpotsOverlay {...props} />
    </>
  );
}

function SpotsOverlay(props: OverlayProps) {
  const session = useSession();
  const { tool, spotId } = useStore(benchView);
  const { readings } = useSpots();
  const isMoving = useEdit((state) => state.recipe !== state.kept);
  const layer = useRef<SVGSVGElement>(null);
  const [pulled, setPulled] = useState<{ readonly id: string; readonly y: number; readonly zone: number } | null>(null);
  const mapping = shapeMapping(props);
  const pinning = tool === "spot";

  const place = (id: string, zone: number, keep: boolean) => {
    session.revert();
    session.preview((recipe) => ({ ...recipe, shape: placeSpot(recipe.shape, readings, id, zone).shape }));
    if (keep) session.commit("Shape", `Spot placed on Zone ${zoneThirds(zone)}`);
  };
  usePlacingKeys(pinning || spotId !== null ? spotId : null, (zone) => spotId && place(spotId, zone, true));

  const pin = (event: PointerEvent<SVGSVGElement>) => {
    if (!pinning || event.target !== event.currentTarget) return;
    const box = layer.current!.getBoundingClientRect();
    const [x, y] = mapping.toFlat(event.clientX - box.left, event.clientY - box.top);
    const id = newId();
    const at = (v: number) => Number(Math.min(2, Math.max(-1, v)).toFixed(5));
    session.change("Shape", "Spot pinned", (recipe) => ({
      ...recipe,
      shape: { ...recipe.shape, spots: [...recipe.shape.spots, { id, x: at(x), y: at(y), placed: false, zone: 5 }] },
    }));
    benchView.setState({ spotId: id });
  };
  const pull = (event: PointerEvent<SVGGElement>) => {
    if (pulled) place(pulled.id, pulled.zone + (pulled.y - event.clientY) / PIXELS_A_ZONE, false);
  };
  const letGo = () => {
    if (!pulled) return;
    const spot = session.store.getState().recipe.shape.spots.find(({ id }) => id === pulled.id);
    if (spot && session.store.getState().recipe !== session.store.getState().kept)
      session.commit("Shape", `Spot placed on Zone ${zoneThirds(spot.zone)}`);
    setPulled(null);
  };
  if (isMoving && !pulled) return null;
  return (
    <svg
      ref={layer}
      data-testid="spots-overlay"
      className="absolute inset-0 h-full w-full"
      style={{ pointerEvents: pinning ? "auto" : "none", cursor: "crosshair" }}
      onPointerDown={pin}
    >
      {readings.map(({ spot, number, stops, zone }) => {
        const [x, y] = mapping.toPane(spot.x, spot.y);
        const active = spot.id === spotId;
        const words = `${number}  ${stops === null ? "–" : zoneThirds(zone)}`;
        const colour = active ? "var(--color-accent)" : "#fff";
        return (
          <g
            key={spot.id}
            data-handle
            data-testid="spot"
            className="cursor-ns-resize touch-none"
            style={{ pointerEvents: "auto" }}
            onPointerDown={(event) => {
              if (stops === null) return;
              event.currentTarget.setPointerCapture(event.pointerId);
              benchView.setState({ spotId: spot.id });
              setPulled({ id: spot.id, y: event.clientY, zone });
            }}
            onPointerMove={pull}
            onPointerUp={letGo}
            onPointerCancel={letGo}
          >
            <title>{`Spot ${number}: pull up to print it lighter, down darker`}</title>
            <circle cx={x} cy={y} r={13} fill="transparent" />
            <circle cx={x} cy={y} r={5.5} fill="none" stroke="#000" strokeOpacity={0.55} strokeWidth={3.5} />
            <circle cx={x} cy={y} r={5.5} fill="none" stroke={colour} strokeWidth={1.5} />
            <rect
              x={x + 10}
              y={y - 11}
              width={14 + 7.2 * words.length}
              height={21}
              rx={2}
              fill="#000"
              fillOpacity={0.62}
            />
            <text x={x + 16} y={y + 5} className="font-serif" fontSize={15} fill={colour} xmlSpace="preserve">
              {words}
            </text>
          </g>
        );
      })}
    </svg>
  );
}

/** While a spot is in hand, numerals place it: 0 to 9, and X for ten. They do nothing else then. */
function usePlacingKeys(spotId: string | null, place: (zone: number) => void): void {
  const latest = useRef(place);
  latest.current = place;
  useEffect(() => {
    if (spotId === null) return;
    const onKey = (event: KeyboardEvent) => {
      if (event.ctrlKey || event.metaKey || event.altKey) return;
      if (event.target instanceof HTMLInputElement && event.target.type !== "range") return;
      const zone = /^[0-9]$/.test(event.key) ? Number(event.key) : event.key.toLowerCase() === "x" ? 10 : null;
      if (zone === null) return;
      event.preventDefault();
      event.stopImmediatePropagation();
      latest.current(zone);
    };
    window.addEventListener("keydown", onKey, true);
    return () => window.removeEventListener("keydown", onKey, true);
  }, [spotId]);
}
