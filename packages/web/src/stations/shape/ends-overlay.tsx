import { clippingStops, firstSpecks, sharesBeyond, type ToneEnds } from "@yelm/core";
import { useMemo } from "react";
import { useEdit } from "../../data/use-session.ts";
import { Hatching } from "../../instruments/hatching.tsx";
import { frameToPane } from "../../picture/placement.ts";
import type { OverlayProps } from "../station.ts";
import { useEnds } from "../../instruments/use-ends.ts";

/** Specks are ringed while they are no more of the picture than this. */
const STILL_A_SPECK = 0.002;
const RINGS = 3;
/** Dark under light, so that it is seen on anything. */
const RING = [
  { stroke: "#000", strokeOpacity: 0.5, strokeWidth: 3.5 },
  { stroke: "var(--color-accent)", strokeWidth: 1.5 },
];
/** Rising for black, falling for white; light on dark and dark on light. */
const LINES = { black: { rising: true, colour: "#fff" }, white: { rising: false, colour: "#000" } } as const;

/** Hatches what prints as the deepest black (rising lines) or as bare paper (falling), with its share; first specks are ringed. */
export function EndsOverlay({ end, ...props }: OverlayProps & { readonly end: "black" | "white" | "both" }) {
  const { ends } = useEnds();
  if (!ends) return null;
  return (
    <>
      {(["black", "white"] as const).map(
        (one) => (end === one || end === "both") && <Hatched key={one} end={one} ends={ends} {...props} />,
      )}
      <Shares ends={ends} end={end} />
    </>
  );
}

function Hatched({
  ends,
  end,
  frame,
  placement,
}: OverlayProps & { readonly ends: ToneEnds; readonly end: "black" | "white" }) {
  const shape = useEdit((state) => state.recipe.shape);
  const share = sharesBeyond(ends, shape)[end];
  const specks = useMemo(() => firstSpecks(ends, end, RINGS), [ends, end]);
  const [left, top] = frameToPane(placement, 0, 0);
  const [right, bottom] = frameToPane(placement, frame.width, frame.height);
  const [width, height] = [Math.max(1, Math.round(right - left)), Math.max(1, Math.round(bottom - top))];
  const limit = clippingStops(shape)[end];
  return (
    <>
      <Hatching
        testId={`hatched-${end}`}
        width={ends.width}
        height={ends.height}
        isHatched={(i) => (end === "black" ? ends.darkest[i] <= limit : ends.lightest[i] >= limit)}
        of={[ends, end, limit]}
        lines={LINES[end]}
        place={{ left, top, width, height }}
      />
      {share > 0 && share < STILL_A_SPECK && (
        <svg className="pointer-events-none absolute inset-0 h-full w-full">
          {specks.map(({ x, y }) => (
            <g key={`${x} ${y}`} fill="none">
              {RING.map((stroke) => (
                <circle key={stroke.stroke} cx={left + x * width} cy={top + y * height} r={15} {...stroke} />
              ))}
            </g>
          ))}
        </svg>
      )}
    </>
  );
}

function Shares({ ends, end }: { readonly ends: ToneEnds; readonly end: "black" | "white" | "both" }) {
  const shape = useEdit((state) => state.recipe.shape);
  const { black, white } = sharesBeyond(ends, shape);
  const percent = (share: number) =>
    share === 0 ? "nothing" : share < 1e-4 ? "a first speck" : `${(100 * share).toFixed(share < 0.01 ? 2 : 1)} %`;
  const meant = (wanted: boolean) => (wanted ? ", as wanted" : "");
  const told = [
    ...(end === "white" ? [] : [`deepest black: ${percent(black)}${meant(shape.letBlack)}`]),
    ...(end === "black" ? [] : [`bare paper: ${percent(white)}${meant(shape.letWhite)}`]),
  ];
  return (
    <div
      className="pointer-events-none absolute top-4 left-1/2 w-max -translate-x-1/2 rounded bg-black/75 px-3 py-1 text-white"
      data-testid="ends-told"
    >
      {told.join("  ·  ")}
    </div>
  );
}
