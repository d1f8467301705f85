import { useDrag } from "@use-gesture/react";
import { useRef } from "react";
import { useStore } from "zustand";
import { useSize } from "../../controls/use-size.ts";
import { surroundColour, useLook } from "../../theme/theme.ts";
import { benchView } from "../../picture/bench-view.ts";
import { fitScale, place, type Placement } from "../../picture/placement.ts";
import type { OverlayProps } from "../station.ts";
import { comparing } from "./compare.ts";
import { DifferenceMap } from "./difference.tsx";
import { FindingMarks } from "./finding-marks.tsx";
import { ElsewherePicture } from "./elsewhere-picture.tsx";
import { OtherPicture } from "./other-picture.tsx";
import { useCompared } from "./use-compared.ts";

/** The print beside another: a wipe, side by side, or their difference; and where findings lie. */
export function JudgeOverlay(props: OverlayProps) {
  const { by, other, elsewhere, name } = useCompared();
  if (other && by === "difference") return <DifferenceMap {...props} other={other} name={name} />;
  // Two negatives have no place in common whose difference could be told.
  if (by === null || by === "difference" || !(other ?? elsewhere)) return <FindingMarks {...props} />;
  if (by === "beside") return <Beside {...props} />;
  return <Wipe {...props} />;
}

function Wipe({ negative, placement }: OverlayProps) {
  const { other, elsewhere, wipe, name } = useCompared();
  const { left, top, width, height, dpr } = placement;
  const look = useLook();
  const at = (left + wipe * width) / dpr;
  const bind = useDrag(({ xy: [x], currentTarget }) => {
    const pane = (currentTarget as Element).closest("[data-testid=picture]")!.getBoundingClientRect();
    comparing.setState({ wipe: Math.min(1, Math.max(0, ((x - pane.left) * dpr - left) / width)) });
  });
  const { visible } = placement;
  // The canvas begins at what is visible of the picture.
  const cut = Math.min(100, Math.max(0, (100 * (at * dpr - left - visible.x)) / visible.width));
  return (
    <div className="pointer-events-none absolute inset-0" data-testid="wipe">
      {other ? (
        <OtherPicture
          recipe={other}
          negative={negative}
          placement={placement}
          style={{ clipPath: `inset(0 ${100 - cut}% 0 0)` }}
        />
      ) : (
        // On a ground of its own, since its shape is another.
        <div
          className="absolute"
          style={{
            left: (left + visible.x) / dpr,
            top: (top + visible.y) / dpr,
            width: visible.width / dpr,
            height: visible.height / dpr,
            background: surroundColour(look),
            clipPath: `inset(0 ${100 - cut}% 0 0)`,
          }}
        >
          <ElsewherePicture of={elsewhere!} placement={movedBy(placement, -left - visible.x, -top - visible.y)} />
        </div>
      )}
      <div
        {...bind()}
        data-handle
        role="slider"
        aria-label="Wipe"
        aria-valuenow={Math.round(100 * wipe)}
        aria-valuemin={0}
        aria-valuemax={100}
        tabIndex={0}
        className="pointer-events-auto absolute -ml-3 flex w-6 cursor-ew-resize touch-none justify-center"
        style={{ left: at, top: Math.max(0, top / dpr), height: height / dpr }}
        onKeyDown={(event) => {
          const by = { ArrowLeft: -0.02, ArrowRight: 0.02 }[event.key];
          if (!by) return;
          event.preventDefault();
          comparing.setState({ wipe: Math.min(1, Math.max(0, wipe + by)) });
        }}
      >
        <i className="block h-full w-px bg-white shadow-[0_0_0_1px_rgb(0_0_0/0.5)]" />
      </div>
      <Label left={left / dpr + 8} top={top / dpr + 8} text={name} />
    </div>
  );
}

/** Both prints, each in half of the pane, at one zoom about one place. */
function Beside({ negative, frame, placement }: OverlayProps) {
  const { other, elsewhere, recipe, name } = useCompared();
  const { zoom } = useStore(benchView);
  const look = useLook();
  const area = useRef<HTMLDivElement>(null);
  const { width, height } = useSize(area);
  // Whichever way of halving the pane shows the picture larger.
  const [across, down] = [
    fitScale(frame, { width: width / 2, height }, 1),
    fitScale(frame, { width, height: height / 2 }, 1),
  ];
  const stacked = down > across;
  const half = stacked ? { width, height: Math.floor(height / 2) } : { width: Math.floor(width / 2), height };
  const at = place(frame, half, placement.dpr, zoom);
  const halves = [
    { of: other, text: name },
    { of: recipe, text: "the print" },
  ];
  return (
    <div
      ref={area}
      className="pointer-events-none absolute inset-0"
      data-testid="beside"
      style={{ background: surroundColour(look) }}
    >
      {width > 0 &&
        halves.map(({ of, text }, i) => (
          <div
            key={i}
            className="absolute overflow-hidden"
            style={{ left: stacked ? 0 : i * half.width, top: stacked ? i * half.height : 0, ...half }}
          >
            {of ? (
              <OtherPicture recipe={of} negative={negative} placement={at} />
            ) : (
              <ElsewherePicture of={elsewhere!} placement={at} />
            )}
            <Label left={at.left / at.dpr + 8} top={at.top / at.dpr + 8} text={text} />
          </div>
        ))}
    </div>
  );
}

/** A placement in another box of the pane, device pixels. */
const movedBy = (placement: Placement, x: number, y: number): Placement => ({
  ...placement,
  left: placement.left + x,
  top: placement.top + y,
});

function Label({ left, top, text }: { left: number; top: number; text: string }) {
  return (
    <span
      className="absolute rounded bg-black/70 px-2 py-0.5 text-[12px] text-white"
      style={{ left: Math.max(4, left), top: Math.max(4, top) }}
    >
      {text}
    </span>
  );
}
