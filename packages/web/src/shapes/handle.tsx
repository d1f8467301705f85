import { useDrag } from "@use-gesture/react";
import type { Local, Mapping } from "./mapping.ts";

interface HandleProps {
  readonly name: string;
  readonly at: [number, number];
  readonly round?: boolean;
  readonly mapping: Mapping;
  readonly local: Local;
  /** @param alone - whether the key is held that pulls one side without the other. */
  readonly onMove: (x: number, y: number, alone: boolean) => void;
  readonly onEnd: () => void;
}

/** A small square or knob that is pulled on the picture. */
export function Handle({ name, at: [x, y], round, mapping, local, onMove, onEnd }: HandleProps) {
  const bind = useDrag(({ event, last, first, altKey, xy: [clientX, clientY] }) => {
    event.stopPropagation();
    if (!first || !last) onMove(...mapping.toFlat(...local({ clientX, clientY })), altKey);
    if (last) onEnd();
  });
  return (
    <g {...bind()} data-handle aria-label={name} className="cursor-move touch-none">
      <rect x={x - 11} y={y - 11} width={22} height={22} fill="transparent" />
      <rect
        x={x - 4}
        y={y - 4}
        width={8}
        height={8}
        rx={round ? 4 : 1}
        fill={name === "middle" ? "var(--color-accent)" : "#fff"}
        stroke="#000"
        strokeOpacity={0.6}
      />
    </g>
  );
}
