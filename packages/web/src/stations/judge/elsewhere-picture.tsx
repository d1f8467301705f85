import { exactLevel, frameOf, levelCount } from "@yelm/core";
import { useEffect, useMemo, useRef, useState, type CSSProperties } from "react";
import type { Placement } from "../../picture/placement.ts";
import { newPool } from "../../workers/early-pool.ts";
import type { RenderPool } from "../../workers/render-pool.ts";
import { likePlaced } from "./like-placed.ts";
import type { Elsewhere } from "./use-compared.ts";

/** A print of another negative, as large as the one at `placement` and with the same part of it seen. Its workers live as long as it is shown. */
export function ElsewherePicture({
  of: { print, negative },
  placement,
  style,
}: {
  of: Elsewhere;
  placement: Placement;
  style?: CSSProperties;
}) {
  const canvas = useRef<HTMLCanvasElement>(null);
  const [pool, setPool] = useState<RenderPool | null>(null);
  useEffect(() => {
    const made = newPool(negative);
    setPool(made);
    return () => made.close();
  }, [negative]);
  const { recipe } = print;
  const frame = useMemo(() => frameOf(negative, recipe.ground), [negative, recipe.ground]);
  const { scale, left, top, dpr, visible } = likePlaced(frame, placement);
  const { x, y, width, height } = visible;
  const [drawn, setDrawn] = useState({ x, y, width, height });
  useEffect(() => {
    let live = true;
    const view = { x, y, width, height, scale, level: exactLevel({ width, height }, scale, levelCount(negative)) };
    pool?.render(recipe, view, "print").then(
      (picture) => {
        const target = canvas.current;
        if (!live || !picture?.pixels || !target) return;
        target.width = width;
        target.height = height;
        target.getContext("2d")!.putImageData(picture.pixels, 0, 0);
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
      data-testid="elsewhere-picture"
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
