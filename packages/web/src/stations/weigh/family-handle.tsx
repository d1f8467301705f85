import { formatSigned, stopsForLightness } from "@yelm/core";
import { useRef, type PointerEvent } from "react";
import type { WeighScene } from "./measured.ts";
import { useSession } from "../../data/use-session.ts";
import { benchView } from "../../picture/bench-view.ts";
import { changeFamily, clampStops } from "./family-edits.ts";
import { zoneThirds } from "../../controls/formats.ts";

const ARROW_STOPS = 0.1;

interface HandleProps {
  readonly scene: WeighScene;
  readonly index: number;
  readonly x: number;
  readonly y: number;
  readonly zoneY: (lightness: number) => number;
  readonly onHold: (id: string | null) => void;
}

/** The end of a rung: pulled up it makes the family lighter, down darker. */
export function FamilyHandle({ scene, index, x, y, zoneY, onHold }: HandleProps) {
  const session = useSession();
  const family = scene.families[index];
  const grip = useRef<SVGCircleElement>(null);
  const from = useRef<{ scene: WeighScene; grabbedAt: number } | null>(null);
  const set = (stops: number) =>
    session.preview((recipe) => changeFamily(recipe, scene.families, family.id, { stops: clampStops(stops) }));
  const place = (event: PointerEvent) => {
    const svg = grip.current!.ownerSVGElement!;
    const box = svg.getBoundingClientRect();
    const at = ((event.clientY - box.top) / box.height) * svg.viewBox.baseVal.height;
    const top = zoneY(100);
    return ((zoneY(0) - at) / (zoneY(0) - top)) * 100;
  };
  return (
    <circle
      ref={grip}
      cx={x}
      cy={y}
      r={10}
      fill="transparent"
      className="ladder-handle cursor-ns-resize"
      role="slider"
      tabIndex={0}
      aria-label={`${family.name}, stops`}
      aria-valuemin={-3}
      aria-valuemax={3}
      aria-valuenow={family.stops}
      aria-valuetext={`${formatSigned(family.stops, 2)} stops, Zone ${zoneThirds(scene.greys[index].lightness / 10)}`}
      data-family={family.id}
      onPointerDown={(event) => {
        if (event.button !== 0) return;
        event.currentTarget.setPointerCapture(event.pointerId);
        from.current = { scene, grabbedAt: place(event) - scene.greys[index].lightness };
        onHold(family.id);
        // What is being judged must not lie under dots.
        benchView.setState({ pointed: [] });
      }}
      onPointerMove={(event) => {
        if (!from.current) return;
        const wanted = Math.min(100, Math.max(0, place(event) - from.current.grabbedAt));
        set(stopsForLightness(from.current.scene.probe, index, wanted));
      }}
      onPointerUp={() => {
        if (!from.current) return;
        from.current = null;
        onHold(null);
        session.commit("Weigh", `${family.name} moved`);
      }}
      onPointerCancel={() => {
        from.current = null;
        onHold(null);
        session.revert();
      }}
      onDoubleClick={() => {
        set(0);
        session.commit("Weigh", `${family.name} put back`);
      }}
      onKeyDown={(event) => {
        const sign = { ArrowUp: 1, ArrowRight: 1, ArrowDown: -1, ArrowLeft: -1 }[event.key];
        if (!sign) return;
        event.preventDefault();
        const size = event.shiftKey ? 5 : event.altKey ? 0.2 : 1;
        set(family.stops + sign * size * ARROW_STOPS);
        session.commit("Weigh", `${family.name} moved`);
      }}
    />
  );
}
