import { useDrag } from "@use-gesture/react";
import { wholeCrop, type Crop, type Frame, type Negative } from "@yelm/core";
import { useEdit, useSession } from "../data/use-session.ts";
import { fitCrop } from "../stations/crop-edits.ts";
import { frameToPane, type Placement } from "./placement.ts";

/** The crop as a rectangle on the whole picture, with thirds; corners and sides are pulled, the inside is moved. */
export function CropOverlay({
  negative,
  frame,
  placement,
}: {
  negative: Negative;
  frame: Frame;
  placement: Placement;
}) {
  const session = useSession();
  const ground = useEdit((state) => state.recipe.ground);
  const edge = Math.max(negative.width, negative.height);
  const limit = wholeCrop(negative, ground);
  const crop = ground.crop ?? limit;
  const pixels = (edge * placement.scale) / placement.dpr;
  const toPane = (x: number, y: number) =>
    frameToPane(placement, x * edge + frame.width / 2, y * edge + frame.height / 2);
  const [left, top] = toPane(crop.centreX - crop.width / 2, crop.centreY - crop.height / 2);
  const width = crop.width * pixels;
  const height = crop.height * pixels;

  const set = (next: Crop) =>
    session.preview((recipe) => ({ ...recipe, ground: { ...recipe.ground, crop: fitCrop(next, limit) } }));
  const keep = () => session.commit("Ground", "Crop");
  const moveBind = useDrag(({ delta: [dx, dy], last }) => {
    const now = session.store.getState().recipe.ground.crop ?? limit;
    set({ ...now, centreX: now.centreX + dx / pixels, centreY: now.centreY + dy / pixels });
    if (last) keep();
  });

  return (
    <svg className="absolute inset-0 h-full w-full" data-testid="crop-overlay">
      <path
        fillRule="evenodd"
        fill="#000"
        fillOpacity={0.62}
        d={`M-10 -10H9999V9999H-10ZM${left} ${top}h${width}v${height}h${-width}Z`}
      />
      <g {...moveBind()} data-handle className="cursor-move touch-none">
        <rect x={left} y={top} width={width} height={height} fill="transparent" stroke="#fff" />
        {[1, 2].map((i) => (
          <g key={i} stroke="#fff" strokeOpacity={0.35}>
            <line x1={left + (width * i) / 3} x2={left + (width * i) / 3} y1={top} y2={top + height} />
            <line x1={left} x2={left + width} y1={top + (height * i) / 3} y2={top + (height * i) / 3} />
          </g>
        ))}
      </g>
      {CORNERS.map(([sx, sy]) => (
        <CropHandle
          key={`${sx}${sy}`}
          x={left + (width * (sx + 1)) / 2}
          y={top + (height * (sy + 1)) / 2}
          cursor={sx === 0 ? "ns-resize" : sy === 0 ? "ew-resize" : sx === sy ? "nwse-resize" : "nesw-resize"}
          onMove={(dx, dy) => {
            const now = session.store.getState().recipe.ground.crop ?? limit;
            const w = now.width + (sx * dx) / pixels;
            const h = now.height + (sy * dy) / pixels;
            set({
              width: w,
              height: h,
              centreX: now.centreX + (sx * (w - now.width)) / 2,
              centreY: now.centreY + (sy * (h - now.height)) / 2,
            });
          }}
          onEnd={keep}
        />
      ))}
    </svg>
  );
}

const CORNERS: readonly [number, number][] = [[-1, -1], [0, -1], [1, -1], [-1, 0], [1, 0], [-1, 1], [0, 1], [1, 1]]; // prettier-ignore

interface CropHandleProps {
  readonly x: number;
  readonly y: number;
  readonly cursor: string;
  readonly onMove: (dx: number, dy: number) => void;
  readonly onEnd: () => void;
}

function CropHandle({ x, y, cursor, onMove, onEnd }: CropHandleProps) {
  const bind = useDrag(({ delta: [dx, dy], last }) => {
    onMove(dx, dy);
    if (last) onEnd();
  });
  return (
    <g {...bind()} data-handle className="touch-none" style={{ cursor }}>
      <rect x={x - 12} y={y - 12} width={24} height={24} fill="transparent" />
      <rect x={x - 4} y={y - 4} width={8} height={8} fill="#fff" stroke="#000" />
    </g>
  );
}
