import {
  captureGranularity,
  FORMAT_LONG_EDGE_MM,
  frameOf,
  GRAIN_FORMATS,
  GRAIN_STARTS,
  toneCurve,
  type Negative,
} from "@yelm/core";
import { Dices } from "lucide-react";
import { useMemo } from "react";
import { useStore } from "zustand";
import { Amount } from "../../controls/amount.tsx";
import { Choice } from "../../controls/choice.tsx";
import { asPercent, asPlain } from "../../controls/formats.ts";
import { Group } from "../../controls/group.tsx";
import { GRAIN, HALATION, OLD_GLASS } from "../../controls/lenses.ts";
import { useLens } from "../../controls/use-lens.ts";
import { useAct } from "../../keys/acts.ts";
import { Keys } from "../../keys/keys.tsx";
import { useEdit } from "../../data/use-session.ts";
import { benchView } from "../../picture/bench-view.ts";
import { FIT } from "../../picture/placement.ts";
import { FINISH_ACTS } from "./acts.ts";

/** No grain, beside the films to begin with. */
const NONE = "none";
/** Long edge of a print on paper, cm, by which grain is imagined. */
const PAPER_CM = 40;
const SEEN_FROM_CM = 50;
/** How far eyes are from a screen. */
const SCREEN_AT_CM = 60;
/** CSS pixels to a centimetre, by the definition of the inch. */
const PIXELS_A_CM = 96 / 2.54;

/** Grain of the film: where to begin, its strength, its crystals, the format. */
export function GrainGroup({ negative }: { negative: Negative }) {
  const grain = useLens(GRAIN);
  const halation = useLens(HALATION);
  const glass = useLens(OLD_GLASS);
  const { granularity, crystalUm, format, seed } = grain.value;
  const film = GRAIN_STARTS.find((one) => one.granularity === granularity && one.crystalUm === crystalUm);
  const ground = useEdit((state) => state.recipe.ground);
  const shape = useEdit((state) => state.recipe.shape);
  const own = useMemo(
    () => captureGranularity(negative.capture, format, toneCurve(shape)),
    [negative.capture, format, shape],
  );
  const { zoom } = useStore(benchView);
  const frame = frameOf(negative, ground);
  // As many pixels as make the picture on the screen as wide to the eye as the print would be.
  const paperPixels = PAPER_CM * (SCREEN_AT_CM / SEEN_FROM_CM) * PIXELS_A_CM * (window.devicePixelRatio || 1);
  const asPrint = paperPixels / Math.max(frame.width, frame.height);
  const isAsPrint = zoom.zoom === asPrint;
  const toggle = () => benchView.setState({ zoom: isAsPrint ? FIT : { zoom: asPrint, centreX: 0.5, centreY: 0.5 } });
  useAct({ ...FINISH_ACTS["print-distance"], run: toggle });
  const begin = (name: string) => {
    const start = GRAIN_STARTS.find((one) => one.name === name);
    if (start) grain.change(`Grain: ${name}`, { granularity: start.granularity, crystalUm: start.crystalUm });
    else grain.change("No grain", { granularity: 0 });
  };
  return (
    <Group
      title="Grain"
      aside={
        granularity > 0 && (
          <button
            className="act"
            title="Another piece of the same film"
            onClick={() => grain.change("Another piece of film", { seed: (seed % 9999) + 1 })}
          >
            <Dices size={14} /> Another piece
          </button>
        )
      }
    >
      <Choice
        label="Film"
        options={[NONE, ...GRAIN_STARTS.map(({ name }) => name)].map((name) => [name, name] as const)}
        value={granularity === 0 ? NONE : (film?.name ?? null)}
        onChoose={begin}
      />
      <Amount {...grain.amount("granularity", "Granularity")} step={1} format={asPlain(0)} />
      <Amount {...grain.amount("crystalUm", "Crystal size")} step={0.5} format={(v) => `${v.toFixed(1)} µm`} />
      <div className="pt-2">
        <Choice
          label="Format"
          options={GRAIN_FORMATS.map((name) => [name, name] as const)}
          value={format}
          onChoose={(name) => grain.change("Film format", { format: name })}
        />
      </div>
      <Amount {...halation.amount("amount", "Halation")} step={0.05} format={asPercent} typedScale={100} />
      {halation.value.amount > 0 && (
        <Amount {...halation.amount("radiusUm", "Halation reach")} step={10} format={(v) => `${v.toFixed(0)} µm`} />
      )}
      <Amount {...glass.amount("corners", "Old glass")} step={0.05} format={asPercent} typedScale={100} />
      {glass.value.corners > 0 && (
        <>
          <Amount
            {...glass.amount("spread", "Glass softness")}
            step={0.00025}
            format={(v) => `${(1000 * v).toFixed(1)} ‰`}
            typedScale={1000}
          />
          <Amount {...glass.amount("start", "Glass begins")} step={0.05} format={asPercent} typedScale={100} />
        </>
      )}
      {own !== null && own >= 0.5 && (
        <p className="text-quiet pt-2 leading-snug">
          The capture’s own noise is like granularity {own.toFixed(0)} at middle grey.{" "}
          {granularity > own && (
            <button
              className="text-accent cursor-pointer hover:underline"
              title="Noise and grain add as squares: the grain is made as much less as the noise gives already"
              onClick={() =>
                grain.change("Grain less the capture’s noise", {
                  granularity: Math.round(Math.sqrt(granularity ** 2 - own ** 2)),
                })
              }
            >
              Add only what is missing
            </button>
          )}
        </p>
      )}
      {granularity > 0 && (
        <p className="text-quiet pt-2">
          Enlarged {((PAPER_CM * 10) / FORMAT_LONG_EDGE_MM[format]).toFixed(1)} times on a print {PAPER_CM} cm long.
        </p>
      )}
      <button className="act -mx-2" aria-pressed={isAsPrint} onClick={toggle}>
        As a print of {PAPER_CM} cm seen from {SEEN_FROM_CM} cm
        <Keys of={FINISH_ACTS["print-distance"]} />
      </button>
    </Group>
  );
}
