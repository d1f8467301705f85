import { GROUND_ACTS } from "./acts.ts";
import { changeFrame, lensSchema, type FallOff, type Negative, type Recipe } from "@yelm/core";
import { useState } from "react";
import { useStore } from "zustand";
import { Amount } from "../../controls/amount.tsx";
import { Group } from "../../controls/group.tsx";
import { useLens } from "../../controls/use-lens.ts";
import { useSession } from "../../data/use-session.ts";
import { useAct } from "../../keys/acts.ts";
import { benchView } from "../../picture/bench-view.ts";
import { usePool } from "../../workers/use-answer.ts";
import { notify } from "../../shell/shell-view.ts";
import { asSignedPercent, asStops } from "../../controls/formats.ts";
import type { Lens } from "../../controls/use-lens.ts";

/** The lens corrections of one negative: the crop, and what was drawn on the picture, follow them. */
const lensOf = (negative: Negative): Lens<Recipe["ground"]["lens"]> => ({
  station: "Ground",
  schema: lensSchema,
  get: (recipe) => recipe.ground.lens,
  put: (recipe, lens) => changeFrame(recipe, negative, { lens }),
});

const SURE = 0.45;
const WORTH_STOPS = 0.1;

/** Fall-off, bending and converging lines: measured, drawn, or by amount. */
export function LensGroup({ negative }: { negative: Negative }) {
  const pool = usePool();
  const session = useSession();
  const { value: lens, amount, change } = useLens(lensOf(negative));
  const { tool } = useStore(benchView);
  const [found, setFound] = useState<FallOff | null>(null);
  const drawing = tool === "uprights";
  const draw = () => benchView.setState({ tool: drawing ? "look" : "uprights" });
  useAct({ ...GROUND_ACTS["uprights"], run: draw });
  const measure = () =>
    void pool
      .ask("fallOff", { recipe: session.store.getState().recipe })
      .then((fallOff) => {
        setFound(fallOff);
        if (fallOff.stops >= WORTH_STOPS)
          change("Fall-off measured", { fallOffStops: Math.round(20 * fallOff.stops) / 20 });
      })
      .catch((error: Error) => notify(error.message));
  const used = Object.values(lens).filter((value) => value !== 0).length;
  return (
    <Group title="Lens" folded={used === 0 ? "as it came" : `${used} corrected`}>
      <Amount {...amount("fallOffStops", "Corners")} step={0.1} format={asStops} />
      <div className="flex flex-wrap gap-1 pt-1 pb-2">
        <button className="chip" onClick={measure}>
          Measure fall-off
        </button>
        {lens.fallOffStops !== 0 && (
          <button className="chip" onClick={() => change("Fall-off kept", { fallOffStops: 0 })}>
            Keep it: it draws the eye in
          </button>
        )}
      </div>
      {found && <p className="text-quiet pb-2">{words(found)}</p>}
      <Amount {...amount("distortion", "Bending")} step={0.005} format={asBend} typedScale={100} />
      <Amount {...amount("keystoneVertical", "Uprights")} step={0.01} format={asSignedPercent} typedScale={100} />
      <Amount {...amount("keystoneHorizontal", "Levels")} step={0.01} format={asSignedPercent} typedScale={100} />
      <button className="act mt-1 -ml-2" aria-pressed={drawing} onClick={draw}>
        Draw two uprights <kbd>⇧ A</kbd>
      </button>
    </Group>
  );
}

const asBend = (share: number) => `${share > 0 ? "+" : share < 0 ? "−" : ""}${Math.abs(100 * share).toFixed(1)} %`;

function words({ stops, agreement }: FallOff): string {
  if (stops < WORTH_STOPS) return "No fall-off worth speaking of was found.";
  const sure =
    agreement >= SURE
      ? "The four quarters of the picture agree."
      : "The quarters of the picture do not agree well: the subject itself may be darker towards an edge. Judge by eye.";
  return `The corners have lost ${stops.toFixed(2)} stops. ${sure}`;
}
