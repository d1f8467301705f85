import { formatSigned, NEUTRAL_LABEL, type Family } from "@yelm/core";
import { useEffect, useRef, useState, type PointerEvent as ReactPointerEvent } from "react";
import { useStore } from "zustand";
import { NEUTRAL_ID } from "./group-name.ts";
import { useWeighScene, type WeighScene } from "./measured.ts";
import { useSession } from "../../data/use-session.ts";
import { addPicked, changeFamily, clampStops } from "./family-edits.ts";
import { zoneThirds } from "../../controls/formats.ts";
import { benchView } from "../../picture/bench-view.ts";
import { paneToFrame } from "../../picture/placement.ts";
import { notify } from "../../shell/shell-view.ts";
import { usePool } from "../../workers/use-answer.ts";
import type { OverlayProps } from "../station.ts";

/** CSS pixels of dragging for a stop. */
const PIXELS_PER_STOP = 90;
const DOT_SPACING = 5;

/**
 * Families on the picture: what is pointed at in the sheet is dotted here, what is pointed at here lights up in the sheet. In
 * its own mode a drag up or down moves the family under the pointer.
 */
export function FamilyOverlay({ negative, frame, placement }: OverlayProps) {
  const pool = usePool();
  const scene = useWeighScene(negative);
  const session = useSession();
  const { tool, pointed, spot } = useStore(benchView);
  const layer = useRef<HTMLDivElement>(null);
  const held = useRef<{ family: Family; fromY: number; stops: number } | null>(null);
  const [tip, setTip] = useState<{ x: number; y: number; id: string } | null>(null);
  const taking = tool === "family" || tool === "family pick";

  const place = (event: ReactPointerEvent) => {
    const box = layer.current!.getBoundingClientRect();
    const [x, y] = [event.clientX - box.left, event.clientY - box.top];
    const [fx, fy] = paneToFrame(placement, x, y);
    return { x, y, fx, fy, id: scene && familyAt(scene, fx / frame.width, fy / frame.height) };
  };
  // With no tool in hand the pointer lights the family in the sheet only: nothing is laid over the picture.
  useEffect(() => {
    const [fx, fy] = spot ? paneToFrame(placement, spot.x, spot.y) : [-1, -1];
    const under = scene && familyAt(scene, fx / frame.width, fy / frame.height);
    if (under !== benchView.getState().under) benchView.setState({ under });
  }, [scene, spot, placement, frame.width, frame.height]);
  const start = (event: ReactPointerEvent) => {
    if (event.button !== 0 || !scene) return;
    const { fx, fy, id } = place(event);
    if (tool === "family pick") {
      benchView.setState({ tool: "look" });
      void pool.ask("pick", { recipe: session.store.getState().recipe, x: fx, y: fy }).then(
        (working) => {
          session.change("Weigh", "Family picked", (recipe) => addPicked(recipe, scene.families, working));
          const { families } = session.store.getState().recipe.weigh;
          benchView.setState({ familyId: families[families.length - 1].id });
        },
        (error: Error) => notify(error.message),
      );
      return;
    }
    const family = scene.families.find((one) => one.id === id);
    if (!family) return;
    layer.current!.setPointerCapture(event.pointerId);
    held.current = { family, fromY: event.clientY, stops: family.stops };
    benchView.setState({ familyId: family.id, besideId: null });
  };
  const go = (event: ReactPointerEvent) => {
    if (!scene) return;
    const now = held.current;
    if (now) {
      const fine = event.altKey ? 0.2 : event.shiftKey ? 3 : 1;
      const stops = now.stops + ((now.fromY - event.clientY) / PIXELS_PER_STOP) * fine;
      session.preview((recipe) => changeFamily(recipe, scene.families, now.family.id, { stops: clampStops(stops) }));
      return;
    }
    const { x, y, id } = place(event);
    setTip(id ? { x, y, id } : null);
    benchView.setState({ pointed: id ? [id] : [] });
  };
  const end = () => {
    if (!held.current) return;
    session.commit("Weigh", `${held.current.family.name} moved`);
    held.current = null;
  };
  const leave = () => {
    setTip(null);
    benchView.setState({ pointed: [] });
  };

  return (
    <div
      ref={layer}
      data-testid="family-overlay"
      className="absolute inset-0 touch-none"
      style={{ pointerEvents: taking ? "auto" : "none", cursor: tool === "family pick" ? "crosshair" : "ns-resize" }}
      onPointerDown={start}
      onPointerMove={go}
      onPointerUp={end}
      onPointerCancel={end}
      onPointerLeave={leave}
    >
      {scene && pointed.length > 0 && !held.current && (
        <Dots scene={scene} ids={pointed} frame={frame} placement={placement} />
      )}
      {scene && taking && tip && <Tip scene={scene} {...tip} />}
    </div>
  );
}

