import { useStore } from "zustand";
import { useEdit } from "../../data/use-session.ts";
import { benchView } from "../../picture/bench-view.ts";
import { TOUCH_STOPS, useTakenUp } from "../../picture/use-taken-up.ts";
import { ShapeOverlay } from "../../shapes/overlay.tsx";
import type { OverlayProps } from "../station.ts";
import { BurnMapOverlay } from "./burn-map.tsx";
import { ContourOverlay } from "./contour-overlay.tsx";
import { LIGHT_STACK } from "./stack.ts";

/** A move is in hand once it has been chosen for this long. */
const TAKEN_UP_MS = 120;

/** Light moves on the picture. */
export function LightOverlay(props: OverlayProps) {
  const { burnMap } = useStore(benchView);
  useMoveTakenUp(props);
  return (
    <>
      {burnMap && <BurnMapOverlay {...props} />}
      <div className="contents" style={burnMap ? { visibility: "hidden" } : undefined}>
        <ShapeOverlay stack={LIGHT_STACK} {...props} />
        <ContourOverlay {...props} />
      </div>
    </>
  );
}

/** Has the move in hand readied: when another is taken up, or the same in another view. */
function useMoveTakenUp({ negative, placement }: OverlayProps) {
  const view = useStore(benchView);
  const recipe = useEdit((state) => state.recipe);
  const { scale, visible } = placement;
  const moveId = LIGHT_STACK.activeId(view) ?? "";
  const { moves } = recipe.light;
  const touchedMoves = moves.map((move) => (move.id === moveId ? { ...move, stops: move.stops + TOUCH_STOPS } : move));
  useTakenUp({
    negative,
    placement,
    touched: { ...recipe, light: { ...recipe.light, moves: touchedMoves } },
    key: [moveId, scale, ...Object.values(visible)].join(" "),
    restMs: TAKEN_UP_MS,
    enabled: moves.some(({ id }) => id === moveId),
  });
}
