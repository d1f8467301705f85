import { useStore } from "zustand";
import { frameToPane } from "../../picture/placement.ts";
import { benchView } from "../../picture/bench-view.ts";
import type { OverlayProps } from "../station.ts";
import { useSecondLook } from "./second-look.ts";

/** A ring and a number where each finding lies. */
export function FindingMarks({ frame, placement }: OverlayProps) {
  const { open } = useSecondLook();
  const { findingId, squint } = useStore(benchView);
  if (squint) return null;
  return (
    <svg className="pointer-events-none absolute inset-0 h-full w-full" data-testid="finding-marks">
      {open.map(({ id, place }, i) => {
        if (!place) return null;
        const [x, y] = frameToPane(placement, place.x * frame.width, place.y * frame.height);
        const active = id === findingId;
        return (
          <g key={id} opacity={findingId === null || active ? 1 : 0.35}>
            <circle
              cx={x}
              cy={y}
              r={13}
              fill="#000"
              fillOpacity={0.45}
              stroke={active ? "var(--color-accent)" : "#fff"}
              strokeWidth={1.5}
            />
            <text
              x={x}
              y={y + 5}
              textAnchor="middle"
              className="font-serif"
              fontSize={15}
              fill={active ? "var(--color-accent)" : "#fff"}
            >
              {i + 1}
            </text>
          </g>
        );
      })}
    </svg>
  );
}
