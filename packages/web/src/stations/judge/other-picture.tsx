import { exactLevel, levelCount, type Negative, type Recipe } from "@yelm/core";
import { useEffect, useRef, useState, type CSSProperties } from "react";
import type { Placement } from "../../picture/placement.ts";
import { usePool } from "../../workers/use-answer.ts";

/** Another print than the one on the bench, drawn at a place of its own; the newest that is wanted is drawn. */
export function OtherPicture({
  recipe,
  negative,
  placement,
  style,
}: {
  recipe: Recipe;
  negative: Negative;
  placement: Placement;
  style?: CSSProperties;
}) {
  const canvas = useRef<HTMLCanvasElement>(null);
  const pool = usePool();
  const { scale, left, top, dpr, visible } = placement;
  const { x, y, width, height } = visible;
  const [drawn, setDrawn] = useState({ x, y, width, height });
  useEffect(() => {
    let live = true;
    const view = { x, y, width, height, scale, level: exactLevel({ width, height }, scale, levelCount(negative)) };
    pool.ask("render", { recipe, view, mode: "print", memory: new ArrayBuffer(4 * width * height) }).then(
      ({ memory }) => {
        const target = canvas.current;
        if (!live || !target) return;
        target.width = width;
        target.height = height;
        target
          .getContext("2d")!
          .putImageData(new ImageData(new Uint8ClampedArray(memory, 0, 4 * width * height), width, height), 0, 0);
        target.dataset.drawn = "true";
        setDrawn({ x, y, width, height });
      },
      () => undefined,
    );
    return () => {
      live = false;
    };
  }, [pool, recipe, negative, x, y, width, height, scale]);
  return (
    <canvas
      ref={canvas}
      data-testid="other-picture"
      className="absolute"
      style={{
        left: (left + drawn.x) / dpr,
        top: (top + drawn.y) / dpr,
        width: drawn.width / dpr,
        height: drawn.height / dpr,
        ...style,
      }}
    />
  );
}