/** The family of a place, 0–1 of the frame; "neutral" for neutrals, null outside. */
export function familyAt({ map, families }: WeighScene, x: number, y: number): string | null {
  if (!(x >= 0 && y >= 0 && x < 1 && y < 1)) return null;
  const label = map.labels[Math.floor(y * map.height) * map.width + Math.floor(x * map.width)];
  return label === NEUTRAL_LABEL ? NEUTRAL_ID : (families[label]?.id ?? null);
}

/** Name, stops and zone of the family under the pointer. */
function Tip({ scene, id, x, y }: { scene: WeighScene; id: string; x: number; y: number }) {
  const index = scene.families.findIndex((family) => family.id === id);
  const family = scene.families[index] as Family | undefined;
  const at = index === -1 ? scene.families.length : index;
  const [zone, plain] = [scene.greys[at], scene.plain[at]].map(({ lightness }) => zoneThirds(lightness / 10));
  return (
    <div
      className="pointer-events-none absolute rounded bg-black/80 px-2.5 py-1 text-white"
      style={{ left: x + 16, top: y - 18 }}
    >
      {family ? family.name : "neutral: no family moves it"}{" "}
      {family && family.stops !== 0 && <span className="text-[#e8a24a]">{formatSigned(family.stops, 2)}</span>}
      <span className="block font-serif">{plain === zone ? `Zone ${zone}` : `Zone ${plain} → ${zone}`}</span>
    </div>
  );
}

/** Dots over the families pointed at; of two only where they touch. */
function Dots({
  scene,
  ids,
  frame,
  placement,
}: { scene: WeighScene; ids: readonly string[] } & Pick<OverlayProps, "frame" | "placement">) {
  const canvas = useRef<HTMLCanvasElement>(null);
  useEffect(() => {
    const target = canvas.current!;
    const { width, height } = target.getBoundingClientRect();
    const dpr = window.devicePixelRatio || 1;
    target.width = width * dpr;
    target.height = height * dpr;
    const pen = target.getContext("2d")!;
    pen.scale(dpr, dpr);
    const dots: [number, number][] = [];
    const at = (x: number, y: number) => {
      const [fx, fy] = paneToFrame(placement, x, y);
      return familyAt(scene, fx / frame.width, fy / frame.height);
    };
    for (let row = 0, y = 2; y < height; row++, y += DOT_SPACING)
      for (let x = 2 + (row % 2) * (DOT_SPACING / 2); x < width; x += DOT_SPACING) {
        const id = at(x, y);
        if (id === null || !ids.includes(id)) continue;
        if (ids.length === 2) {
          const other = id === ids[0] ? ids[1] : ids[0];
          const near = [-9, -5, 5, 9].some((d) => at(x + d, y) === other || at(x, y + d) === other);
          if (!near) continue;
        }
        dots.push([x, y]);
      }
    for (const [colour, radius] of [
      ["#000000a0", 1.6],
      [accent(), 1],
    ] as const) {
      pen.fillStyle = colour;
      for (const [x, y] of dots) pen.fillRect(x - radius, y - radius, 2 * radius, 2 * radius);
    }
  });
  return (
    <canvas ref={canvas} data-testid="family-dots" className="pointer-events-none absolute inset-0 h-full w-full" />
  );
}

function accent(): string {
  return getComputedStyle(document.documentElement).getPropertyValue("--color-accent") || "#e0a030";
}
