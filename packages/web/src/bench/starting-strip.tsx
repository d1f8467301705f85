import type { Recipe, StartingPoint } from "@yelm/core";
import { Dices, X } from "lucide-react";
import { useEffect, useRef, useState } from "react";
import { useEdit, useSession } from "../data/use-session.ts";
import { useAct } from "../keys/acts.ts";
import { benchView } from "../picture/bench-view.ts";
import type { RenderPool } from "../picture/render-pool.ts";
import { notify } from "../shell/shell-view.ts";

const LONG_EDGE = 150;

/** A test strip of conversions of this picture to begin with; and dice. */
export function StartingStrip({ pool }: { pool: RenderPool }) {
  const session = useSession();
  const weigh = useEdit((state) => state.recipe.weigh);
  const [points, setPoints] = useState<readonly StartingPoint[] | null>(null);
  const seed = useRef(0);
  useEffect(() => {
    let live = true;
    // As the print stood when the strip was laid out; taking one changes nothing of it.
    pool.startingPoints(session.store.getState().recipe).then(
      (found) => live && setPoints(found),
      (error: Error) => live && notify(`No starting points: ${error.message}`),
    );
    return () => {
      live = false;
    };
  }, [pool, session]);
  const take = (name: string, next: Recipe["weigh"]) =>
    session.change("Weigh", name, (recipe) => ({ ...recipe, weigh: keepOwn(recipe.weigh, next) }));
  const dice = async () => {
    const thrown = ++seed.current;
    const next = await pool.dice(session.store.getState().recipe, thrown).catch((error: Error) => error);
    if (next instanceof Error) notify(`No throw: ${next.message}`);
    else take(`Dice, throw ${thrown}`, next);
  };
  useAct({ id: "dice", label: "Throw dice for a conversion", group: "Print", keys: "d", run: () => void dice() });
  return (
    <div className="flex min-w-0 items-stretch gap-2 px-3" aria-label="Starting points" role="group">
      <div className="text-quiet flex shrink-0 flex-col justify-center">
        <button
          className="act min-h-[24px] px-2 py-0"
          title="A random conversion within bounds of noise, clipping and separation (D)"
          onClick={() => void dice()}
        >
          <Dices size={14} /> Dice <kbd>D</kbd>
        </button>
        <button className="act min-h-[24px] px-2 py-0" onClick={() => benchView.setState({ strip: "prints" })}>
          <X size={14} /> Prints <kbd>L</kbd>
        </button>
      </div>
      <div className="slim-scroll flex min-w-0 items-center gap-2 overflow-x-auto py-2 pr-1 pl-1">
        {!points && <span className="text-quiet">Trying conversions of this picture…</span>}
        {points?.map((point) => (
          <button
            key={point.id}
            title={`${point.name}: ${point.why}`}
            aria-pressed={isSame(weigh, keepOwn(weigh, point.weigh))}
            className="group w-[76px] shrink-0 cursor-pointer"
            onClick={() => take(point.name, point.weigh)}
          >
            <SketchCanvas pool={pool} weigh={point.weigh} active={isSame(weigh, keepOwn(weigh, point.weigh))} />
            <span className="text-quiet group-hover:text-base-content block truncate pt-1.5 text-center text-[12px]">
              {point.name}
            </span>
          </button>
        ))}
      </div>
    </div>
  );
}

/** What a conversion changes: base and families; areas and softness stay. */
function keepOwn(own: Recipe["weigh"], next: Recipe["weigh"]): Recipe["weigh"] {
  return { ...next, areas: own.areas, lockSum: own.lockSum };
}

function isSame(p: Recipe["weigh"], q: Recipe["weigh"]): boolean {
  return JSON.stringify(p) === JSON.stringify(q);
}

/** A conversion of the picture, drawn once. */
function SketchCanvas({ pool, weigh, active }: { pool: RenderPool; weigh: Recipe["weigh"]; active: boolean }) {
  const canvas = useRef<HTMLCanvasElement>(null);
  const session = useSession();
  useEffect(() => {
    let live = true;
    const { recipe } = session.store.getState();
    pool.sketch({ ...recipe, weigh: keepOwn(recipe.weigh, weigh) }, LONG_EDGE).then(
      ({ width, height, memory }) => {
        const target = canvas.current;
        if (!live || !target) return;
        target.width = width;
        target.height = height;
        const pixels = new Uint8ClampedArray(memory, 0, 4 * width * height);
        target.getContext("2d")!.putImageData(new ImageData(pixels, width, height), 0, 0);
      },
      () => undefined,
    );
    return () => {
      live = false;
    };
  }, [pool, session, weigh]);
  return (
    <canvas
      ref={canvas}
      data-testid="sketch"
      className={`mx-auto h-[52px] max-w-full object-contain ${active ? "outline-accent outline-2 outline-offset-2" : ""}`}
    />
  );
}
