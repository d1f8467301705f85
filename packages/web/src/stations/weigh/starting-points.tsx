import type { Recipe } from "@yelm/core";
import { Dices } from "lucide-react";
import { useMemo, useRef, useState } from "react";
import { NoAnswer } from "../../controls/no-answer.tsx";
import { useEdit, useSession } from "../../data/use-session.ts";
import { LaidOut } from "../../instruments/laid-out.tsx";
import { useAct } from "../../keys/acts.ts";
import { Keys } from "../../keys/keys.tsx";
import { benchView } from "../../picture/bench-view.ts";
import { notify } from "../../shell/shell-view.ts";
import { useAnswer, usePool } from "../../workers/use-answer.ts";
import { WEIGH_ACTS } from "./acts.ts";

/** Conversions of this picture to begin with. */
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
  const seed = useRef(0);
  const leave = () => benchView.setState({ laidOut: null });
  const take = (name: string, next: Recipe["weigh"]) => {
    session.change("Weigh", name, (now) => ({ ...now, weigh: keepOwn(now.weigh, next) }));
    leave();
  };
  const dice = async () => {
    const thrown = ++seed.current;
    const next = await pool
      .ask("dice", { recipe: session.store.getState().recipe, seed: thrown })
      .catch((error: Error) => error);
    if (next instanceof Error) notify(`No throw: ${next.message}`);
    else take(`Dice, throw ${thrown}`, next);
  };
  useAct({ ...WEIGH_ACTS.dice, run: () => void dice() });
  useAct({ ...WEIGH_ACTS["leave-starting-points"], run: leave });
  const points = answer.data;
  const choices = useMemo(
    () => (points ?? []).map((one) => ({ ...one, recipe: { ...recipe, weigh: keepOwn(recipe.weigh, one.weigh) } })),
    [points, recipe],
  );
  return (
    <LaidOut
      title="Starting points"
      leaveAct={WEIGH_ACTS["starting-points"]}
      onLeave={leave}
      choices={choices}
      takenId={points?.find((one) => isSame(weigh, keepOwn(weigh, one.weigh)))?.id ?? null}
      onTake={(id) => {
        const one = points?.find((point) => point.id === id);
        if (one) take(one.name, one.weigh);
      }}
      acts={
        <button
          className="act"
          title="A random conversion within bounds of noise, clipping and separation"
          onClick={() => void dice()}
        >
          <Dices size={14} /> Dice <Keys of={WEIGH_ACTS.dice} />
        </button>
      }
    >
      {answer.isPending && <p className="text-quiet col-span-full">Trying conversions of this picture…</p>}
      <NoAnswer answer={answer} what="Starting points" />
    </LaidOut>
  );
}

/** What a conversion changes: base and families; areas and the held sum stay. */
function keepOwn(own: Recipe["weigh"], next: Recipe["weigh"]): Recipe["weigh"] {
  return { ...next, areas: own.areas, lockSum: own.lockSum };
}

function isSame(p: Recipe["weigh"], q: Recipe["weigh"]): boolean {
  return JSON.stringify(p) === JSON.stringify(q);
}
