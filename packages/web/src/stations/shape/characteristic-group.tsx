import {
  FADED,
  LADDER_STOPS,
  MATERIALS,
  rangeOf,
  shapeSchema,
  whitePointBelowLights,
  type Histograms,
} from "@yelm/core";
import { Amount } from "../../controls/amount.tsx";
import { asPercent } from "../../controls/formats.ts";
import { Group } from "../../controls/group.tsx";
import { SHAPE } from "../../controls/lenses.ts";
import { useLens } from "../../controls/use-lens.ts";
import { notify } from "../../shell/shell-view.ts";
import { ToneChart } from "./tone-chart.tsx";

const asDensity = (density: number): string => density.toFixed(2);

/** The characteristic of film and paper, and the free curve over it, on one chart. */
export function CharacteristicGroup({ histograms }: { readonly histograms: Histograms | null }) {
  const { value: shape, amount, change } = useLens(SHAPE);
  const material = MATERIALS.find(({ shape: of }) =>
    (Object.keys(of) as (keyof typeof of)[]).every((field) => shape[field] === of[field]),
  );
  const blow = () => {
    if (!histograms) return;
    const perStop = histograms.scene.length / (LADDER_STOPS.highest - LADDER_STOPS.lowest);
    const stops = whitePointBelowLights(histograms.scene, LADDER_STOPS.lowest, perStop);
    if (stops === null) return notify("No broad light tone lies above Zone V: there is nothing to blow to paper.");
    const { minimum, maximum } = rangeOf(shapeSchema, "whitePoint");
    change("Lights blown to bare paper", { whitePoint: Math.min(maximum, Math.max(minimum, stops)), letWhite: true });
  };
  return (
    <Group title="Characteristic">
      <select
        className="field w-full"
        aria-label="Film or paper"
        data-find="Characteristic"
        value={material?.name ?? ""}
        onChange={(event) => {
          const chosen = MATERIALS.find(({ name }) => name === event.target.value);
          if (chosen) change(`Characteristic: ${chosen.name}`, chosen.shape);
        }}
      >
        {!material && <option value="">as set by hand</option>}
        {MATERIALS.map(({ name, why }) => (
          <option key={name} value={name}>
            {name}: {why}
          </option>
        ))}
      </select>
      <div className="pt-2">
        <ToneChart histograms={histograms} />
      </div>
      <div className="-mx-1.5 flex">
        <button
          className="act"
          title="Black lifted, white gone dull, everything softer"
          onClick={() => change("Faded old print", FADED)}
        >
          Old faded print
        </button>
        <button
          className="act"
          disabled={!histograms}
          title="Pulls the white point in below the lightest broad tone, a dull sky, and marks bare paper as wanted"
          onClick={blow}
        >
          Blow the lights
        </button>
      </div>
      <div className="pt-1">
        {shape.characteristic === "film" && (
          <>
            <Amount {...amount("toe", "Toe")} step={0.05} format={asPercent} typedScale={100} />
            <Amount {...amount("shoulder", "Shoulder")} step={0.05} format={asPercent} typedScale={100} />
          </>
        )}
        <Amount {...amount("paperWhite", "Paper white")} step={0.02} format={asDensity} />
        <Amount {...amount("paperBlack", "Paper black")} step={0.1} format={asDensity} />
      </div>
    </Group>
  );
}
