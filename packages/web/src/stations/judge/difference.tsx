import { formatStops, type Recipe } from "@yelm/core";
import { useMemo } from "react";
import { Hatching } from "../../instruments/hatching.tsx";
import { frameToPane } from "../../picture/placement.ts";
import { useAnswer } from "../../workers/use-answer.ts";
import { useEdit } from "../../data/use-session.ts";
import { nameOf } from "../../instruments/use-histograms.ts";
import type { OverlayProps } from "../station.ts";

/** Differences smaller than this are none, stops of the print's light. */
const LEAST = 1 / 6;

/** Where the print is lighter and where it is darker than another, by hatching one way and the other. */
export function DifferenceMap({ frame, placement, other, name }: OverlayProps & { other: Recipe; name: string }) {
  const recipe = useEdit((state) => state.recipe);
  const answer = useAnswer("difference", { recipe, other }, { key: `${nameOf(recipe)} ${nameOf(other)}`, restMs: 100 });
  const [left, top] = frameToPane(placement, 0, 0);
  const [right, bottom] = frameToPane(placement, frame.width, frame.height);
  const where = { left, top, width: right - left, height: bottom - top };
  const map = answer.data;
  const lines = useMemo(
    () =>
      [
        { rising: true, colour: "#fff" },
        { rising: false, colour: "#000" },
      ] as const,
    [],
  );
  return (
    <div className="pointer-events-none absolute inset-0" data-testid="difference">
      {map && (
        <>
          <Hatching
            testId="lighter"
            width={map.width}
            height={map.height}
            isHatched={(i) => map.stops[i] > LEAST}
            of={[map]}
            lines={lines[0]}
            place={where}
          />
          <Hatching
            testId="darker"
            width={map.width}
            height={map.height}
            isHatched={(i) => map.stops[i] < -LEAST}
            of={[map]}
            lines={lines[1]}
            place={where}
          />
          <p className="absolute bottom-4 left-1/2 w-max max-w-[94%] -translate-x-1/2 rounded bg-black/75 px-3 py-1 text-white">
            Against {name}: lighter by up to {formatStops(map.most)} (white lines), darker by up to{" "}
            {formatStops(map.least)} (black lines), on average {formatStops(map.mean)}.
          </p>
        </>
      )}
    </div>
  );
}
