import { useEdit } from "../../data/use-session.ts";
import { beforeCurve } from "../../instruments/before-curve.ts";
import { Hatching } from "../../instruments/hatching.tsx";
import { frameToPane } from "../../picture/placement.ts";
import { useAnswer } from "../../workers/use-answer.ts";
import type { OverlayProps } from "../station.ts";

/** Sharpened by less than half of what an edge gets: spared. */
const SPARED = 128;

/** Hatches what sharpening spares of what is seen. */
export function SparedOverlay({ frame, placement }: OverlayProps) {
  const recipe = useEdit((state) => state.recipe);
  const { visible, scale } = placement;
  const x = Math.floor(visible.x / scale);
  const y = Math.floor(visible.y / scale);
  const width = Math.min(frame.width - x, Math.ceil(visible.width / scale));
  const height = Math.min(frame.height - y, Math.ceil(visible.height / scale));
  const answer = useAnswer(
    "spared",
    { recipe, x, y, width, height },
    { key: `${beforeCurve(recipe)} ${recipe.shape.sharpening.sparing} ${x} ${y} ${width} ${height}`, restMs: 60 },
  );
  const found = answer.data;
  if (!found) return null;
  const [paneLeft, paneTop] = frameToPane(placement, x, y);
  const [paneRight, paneBottom] = frameToPane(placement, x + width, y + height);
  const share = found.spared.reduce((sum, v) => sum + v, 0) / 255 / found.spared.length;
  return (
    <>
      <Hatching
        testId="hatched-spared"
        width={found.width}
        height={found.height}
        isHatched={(i) => found.spared[i] >= SPARED}
        of={[found]}
        lines={{ rising: true, colour: "#fff" }}
        place={{
          left: paneLeft,
          top: paneTop,
          width: Math.round(paneRight - paneLeft),
          height: Math.round(paneBottom - paneTop),
        }}
      />
      <div className="pointer-events-none absolute top-4 left-1/2 w-max -translate-x-1/2 rounded bg-black/75 px-3 py-1 text-white">
        {`spared: ${Math.round(100 * share)} % of what is seen`}
      </div>
    </>
  );
}
