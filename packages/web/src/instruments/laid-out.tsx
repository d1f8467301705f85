import type { Recipe } from "@yelm/core";
import { X } from "lucide-react";
import { useEffect, useRef, useState, type ReactNode } from "react";
import { Keys } from "../keys/keys.tsx";
import type { ActFacts } from "../keys/act-facts.ts";
import { usePool } from "../workers/use-answer.ts";

/** Long edges of the sketches, and of the one that is looked at whole. */
const SKETCH_EDGE = 360;
const WHOLE_EDGE = 1400;
/** The pointer rests on one for so long before it is shown whole. */
const REST_MS = 380;

/** A rendition to choose. */
export interface Choosable {
  readonly id: string;
  readonly name: string;
  readonly why: string;
  readonly recipe: Recipe;
}

interface LaidOutProps {
  readonly title: string;
  /** Beside the way back. */
  readonly acts?: ReactNode;
  /** What leaves it, for its key. */
  readonly leaveAct: ActFacts;
  readonly onLeave: () => void;
  readonly choices: readonly Choosable[];
  /** The one that the print is at present. */
  readonly takenId: string | null;
  readonly onTake: (id: string) => void;
  /** How many lie in a row; as many as fit when it is not said. */
  readonly columns?: number;
  readonly onWheel?: (up: boolean) => void;
  /** Acts below a choice. */
  readonly under?: (id: string) => ReactNode;
  /** Instead of, or before, the choices. */
  readonly children?: ReactNode;
}

/** Renditions to choose from, laid out large where the picture is; the one pointed at is shown whole. */
export function LaidOut(props: LaidOutProps) {
  const { title, acts, leaveAct, onLeave, choices, takenId, onTake, columns, onWheel, under, children } = props;
  const [whole, setWhole] = useState<string | null>(null);
  const resting = useRef<ReturnType<typeof setTimeout> | undefined>(undefined);
  const area = useRef<HTMLDivElement>(null);
  const point = (id: string | null) => {
    clearTimeout(resting.current);
    setWhole(null);
    if (id) resting.current = setTimeout(() => setWhole(id), REST_MS);
  };
  useEffect(() => () => clearTimeout(resting.current), []);
  const wheel = useRef(onWheel);
  useEffect(() => {
    wheel.current = onWheel;
  });
  useEffect(() => {
    const target = area.current;
    if (!target) return;
    // Not by React, whose wheel events cannot be kept from scrolling.
    const turned = (event: WheelEvent) => {
      if (!wheel.current) return;
      event.preventDefault();
      wheel.current(event.deltaY < 0);
    };
    target.addEventListener("wheel", turned, { passive: false });
    return () => target.removeEventListener("wheel", turned);
  }, []);
  const shown = choices.find(({ id }) => id === whole);
  return (
    <section aria-label={title} className="bg-base-200 absolute inset-0 flex flex-col">
      <header className="flex items-center justify-between gap-2 px-4 py-2">
        <h3 className="min-w-0 truncate font-serif text-[17px]">{title}</h3>
        <span className="flex shrink-0">
          {acts}
          <button className="act" onClick={onLeave}>
            <X size={14} /> Back to the picture <Keys of={leaveAct} />
          </button>
        </span>
      </header>
      <div
        ref={area}
        className="slim-scroll grid min-h-0 flex-1 content-start justify-center gap-x-4 gap-y-3 overflow-y-auto px-4 pt-1 pb-4"
        style={{
          gridTemplateColumns: columns ? `repeat(${columns}, minmax(0, 1fr))` : "repeat(auto-fill, minmax(240px, 1fr))",
        }}
        onPointerLeave={() => point(null)}
      >
        {children}
        {choices.map((one) => (
          <div key={one.id} className="min-w-0">
            <button
              title={`${one.name}: ${one.why}`}
              aria-pressed={one.id === takenId}
              className="group block w-full cursor-pointer text-left"
              onPointerEnter={() => point(one.id)}
              onFocus={() => point(one.id)}
              onClick={() => {
                point(null);
                onTake(one.id);
              }}
            >
              <Sketch recipe={one.recipe} longEdge={SKETCH_EDGE} taken={one.id === takenId} />
              <span className="block truncate pt-1">{one.name}</span>
              <span className="text-quiet line-clamp-2 text-[12px] leading-snug">{one.why}</span>
            </button>
            {under?.(one.id)}
          </div>
        ))}
      </div>
      {shown && (
        <figure
          data-testid="choice-whole"
          className="bg-base-200 pointer-events-none absolute inset-0 flex flex-col p-4"
        >
          <Sketch recipe={shown.recipe} longEdge={WHOLE_EDGE} whole />
          <figcaption className="pt-2 text-center">
            <span className="font-serif text-[15px]">{shown.name}</span>{" "}
            <span className="text-quiet">{shown.why ? `${shown.why}. ` : ""}A click takes it.</span>
          </figcaption>
        </figure>
      )}
    </section>
  );
}

interface SketchProps {
  readonly recipe: Recipe;
  readonly longEdge: number;
  readonly taken?: boolean;
  readonly whole?: boolean;
}

/** A print of the picture, drawn once. */
function Sketch({ recipe, longEdge, taken, whole }: SketchProps) {
  const canvas = useRef<HTMLCanvasElement>(null);
  const pool = usePool();
  const [failed, setFailed] = useState(false);
  useEffect(() => {
    let live = true;
    setFailed(false);
    pool.ask("sketch", { recipe, longEdge }).then(
      ({ width, height, memory }) => {
        const target = canvas.current;
        if (!live || !target) return;
        target.width = width;
        target.height = height;
        const pixels = new Uint8ClampedArray(memory, 0, 4 * width * height);
        target.getContext("2d")!.putImageData(new ImageData(pixels, width, height), 0, 0);
      },
      () => live && setFailed(true),
    );
    return () => {
      live = false;
    };
  }, [pool, recipe, longEdge]);
  if (failed) return <span className="text-quiet block py-8 text-center">could not be drawn</span>;
  const frame = whole
    ? "mx-auto min-h-0 max-w-full flex-1 object-contain"
    : `block w-full object-contain ${taken ? "outline-accent outline-2 outline-offset-2" : ""}`;
  return <canvas ref={canvas} data-testid="sketch" className={frame} />;
}
