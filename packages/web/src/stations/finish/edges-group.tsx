import { applyAffine, frameOf, invertAffine, shapeBounds, type Negative } from "@yelm/core";
import { Amount } from "../../controls/amount.tsx";
import { asPercent, asStops } from "../../controls/formats.ts";
import { Group } from "../../controls/group.tsx";
import { EDGE_BURN, WEAR } from "../../controls/lenses.ts";
import { useLens } from "../../controls/use-lens.ts";
import { useNotes } from "../../data/notes/use-notes.ts";
import { useEdit } from "../../data/use-session.ts";

/** Edges burned or lifted, and the wear of an old print. */
export function EdgesGroup({ negative }: { negative: Negative }) {
  const edges = useLens(EDGE_BURN);
  const wear = useLens(WEAR);
  const { stops, centreX, centreY } = edges.value;
  const share = { step: 0.05, format: asPercent, typedScale: 100 };
  const subject = useSubject(negative);
  const isOnSubject = subject?.centreX === centreX && subject.centreY === centreY;
  const isMoved = centreX !== 0.5 || centreY !== 0.5;
  return (
    <>
      <Group
        title="Edges"
        aside={
          isMoved && (
            <button
              className="act"
              onClick={() => edges.change("Edge burn about the middle", { centreX: 0.5, centreY: 0.5 })}
            >
              About the middle
            </button>
          )
        }
      >
        {subject && !isOnSubject && (
          <button className="act -mx-2" onClick={() => edges.change("Edge burn about the subject", subject)}>
            About the subject of the plan
          </button>
        )}
        <Amount {...edges.amount("stops", "Edge burn")} step={1 / 6} format={asStops} />
        <Amount {...edges.amount("start", "Begins at")} {...share} />
        <Amount {...edges.amount("roundness", "Roundness")} {...share} />
        {stops !== 0 && (
          <>
            <Amount {...edges.amount("centreX", "Centre across")} {...share} />
            <Amount {...edges.amount("centreY", "Centre down")} {...share} />
          </>
        )}
      </Group>
      <Group title="Wear">
        <Amount {...wear.amount("fade", "Faded")} {...share} />
        <Amount {...wear.amount("edges", "Edges faded")} {...share} />
        {(wear.value.fade > 0 || wear.value.edges > 0) && <Amount {...wear.amount("yellow", "Yellowed")} {...share} />}
      </Group>
    </>
  );
}

/** Where the subject of the plan lies, as an edge burn's centre; null when none is marked or it lies outside the frame. */
function useSubject(negative: Negative): { centreX: number; centreY: number } | null {
  const ground = useEdit((state) => state.recipe.ground);
  const mark = useNotes(({ plan }) => plan.marks.find(({ kind }) => kind === "subject"));
  if (!mark) return null;
  const { left, right, top, bottom } = shapeBounds(mark.shape);
  const frame = frameOf(negative, ground);
  const edge = Math.max(negative.width, negative.height);
  const [x, y] = applyAffine(invertAffine(frame.toFlat), ((left + right) / 2) * edge, ((top + bottom) / 2) * edge);
  const [u, v] = [x / frame.width, y / frame.height];
  if (!(u > 0 && u < 1 && v > 0 && v < 1)) return null;
  const within = (share: number) => Math.min(0.9, Math.max(0.1, Math.round(100 * share) / 100));
  return { centreX: within(u), centreY: within(v) };
}
