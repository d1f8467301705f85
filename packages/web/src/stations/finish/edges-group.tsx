import { Amount } from "../../controls/amount.tsx";
import { asPercent, asStops } from "../../controls/formats.ts";
import { Group } from "../../controls/group.tsx";
import { EDGE_BURN, WEAR } from "../../controls/lenses.ts";
import { useLens } from "../../controls/use-lens.ts";

/** Edges burned or lifted, and the wear of an old print. */
export function EdgesGroup() {
  const edges = useLens(EDGE_BURN);
  const wear = useLens(WEAR);
  const { stops, centreX, centreY } = edges.value;
  const share = { step: 0.05, format: asPercent, typedScale: 100 };
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
