import { exactLevel, levelCount, type Negative, type View } from "@yelm/core";
import { useEffect, useRef, useState, type CSSProperties } from "react";
import type { Placement } from "../../picture/placement.ts";

/** A picture at a place of its own beside the bench's; the newest that is wanted is drawn, and what goes wrong is told in its place. */
export function DrawnPicture({
  draw,
  negative,
  placement,
  testId,
  style,
}: {
  /** Renders a view; null when it was overtaken. Made anew when it is another picture. */
  draw: (view: View) => Promise<ImageData | null>;
  negative: Negative;
  placement: Placement;
  testId: string;
  style?: CSSProperties;
}) {
  const canvas = useRef<HTMLCanvasElement>(null);
  const { scale, left, top, dpr, visible } = placement;
  const { x, y, width, height } = visible;
  const [drawn, setDrawn] = useState({ x, y, width, height });
  const [error, setError] = useState<string | null>(null);
  useEffect(() => {
    let live = true;
    const view = { x, y, width, height, scale, level: exactLevel({ width, height }, scale, levelCount(negative)) };
    draw(view).then(
      (pixels) => {
        const target = canvas.current;
        if (!live || !pixels || !target) return;
        target.width = width;
        target.height = height;
        target.getContext("2d")!.putImageData(pixels, 0, 0);
        target.dataset.drawn = "true";
        setDrawn({ x, y, width, height });
        setError(null);
      },
      (reason: unknown) => live && setError(reason instanceof Error ? reason.message : String(reason)),
    );
    return () => {
      live = false;
    };
  }, [draw, negative, x, y, width, height, scale]);
  const place = {
    left: (left + drawn.x) / dpr,
    top: (top + drawn.y) / dpr,
    width: drawn.width / dpr,
    height: drawn.height / dpr,
    ...style,
  };
  return (
    <>
      <canvas ref={canvas} data-testid={testId} className="absolute" style={place} />
      {error !== null && (
        <p className="absolute flex items-center justify-center bg-black/70 p-6 text-white" style={place} role="alert">
          {error}
        </p>
      )}
    </>
  );
}
