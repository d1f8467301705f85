import { useDrag } from "@use-gesture/react";
import { wholeCrop, type Crop, type Frame, type Negative, fitCrop } from "@yelm/core";
import { useStore } from "zustand";
import { useEdit, useSession } from "../../data/use-session.ts";
import { benchView, type Guide } from "../../picture/bench-view.ts";
import { frameToPane, type Placement } from "../../picture/placement.ts";

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
  const { guide } = useStore(benchView);
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
        <Guides guide={guide} left={left} top={top} width={width} height={height} />
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

interface GuidesProps {
  readonly guide: Guide;
  readonly left: number;
  readonly top: number;
  readonly width: number;
  readonly height: number;
}

/** Lines that help to compose, each given in shares of the crop. */
const GUIDE_LINES: Readonly<Record<Guide, readonly (readonly [number, number, number, number])[]>> = {
  thirds: [[1 / 3, 0, 1 / 3, 1], [2 / 3, 0, 2 / 3, 1], [0, 1 / 3, 1, 1 / 3], [0, 2 / 3, 1, 2 / 3]],
  diagonals: [[0, 0, 1, 1], [0, 1, 1, 0]],
  centre: [[0.5, 0, 0.5, 1], [0, 0.5, 1, 0.5]],
  none: [],
}; // prettier-ignore

function Guides({ guide, left, top, width, height }: GuidesProps) {
  return (
    <g stroke="#fff" strokeOpacity={0.35} data-testid={`guide-${guide}`}>
      {GUIDE_LINES[guide].map(([x0, y0, x1, y1]) => (
        <line
          key={`${x0} ${y0} ${x1} ${y1}`}
          x1={left + width * x0}
          y1={top + height * y0}
          x2={left + width * x1}
          y2={top + height * y1}
        />
      ))}
    </g>
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
