import { printZone, stopsToLight, toneCurve } from "@yelm/core";
import { useMemo } from "react";
import { useStore } from "zustand";
import { useEdit } from "../data/use-session.ts";
import { benchView } from "../picture/bench-view.ts";
import { frameToPane } from "../picture/placement.ts";
import type { OverlayPlace } from "../shapes/mapping.ts";
import { Hatching, type Lines } from "./hatching.tsx";
import { useEnds } from "./use-ends.ts";

/** Where a zone lies in the picture, while it is held on the ladder. */
export function ZoneHatching({ frame, placement }: OverlayPlace) {
  const { zone } = useStore(benchView);
  const shape = useEdit((state) => state.recipe.shape);
  const { ends } = useEnds(zone !== null);
  // A canvas does not know the theme's names.
  const lines = useMemo((): Lines => {
    const accent = getComputedStyle(document.documentElement).getPropertyValue("--color-accent");
    return { rising: true, colour: accent.trim() || "#fff" };
  }, [zone]); // eslint-disable-line react-hooks/exhaustive-deps -- the theme may be another by the next time
  if (zone === null || !ends) return null;
  const [left, top] = frameToPane(placement, 0, 0);
  const [right, bottom] = frameToPane(placement, frame.width, frame.height);
  const curve = toneCurve(shape);
  return (
    <Hatching
      testId="hatched-zone"
      width={ends.width}
      height={ends.height}
      isHatched={(i) => {
        const stops = (ends.darkest[i] + ends.lightest[i]) / 2;
        return Math.round(printZone(curve(stopsToLight(stops)))) === zone;
      }}
      of={[ends, shape, zone]}
      lines={lines}
      place={{ left, top, width: right - left, height: bottom - top }}
    />
  );
}
