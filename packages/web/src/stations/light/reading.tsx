import { formatStops } from "@yelm/core";
import { useStore } from "zustand";
import { Group } from "../../controls/group.tsx";
import { useEdit } from "../../data/use-session.ts";
import { beforeCurve } from "../../instruments/before-curve.ts";
import { nameOf } from "../../instruments/use-histograms.ts";
import { useAct } from "../../keys/acts.ts";
import { Keys } from "../../keys/keys.tsx";
import { benchView } from "../../picture/bench-view.ts";
import { useAnswer } from "../../workers/use-answer.ts";
import { LIGHT_ACTS } from "./acts.ts";

/** What all moves together do under the pointer, and which of them. */
export function LightReading() {
  const recipe = useEdit((state) => state.recipe);
  const { spot } = useStore(benchView);
  const { moves } = recipe.light;
  useAct({
    ...LIGHT_ACTS["burn-map"],
    run: () => benchView.setState({ burnMap: true }),
    release: () => benchView.setState({ burnMap: false }),
  });
  const [x, y] = [spot?.frameX ?? 0, spot?.frameY ?? 0];
  const key = `${beforeCurve(recipe)} ${nameOf(recipe.shape)} ${x} ${y}`;
  const answer = useAnswer("movesAt", { recipe, x, y }, { key, restMs: 40, enabled: spot !== null });
  const found = (spot && answer.data) || [];
  const total = found.reduce((sum, { stops }) => sum + stops, 0);
  return (
    <Group
      title="At the pointer"
      aside={
        <span className="text-quiet">
          Burn map <Keys of={LIGHT_ACTS["burn-map"]} hold />
        </span>
      }
    >
      <div data-testid="light-reading" className="min-h-6">
        {!spot ? (
          <p className="text-quiet">Point at the picture.</p>
        ) : found.length === 0 ? (
          <p className="text-quiet">No move reaches here.</p>
        ) : (
          <p>
            <span className="font-serif text-[17px]">{formatStops(total)}</span> <span className="text-quiet">of</span>{" "}
            {found.map(({ id, stops }) => {
              const index = moves.findIndex((move) => move.id === id);
              return (
                <button
                  key={id}
                  className="act px-1"
                  title={moves[index]?.name}
                  onClick={() => benchView.setState({ moveId: id })}
                >
                  {index + 1} <span className="font-serif">{formatStops(stops)}</span>
                </button>
              );
            })}
          </p>
        )}
      </div>
    </Group>
  );
}
