import { curveThrough, lightnessToLuminance, luminanceToLightness, toneCurve, type LightMove } from "@yelm/core";
import { useMemo } from "react";
import { Group } from "../../controls/group.tsx";
import { useEdit, useSession } from "../../data/use-session.ts";
import { CurveChart } from "../../instruments/curve-chart.tsx";
import { useHistograms } from "../../instruments/use-histograms.ts";
import { changeMove } from "./edits.ts";

/** A move's own curve: what the tones inside its shape print as, over what they print as without it. */
export function CurveOfMove({ move }: { readonly move: LightMove }) {
  const bent = curveThrough(move.curve) !== null;
  return (
    <Group title="Curve of the move" folded={bent ? `${move.curve.length} points` : "straight"}>
      <MoveChart move={move} />
    </Group>
  );
}

function MoveChart({ move }: { readonly move: LightMove }) {
  const session = useSession();
  const shape = useEdit((state) => state.recipe.shape);
  const { histograms } = useHistograms();
  const plain = useMemo(() => toneCurve(shape), [shape]);
  const whole = useMemo(() => {
    const own = curveThrough(move.curve);
    return own ? (light: number) => lightnessToLuminance(100 * own(luminanceToLightness(plain(light)) / 100)) : plain;
  }, [plain, move.curve]);
  return (
    <CurveChart
      label={`Curve of ${move.name}, ${move.curve.length} points`}
      curve={move.curve}
      now={() => session.store.getState().recipe.light.moves.find(({ id }) => id === move.id)?.curve ?? move.curve}
      plain={plain}
      whole={whole}
      put={(curve) => session.preview((recipe) => changeMove(recipe, move.id, (old) => ({ ...old, curve })))}
      keep={(what) => session.commit("Light", `${what} of ${move.name}`)}
      histograms={histograms}
    />
  );
}
