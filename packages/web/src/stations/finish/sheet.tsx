import { GRAIN_FORMATS, TONERS } from "@yelm/core";
import { Dices } from "lucide-react";
import { Amount } from "../../controls/amount.tsx";
import { Choice } from "../../controls/choice.tsx";
import { Group } from "../../controls/group.tsx";
import { useLens } from "../../controls/use-lens.ts";
import { asPercent, asPlain, asSignedPercent, asStops } from "../../controls/formats.ts";
import { EDGE_BURN, GRAIN, TONING } from "../../controls/lenses.ts";

/** Finish: grain, tone and edges. */
export function FinishStation() {
  const grain = useLens(GRAIN);
  const toning = useLens(TONING);
  const edges = useLens(EDGE_BURN);
  const toned = toning.value.toner !== "none";
  const piece = () => grain.change("Another piece of film", { seed: (grain.value.seed % 9999) + 1 });
  return (
    <>
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
      <Group title="Tone">
        <Choice
          label="Toner"
          options={TONERS.map((toner) => [toner, toner] as const)}
          value={toning.value.toner}
          onChoose={(toner) => toning.change("Toner", { toner })}
        />
        {toned && (
          <div className="pt-2">
            <Amount {...toning.amount("strength", "Strength")} step={0.05} format={asPercent} typedScale={100} />
            <Amount
              {...toning.amount("balance", "Darks to lights")}
              step={0.05}
              format={asSignedPercent}
              typedScale={100}
            />
            <p className="text-quiet pt-2">
              Simulated, lightness kept. Real toners are hazardous chemicals: follow the maker’s safety sheet and local
              rules.
            </p>
          </div>
        )}
      </Group>
      <Group title="Edges">
        <Amount {...edges.amount("stops", "Edge burn")} step={1 / 6} format={asStops} />
        <Amount {...edges.amount("start", "Begins at")} step={0.05} format={asPercent} typedScale={100} />
        <Amount {...edges.amount("roundness", "Roundness")} step={0.05} format={asPercent} typedScale={100} />
      </Group>
    </>
  );
}
