import { useStore } from "zustand";
import { useEdit } from "../../data/use-session.ts";
import { familyKey } from "../../instruments/use-colours.ts";
import { benchView } from "../../picture/bench-view.ts";
import { TOUCH_STOPS, useTakenUp } from "../../picture/use-taken-up.ts";
import { ShapeOverlay } from "../../shapes/overlay.tsx";
import type { OverlayProps } from "../station.ts";
import { withFamilies } from "./family-edits.ts";
import { FamilyOverlay } from "./family-overlay.tsx";
import { useWeighScene } from "./measured.ts";
import { AREA_STACK } from "./stack.ts";

/** Families are readied once the print has rested for this long: after the price was measured, mostly. */
const TAKEN_UP_MS = 600;

/** Families and areas on the picture. A file without colour has none, and is asked for none. */
export function WeighOverlay(props: OverlayProps) {
  return props.negative.capture.grey ? null : <ColourOverlay {...props} />;
}

function ColourOverlay(props: OverlayProps) {
  const { areasOpen } = useStore(benchView);
  useFamiliesTakenUp(props);
  return (
    <>
      {areasOpen && <ShapeOverlay stack={AREA_STACK} {...props} />}
      <FamilyOverlay {...props} />
    </>
  );
}

/** Has families readied while none is moved yet: what every pixel votes for is gathered before the first is. */
function useFamiliesTakenUp({ negative, placement }: OverlayProps) {
  const recipe = useEdit((state) => state.recipe);
  const scene = useWeighScene(negative);
  const families = scene?.families ?? [];
  const { softness, passage, evenness, noisyColours, clippedBy, by, film } = recipe.weigh;
  useTakenUp({
    negative,
    placement,
    touched: withFamilies(
      recipe,
      families.map((family, i) => (i === 0 ? { ...family, stops: TOUCH_STOPS } : family)),
    ),
    key: JSON.stringify([
      familyKey(families),
      softness,
      passage,
      evenness,
      noisyColours,
      clippedBy,
      by,
      film,
      recipe.ground.whiteBalance,
    ]),
    restMs: TAKEN_UP_MS,
    enabled: families.length > 0 && families.every(({ stops }) => stops === 0),
  });
}
