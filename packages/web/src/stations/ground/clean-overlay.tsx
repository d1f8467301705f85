import { useDrag } from "@use-gesture/react";
import type { CleanSpot } from "@yelm/core";
import { useRef, useState, type PointerEvent as ReactPointerEvent } from "react";
import { useStore } from "zustand";
import { useEdit, useSession } from "../../data/use-session.ts";
import { newSpot, withSpot } from "./clean-edits.ts";
import { benchView } from "../../picture/bench-view.ts";
import { negativeMapping } from "./negative-mapping.ts";
import { usePool } from "../../workers/use-answer.ts";
import type { OverlayProps } from "../station.ts";

/** Mended places: click or stroke to mend, drag the source to another; and places that may be dust. */
export function CleanOverlay({ negative, frame, placement }: OverlayProps) {
  const pool = usePool();
  const map = negativeMapping(negative, frame, placement);
  const spots = useEdit((state) => state.recipe.ground.clean);
  const session = useSession();
  const { tool, cleanId, cleanRadius, dust, dustIndex } = useStore(benchView);
  const layer = useRef<SVGSVGElement>(null);
  const [pointer, setPointer] = useState<[number, number] | null>(null);
  const [stroke, setStroke] = useState<readonly [number, number][]>([]);
  const drawing = tool === "heal" || tool === "clone";
  const local = (event: { clientX: number; clientY: number }): [number, number] => {
    const box = layer.current!.getBoundingClientRect();
    return [event.clientX - box.left, event.clientY - box.top];
  };
  const radius = cleanRadius * map.pixels;

  const start = (event: ReactPointerEvent) => {
    if (!drawing || event.button !== 0 || (event.target as Element).closest("[data-handle]")) return;
    layer.current!.setPointerCapture(event.pointerId);
    setStroke([local(event)]);
  };
  const go = (event: ReactPointerEvent) => {
    const here = local(event);
    setPointer(here);
    const last = stroke.at(-1);
    if (last && Math.hypot(here[0] - last[0], here[1] - last[1]) > Math.max(2, radius / 3))
      setStroke([...stroke, here]);
  };
  const end = () => {
    if (stroke.length === 0 || !drawing) return;
    const points = stroke.map(([x, y]) => map.toNegative(x, y));
    setStroke([]);
    void mend(newSpot(tool, points, cleanRadius));
  };
  const mend = async (spot: CleanSpot) => {
    const { recipe } = session.store.getState();
    const source = await pool.ask("healSource", { recipe, spot }).catch(() => ({}));
    session.change("Ground", spot.kind === "heal" ? "Healed" : "Cloned", (now) =>
      withSpot(now, { ...spot, ...source }),
    );
    benchView.setState({ cleanId: spot.id });
  };

  return (
    <svg
      ref={layer}
      data-testid="clean-overlay"
      className="absolute inset-0 h-full w-full"
      style={{ pointerEvents: drawing ? "auto" : "none", cursor: drawing ? "none" : undefined }}
      onPointerDown={start}
      onPointerMove={go}
      onPointerUp={end}
      onPointerCancel={() => setStroke([])}
      onPointerLeave={() => setPointer(null)}
    >
      {drawing &&
        spots.map((spot) => (
          <Spot
            key={spot.id}
            spot={spot}
            active={spot.id === cleanId}
            map={map}
            onPull={(dx, dy) =>
              session.preview((recipe) => {
                const now = recipe.ground.clean.find(({ id }) => id === spot.id) ?? spot;
                const limit = (v: number) => Math.min(1.2, Math.max(-1.2, v));
                const sourceX = limit(now.sourceX + dx);
                const sourceY = limit(now.sourceY + dy);
                return withSpot(recipe, { ...now, sourceX, sourceY });
              })
            }
            onEnd={() => session.commit("Ground", "Source moved")}
          />
        ))}
      {dust.map(({ x, y, radius: size }, i) => {
        const [cx, cy] = map.toPane(x, y);
        const r = Math.max(7, 1.8 * size * map.pixels);
        const asked = i === dustIndex;
        return (
          <g key={`${x} ${y}`} className={asked ? "stroke-accent" : "stroke-white"} fill="none">
            <circle cx={cx} cy={cy} r={r} strokeDasharray="1 4" strokeLinecap="round" strokeWidth={asked ? 2.5 : 2} />
          </g>
        );
      })}
      {drawing && pointer && (
        <g fill="none" pointerEvents="none">
          {stroke.length > 1 && (
            <polyline
              points={stroke.map((p) => p.join(",")).join(" ")}
              stroke="#fff"
              strokeOpacity={0.35}
              strokeWidth={2 * radius}
              strokeLinecap="round"
              strokeLinejoin="round"
            />
          )}
          <circle cx={pointer[0]} cy={pointer[1]} r={radius} stroke="#000" strokeOpacity={0.6} strokeWidth={3} />
          <circle cx={pointer[0]} cy={pointer[1]} r={radius} stroke="#fff" />
        </g>
      )}
    </svg>
  );
}

interface SpotProps {
  readonly spot: CleanSpot;
  readonly active: boolean;
  readonly map: ReturnType<typeof negativeMapping>;
  readonly onPull: (dx: number, dy: number) => void;
  readonly onEnd: () => void;
}

function Spot({ spot, active, map, onPull, onEnd }: SpotProps) {
  const bind = useDrag(({ delta: [dx, dy], last, xy: [x, y] }) => {
    // Through the map, so that the source follows the hand under any slant.
    const [ax, ay] = map.toNegative(x - dx, y - dy);
    const [bx, by] = map.toNegative(x, y);
    onPull(bx - ax, by - ay);
    if (last) onEnd();
  });
  const r = Math.max(4, spot.radius * map.pixels);
  const here = spot.points.map(([x, y]) => map.toPane(x, y));
  const there = spot.points.map(([x, y]) => map.toPane(x + spot.sourceX, y + spot.sourceY));
  const [cx, cy] = here[Math.floor(here.length / 2)];
  const [sx, sy] = there[Math.floor(there.length / 2)];
  const choose = () => benchView.setState({ cleanId: spot.id });
  return (
    <g fill="none" opacity={spot.on ? 1 : 0.4}>
      <Outline points={here} r={r} className={active ? "stroke-accent" : "stroke-white"} dash="5 4" />
      <circle
        data-handle
        cx={cx}
        cy={cy}
        r={Math.max(9, r)}
        fill="transparent"
        className="cursor-pointer"
        onClick={choose}
      />
      {active && (
        <>
          <line x1={cx} y1={cy} x2={sx} y2={sy} className="stroke-accent" strokeOpacity={0.6} />
          <Outline points={there} r={r} className="stroke-accent" dash="" />
          <g {...bind()} data-handle className="cursor-move touch-none">
            <circle cx={sx} cy={sy} r={Math.max(11, r)} fill="transparent" />
            <title>Where it is mended from; drag it</title>
          </g>
        </>
      )}
    </g>
  );
}

interface OutlineProps {
  readonly points: readonly (readonly [number, number])[];
  readonly r: number;
  readonly className: string;
  readonly dash: string;
}

function Outline({ points, r, className, dash }: OutlineProps) {
  const ends = points.length > 1 ? [points[0], points[points.length - 1]] : points;
  return (
    <g className={className} strokeDasharray={dash}>
      {points.length > 1 && <polyline points={points.map((p) => p.join(",")).join(" ")} />}
      {ends.map(([x, y], i) => (
        <circle key={i} cx={x} cy={y} r={r} />
      ))}
    </g>
  );
}
