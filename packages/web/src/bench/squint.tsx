import type { Pull, Squint as Seen } from "@yelm/core";
import { useEffect, useRef } from "react";
import { useStore } from "zustand";
import { useEdit } from "../data/use-session.ts";
import { nameOf } from "../instruments/use-histograms.ts";
import { useAct } from "../keys/acts.ts";
import { benchView } from "../picture/bench-view.ts";
import { frameToPane } from "../picture/placement.ts";
import type { OverlayPlace } from "../shapes/mapping.ts";
import { useAnswer } from "../workers/use-answer.ts";
import { BENCH_ACTS } from "./acts.ts";

const NUMBERED = 3;
const ORDINALS = ["first", "second", "third"] as const;

/** While its key is held, or it was left on: the print as squinting eyes see it, with what pulls them first. */
export function Squint(place: OverlayPlace) {
  const { squint } = useStore(benchView);
  const set = (on: boolean) => () => benchView.setState({ squint: on });
  useAct({ ...BENCH_ACTS.squint, run: set(true), release: set(false) });
  useAct({ ...BENCH_ACTS["squint-stay"], run: () => benchView.setState({ squint: !benchView.getState().squint }) });
  return squint ? <Squinted {...place} /> : null;
}

function Squinted({ frame, placement }: OverlayPlace) {
  const recipe = useEdit((state) => state.recipe);
  const answer = useAnswer("squint", { recipe, distance: 1 }, { key: nameOf(recipe), restMs: 0 });
  const canvas = useRef<HTMLCanvasElement>(null);
  const seen = answer.data;
  useEffect(() => {
    if (canvas.current && seen) draw(canvas.current, seen);
  }, [seen]);
  const [left, top] = frameToPane(placement, 0, 0);
  const [right, bottom] = frameToPane(placement, frame.width, frame.height);
  const [width, height] = [right - left, bottom - top];
  return (
    <div className="pointer-events-none absolute inset-0" data-testid="squint">
      <canvas ref={canvas} className="absolute" style={{ left, top, width, height }} />
      <svg className="absolute inset-0 h-full w-full">
        {seen?.pulls.map((pull, i) => (
          <Mark key={i} pull={pull} index={i} at={[left + pull.x * width, top + pull.y * height]} />
        ))}
      </svg>
      {seen && (
        <p className="absolute bottom-4 left-1/2 w-max max-w-[94%] -translate-x-1/2 rounded bg-black/75 px-3 py-1 text-white">
          {seen.pulls.length === 0 ? "Nothing pulls: the print is even." : told(seen.pulls)}
        </p>
      )}
    </div>
  );
}

function told(pulls: readonly Pull[]): string {
  const [first] = pulls;
  const agrees =
    first.second === 1
      ? ""
      : first.second === null
        ? "; a second opinion sees nothing there"
        : `; a second opinion puts it at ${first.second}`;
  return `The eye goes ${where(first)} first: ${first.contrast < 0 ? "darker" : "lighter"} than its surroundings by ${Math.abs(first.contrast).toFixed(0)} L*${agrees}.`;
}

function where({ x, y }: Pull): string {
  const across = x < 1 / 3 ? "left" : x > 2 / 3 ? "right" : "";
  const down = y < 1 / 3 ? "upper" : y > 2 / 3 ? "lower" : "";
  if (across === "" && down === "") return "to the middle";
  if (across === "") return down === "upper" ? "to the top" : "to the foot";
  return `to the ${down === "" ? "" : `${down} `}${across}`;
}

/** First, second and third in the serif; weaker ones as rings alone. */
function Mark({ pull, index, at: [x, y] }: { pull: Pull; index: number; at: readonly [number, number] }) {
  const radius = 9 + 15 * pull.strength;
  return (
    <g>
      <circle cx={x} cy={y} r={radius} fill="none" stroke="#000" strokeOpacity={0.55} strokeWidth={4} />
      <circle
        cx={x}
        cy={y}
        r={radius}
        fill="none"
        stroke={index === 0 ? "var(--color-accent)" : "#fff"}
        strokeWidth={1.5}
        strokeOpacity={index < NUMBERED ? 1 : 0.6}
      />
      {index < NUMBERED && (
        <text
          x={x}
          y={y - radius - 6}
          textAnchor="middle"
          className="font-serif"
          fontSize={16}
          fill={index === 0 ? "var(--color-accent)" : "#fff"}
          stroke="#000"
          strokeOpacity={0.6}
          strokeWidth={3}
          paintOrder="stroke"
        >
          {ORDINALS[index]}
        </text>
      )}
    </g>
  );
}

function draw(canvas: HTMLCanvasElement, { width, height, seen }: Seen): void {
  canvas.width = width;
  canvas.height = height;
  const context = canvas.getContext("2d")!;
  const image = context.createImageData(width, height);
  seen.forEach((lightness, i) => {
    // L* and sRGB codes are nearly in step.
    const code = Math.round(2.55 * Math.min(100, Math.max(0, lightness)));
    image.data.set([code, code, code, 255], 4 * i);
  });
  context.putImageData(image, 0, 0);
}
