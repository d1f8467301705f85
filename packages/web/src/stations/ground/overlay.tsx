import { asShotWhite, lightThatMakesNeutral } from "@yelm/core";
import type { MouseEvent } from "react";
import { useStore } from "zustand";
import { useSession } from "../../data/use-session.ts";
import { benchView } from "../../picture/bench-view.ts";
import { paneToFrame } from "../../picture/placement.ts";
import { notify } from "../../shell/shell-view.ts";
import { usePool } from "../../workers/use-answer.ts";
import type { OverlayProps } from "../station.ts";
import { CleanOverlay } from "./clean-overlay.tsx";
import { CropOverlay } from "./crop-overlay.tsx";
import { LineOverlay } from "./line-overlay.tsx";

/** What Ground's tools draw on the picture. */
export function GroundOverlay(props: OverlayProps) {
  const { tool, dust } = useStore(benchView);
  if (tool === "crop") return <CropOverlay {...props} />;
  if (tool === "level" || tool === "uprights") return <LineOverlay key={tool} {...props} />;
  if (tool === "pick") return <PickOverlay {...props} />;
  if (tool === "heal" || tool === "clone" || dust.length > 0) return <CleanOverlay {...props} />;
  return null;
}

/** Takes the spot clicked for neutral. */
function PickOverlay({ negative, placement }: OverlayProps) {
  const session = useSession();
  const pool = usePool();
  const pick = async (event: MouseEvent<HTMLElement>) => {
    const box = event.currentTarget.getBoundingClientRect();
    const [x, y] = paneToFrame(placement, event.clientX - box.left, event.clientY - box.top);
    benchView.setState({ tool: "look" });
    const working = await pool.ask("pick", { recipe: session.store.getState().recipe, x, y });
    const light = lightThatMakesNeutral(working, asShotWhite(negative.capture));
    if (!light) {
      notify("That spot is too dark or too colourful to be taken for neutral. The white is as it was.");
      return;
    }
    const kelvin = Math.round(light.kelvin);
    const tint = Math.round(light.tint * 10) / 10;
    session.change("Ground", "Neutral picked", (recipe) => ({
      ...recipe,
      ground: { ...recipe.ground, whiteBalance: { mode: "set", kelvin, tint, follow: 1 } },
    }));
  };
  return (
    <div
      className="absolute inset-0 cursor-crosshair"
      onClick={(event) => void pick(event).catch((error: Error) => notify(error.message))}
    />
  );
}
