import { GRAIN_FORMATS } from "@yelm/core";
import { Dices } from "lucide-react";
import { Amount } from "../../controls/amount.tsx";
import { Choice } from "../../controls/choice.tsx";
import { Group } from "../../controls/group.tsx";
import { useLens } from "../../controls/use-lens.ts";
import { asPercent, asPlain, asStops } from "../../controls/formats.ts";
import { LooksGroup } from "./looks-group.tsx";
import { ToneGroup } from "./tone-group.tsx";
import { EDGE_BURN, GRAIN } from "../../controls/lenses.ts";

/** Finish: grain, tone and edges. */
export function FinishStation() {
  const grain = useLens(GRAIN);
  const edges = useLens(EDGE_BURN);
  const piece = () => grain.change("Another piece of film", { seed: (grain.value.seed % 9999) + 1 });
  return (
    <>
      <LooksGroup />
      <Group
        title="Grain"
        aside={
          grain.value.granularity > 0 && (
            <button className="act" title="Another piece of the same film" onClick={piece}>
              <Dices size={14} /> Another piece
            </button>
          )
        }
      >
        <Amount {...grain.amount("granularity", "Granularity")} step={1} format={asPlain(0)} />
        <Amount {...grain.amount("crystalUm", "Crystal size")} step={0.5} format={(v) => `${v.toFixed(1)} µm`} />
        <div className="pt-2">
          <Choice
            label="Format"
            options={GRAIN_FORMATS.map((format) => [format, format] as const)}
            value={grain.value.format}
            onChoose={(format) => grain.change("Film format", { format })}
          />
        </div>
      </Group>
      <ToneGroup />
      <Group title="Edges">
        <Amount {...edges.amount("stops", "Edge burn")} step={1 / 6} format={asStops} />
        <Amount {...edges.amount("start", "Begins at")} step={0.05} format={asPercent} typedScale={100} />
        <Amount {...edges.amount("roundness", "Roundness")} step={0.05} format={asPercent} typedScale={100} />
      </Group>
    </>
  );
}
