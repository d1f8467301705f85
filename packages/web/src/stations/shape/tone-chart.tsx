import { readCharacteristic, STRAIGHT_CURVE, toneCurve, type Histograms } from "@yelm/core";
import { useMemo } from "react";
import { useEdit, useSession } from "../../data/use-session.ts";
import { CurveChart } from "../../instruments/curve-chart.tsx";

/** The characteristic of the print with its free curve over it. */
export function ToneChart({ histograms }: { readonly histograms: Histograms | null }) {
  const session = useSession();
  const shape = useEdit((state) => state.recipe.shape);
  const plain = useMemo(() => toneCurve({ ...shape, curve: STRAIGHT_CURVE }), [shape]);
  const whole = useMemo(() => toneCurve(shape), [shape]);
  const reading = useMemo(() => readCharacteristic(shape), [shape]);
  return (
    <CurveChart
      label={`Characteristic, gamma ${reading.gamma.toFixed(2)}; free curve of ${shape.curve.length} points`}
      curve={shape.curve}
      now={() => session.store.getState().recipe.shape.curve}
      plain={plain}
      whole={whole}
      put={(curve) => session.preview((recipe) => ({ ...recipe, shape: { ...recipe.shape, curve } }))}
      keep={(what) => session.commit("Shape", what)}
      histograms={histograms}
      reading={reading}
    />
  );
}
