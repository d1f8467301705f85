import type { Recipe, StartingPoint } from "@yelm/core";
import { Dices, X } from "lucide-react";
import { useEffect, useRef, useState } from "react";
import { NoAnswer } from "../../controls/no-answer.tsx";
import { useEdit, useSession } from "../../data/use-session.ts";
import { useAct } from "../../keys/acts.ts";
import { Keys } from "../../keys/keys.tsx";
import { benchView } from "../../picture/bench-view.ts";
import { notify } from "../../shell/shell-view.ts";
import { useAnswer, usePool } from "../../workers/use-answer.ts";
import { WEIGH_ACTS } from "./acts.ts";

/** Long edges of the sketches, and of the one that is looked at whole. */
const SKETCH_EDGE = 360;
const WHOLE_EDGE = 1400;
/** The pointer rests on one for so long before it is shown whole. */
const REST_MS = 380;

/** Conversions of this picture to begin with, laid out large where the picture is; the one pointed at is shown whole. */
export function StartingPoints() {
  const session = useSession();
  const pool = usePool();
  const weigh = useEdit((state) => state.recipe.weigh);
  // As the print stood when they were laid out; taking one changes nothing of it.
  const [recipe] = useState(() => session.store.getState().recipe);
  const answer = useAnswer(
    "startingPoints",
    { recipe },
    { key: JSON.stringify([recipe.ground, recipe.weigh, recipe.shape]), restMs: 0 },
  );
  const [whole, setWhole] = useState<StartingPoint | null>(null);
  const resting = useRef<ReturnType<typeof setTimeout> | undefined>(undefined);
  const seed = useRef(0);
  const leave = () => benchView.setState({ laidOut: false });
  const take = (name: string, next: Recipe["weigh"]) =>
    session.change("Weigh", name, (now) => ({ ...now, weigh: keepOwn(now.weigh, next) }));
  const dice = async () => {
    const thrown = ++seed.current;
    const next = await pool
      .ask("dice", { recipe: session.store.getState().recipe, seed: thrown })
      .catch((error: Error) => error);
    if (next instanceof Error) notify(`No throw: ${next.message}`);
    else {
      take(`Dice, throw ${thrown}`, next);
      leave();
    }
  };
  const point = (one: StartingPoint | null) => {
    clearTimeout(resting.current);
    setWhole(null);
    if (one) resting.current = setTimeout(() => setWhole(one), REST_MS);
  };
  useEffect(() => () => clearTimeout(resting.current), []);
  useAct({ ...WEIGH_ACTS.dice, run: () => void dice() });
  useAct({ ...WEIGH_ACTS["leave-starting-points"], run: leave });
  return (
    <section aria-label="Starting points" className="bg-base-200 absolute inset-0 flex flex-col">
      <header className="flex items-center justify-between gap-2 px-4 py-2">
        <h3 className="font-serif text-[17px]">Starting points</h3>
        <span className="flex">
          <button
            className="act"
            title="A random conversion within bounds of noise, clipping and separation"
            onClick={() => void dice()}
          >
            <Dices size={14} /> Dice <Keys of={WEIGH_ACTS.dice} />
          </button>
          <button className="act" onClick={leave}>
            <X size={14} /> Back to the picture <Keys of={WEIGH_ACTS["starting-points"]} />
          </button>
        </span>
      </header>
      <div
        className="slim-scroll grid min-h-0 flex-1 content-start justify-center gap-x-4 gap-y-3 overflow-y-auto px-4 pb-4"
        style={{ gridTemplateColumns: "repeat(auto-fill, minmax(240px, 1fr))" }}
        onPointerLeave={() => point(null)}
      >
        {answer.isPending && <p className="text-quiet col-span-full">Trying conversions of this picture…</p>}
        <NoAnswer answer={answer} what="Starting points" />
        {answer.data?.map((one) => {
          const taken = isSame(weigh, keepOwn(weigh, one.weigh));
          return (
            <button
              key={one.id}
              title={`${one.name}: ${one.why}`}
              aria-pressed={taken}
              className="group cursor-pointer text-left"
              onPointerEnter={() => point(one)}
              onFocus={() => point(one)}
              onClick={() => {
                take(one.name, one.weigh);
                leave();
              }}
            >
              <Sketch recipe={recipe} weigh={one.weigh} longEdge={SKETCH_EDGE} taken={taken} />
              <span className="block truncate pt-1">{one.name}</span>
              <span className="text-quiet block truncate text-[12px]">{one.why}</span>
            </button>
          );
        })}
      </div>
      {whole && (
        <figure
          data-testid="starting-point-whole"
          className="bg-base-200 pointer-events-none absolute inset-0 flex flex-col p-4"
        >
          <Sketch recipe={recipe} weigh={whole.weigh} longEdge={WHOLE_EDGE} whole />
          <figcaption className="pt-2 text-center">
            <span className="font-serif text-[15px]">{whole.name}</span>{" "}
            <span className="text-quiet">{whole.why}. A click takes it.</span>
          </figcaption>
        </figure>
      )}
    </section>
  );
}

/** What a conversion changes: base and families; areas and the held sum stay. */
function keepOwn(own: Recipe["weigh"], next: Recipe["weigh"]): Recipe["weigh"] {
  return { ...next, areas: own.areas, lockSum: own.lockSum };
}

function isSame(p: Recipe["weigh"], q: Recipe["weigh"]): boolean {
  return JSON.stringify(p) === JSON.stringify(q);
}

interface SketchProps {
  readonly recipe: Recipe;
  readonly weigh: Recipe["weigh"];
  readonly longEdge: number;
  readonly taken?: boolean;
  readonly whole?: boolean;
}

/** A conversion of the picture, drawn once. */
function Sketch({ recipe, weigh, longEdge, taken, whole }: SketchProps) {
  const canvas = useRef<HTMLCanvasElement>(null);
  const pool = usePool();
  const [failed, setFailed] = useState(false);
  useEffect(() => {
    let live = true;
    pool.ask("sketch", { recipe: { ...recipe, weigh: keepOwn(recipe.weigh, weigh) }, longEdge }).then(
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
  }, [pool, recipe, weigh, longEdge]);
  if (failed) return <span className="text-quiet block py-8 text-center">could not be drawn</span>;
  const frame = whole
    ? "mx-auto min-h-0 max-w-full flex-1 object-contain"
    : `block w-full object-contain ${taken ? "outline-accent outline-2 outline-offset-2" : ""}`;
  return <canvas ref={canvas} data-testid="sketch" className={frame} />;
}
