import {
  captionTransform,
  isMounted,
  mountColour,
  mountLayout,
  SRGB_TRANSFER,
  type CaptionOutline,
  type Recipe,
  type Size,
} from "@yelm/core";
import { useQuery } from "@tanstack/react-query";
import { api } from "../data/api.ts";
import type { SeenMount } from "./mounts-seen.ts";
import type { Placement } from "./placement.ts";

type Finish = Recipe["finish"];

/** Border, mat and caption around the picture, as they go into the file. */
export function Mount({ finish, placement }: { finish: Finish; placement: Placement }) {
  const { left, top, width, height, dpr } = placement;
  const layout = mountLayout(finish.mount, { width, height });
  const px = (device: number) => `${device / dpr}px`;
  return (
    <div
      className="pointer-events-none absolute"
      data-testid="mount"
      style={{ left: px(left - layout.picture.x), top: px(top - layout.picture.y) }}
    >
      {layout.layers.map(({ part, x, y, width: wide, height: tall }) => (
        <i
          key={part}
          className="absolute block"
          style={{ left: px(x), top: px(y), width: px(wide), height: px(tall), background: colourOf(finish, part) }}
        />
      ))}
      {layout.caption && <Caption finish={finish} layout={layout} dpr={dpr} />}
    </div>
  );
}

/** What lies around a picture of some size, as it is remembered. */
export function mountAround(finish: Finish, size: Size): SeenMount | null {
  if (!isMounted(finish.mount)) return null;
  const { sheet, picture, layers } = mountLayout(finish.mount, size);
  return { sheet, picture, layers: layers.map(({ part, ...place }) => ({ ...place, colour: colourOf(finish, part) })) };
}

function Caption({ finish, layout, dpr }: { finish: Finish; layout: ReturnType<typeof mountLayout>; dpr: number }) {
  const text = finish.mount.caption.trim();
  const { data: outline } = useQuery({
    queryKey: ["caption", text],
    queryFn: () => api<CaptionOutline>(`/captions?text=${encodeURIComponent(text)}`),
    staleTime: Infinity,
    placeholderData: (last) => last,
  });
  const at = outline && captionTransform(outline, layout);
  if (!at) return null;
  const { width, height } = layout.sheet;
  return (
    <svg
      className="absolute top-0 left-0"
      role="img"
      aria-label={text}
      width={width / dpr}
      height={height / dpr}
      viewBox={`0 0 ${width} ${height}`}
    >
      <path
        d={outline.path}
        transform={`translate(${at.left} ${at.baseline}) scale(${at.scale})`}
        fill={colourOf(finish, "caption")}
      />
    </svg>
  );
}

function colourOf(finish: Finish, part: Parameters<typeof mountColour>[1]): string {
  const codes = mountColour(finish, part).map((light) => Math.round(255 * SRGB_TRANSFER.encode(light)));
  return `rgb(${codes.join(" ")})`;
}
