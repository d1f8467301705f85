import type { Recipe } from "@yelm/core";
import { useMemo, useState } from "react";
import { NoAnswer } from "../../controls/no-answer.tsx";
import { useEdit, useSession } from "../../data/use-session.ts";
import { LaidOut } from "../../instruments/laid-out.tsx";
import { useAct } from "../../keys/acts.ts";
import { benchView } from "../../picture/bench-view.ts";
import { useAnswer } from "../../workers/use-answer.ts";
import { SHAPE_STATION_ACTS } from "./acts.ts";

const PRESENT = "present";

/** Ways to begin with the tones of this picture, beside how it is at present. */
export function Openings() {
  const session = useSession();
  const shape = useEdit((state) => state.recipe.shape);
  // As the print stood when they were laid out; taking one changes nothing of it.
  const [recipe] = useState(() => session.store.getState().recipe);
  const answer = useAnswer("openings", { recipe }, { key: JSON.stringify(recipe), restMs: 0 });
  const leave = () => benchView.setState({ laidOut: null });
  useAct({ ...SHAPE_STATION_ACTS["leave-openings"], run: leave });
  const found = answer.data;
  const choices = useMemo(() => {
    const of = (next: Recipe["shape"]) => ({ ...recipe, shape: next });
    return [
      { id: PRESENT, name: "As it is", why: "the present tones", recipe },
      ...(found ?? []).map(({ id, name, why, shape: next }) => ({ id, name, why, recipe: of(next) })),
    ];
  }, [found, recipe]);
  const taken = found?.find((one) => JSON.stringify(one.shape) === JSON.stringify(shape));
  return (
    <LaidOut
      title="Ways to begin"
      leaveAct={SHAPE_STATION_ACTS.openings}
      onLeave={leave}
      choices={choices}
      takenId={taken?.id ?? PRESENT}
      onTake={(id) => {
        const one = found?.find((opening) => opening.id === id);
        if (one) session.change("Shape", `${one.name} opening`, (now) => ({ ...now, shape: one.shape }));
        leave();
      }}
    >
      {answer.isPending && <p className="text-quiet col-span-full">Measuring this picture’s light…</p>}
      <NoAnswer answer={answer} what="Ways to begin" />
    </LaidOut>
  );
}
