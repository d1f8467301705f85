import {
  isNeutral,
  lightnessToLuminance,
  MOST_TONE_CHROMA,
  rangeOf,
  REC709_TO_REC2020,
  TONERS,
  tonedColour,
  tonedEndSchema,
  toneStrength,
  transform3,
  type Toner,
  type Toning,
} from "@yelm/core";
import { Amount } from "../../controls/amount.tsx";
import { Choice } from "../../controls/choice.tsx";
import { asPercent, asSignedPercent } from "../../controls/formats.ts";
import { Group } from "../../controls/group.tsx";
import { TONING } from "../../controls/lenses.ts";
import { useLens } from "../../controls/use-lens.ts";
import { workingToCss } from "../../instruments/colour-css.ts";
import { useHistograms } from "../../instruments/use-histograms.ts";
import { useAct } from "../../keys/acts.ts";
import { Keys } from "../../keys/keys.tsx";
import { FINISH_ACTS } from "./acts.ts";

const TONER_CHOICES = TONERS.map((toner) => [toner, toner] as const);
/** The strongest paper tint, of the recipe's own range. */
const MOST_PAPER_CHROMA = 0.05;
/** Densities on the rungs, as print zones. */
const RUNGS = ["0", "I", "II", "III", "IV", "V", "VI", "VII", "VIII", "IX", "X"];

/** Tone: two baths in sequence, tones of darks and lights, the paper's tint, and how strong all of it is. */
export function ToneGroup() {
  const toning = useLens(TONING);
  const { value } = toning;
  const flip = () => toning.change(value.on ? "Tone off" : "Tone on", { on: !value.on });
  useAct({ ...FINISH_ACTS["tone-flip"], run: flip });
  const bathed = value.toner !== "none" || value.second !== "none";
  const choose = (field: "toner" | "second", what: string) => (toner: Toner) =>
    toning.change(what, { [field]: toner, on: true });
  return (
    <Group
      title="Tone"
      aside={
        <button className="act" aria-pressed={!value.on} onClick={flip}>
          {value.on ? "On" : "Off"} <Keys of={FINISH_ACTS["tone-flip"]} />
        </button>
      }
    >
      <Strength toning={value} />
      <div className="flex gap-3">
        <Rungs toning={value} />
        <div className="min-w-0 flex-1">
          <Choice label="Toner" options={TONER_CHOICES} value={value.toner} onChoose={choose("toner", "Toner")} />
        </div>
      </div>
      {value.toner !== "none" && (
        <>
          <Amount
            {...toning.amount("strength", value.byDensity || value.second !== "none" ? "Time" : "Strength")}
            step={0.05}
            format={asPercent}
            typedScale={100}
          />
          <Amount
            {...toning.amount("balance", "Darks to lights")}
            step={0.05}
            format={asSignedPercent}
            typedScale={100}
          />
          <label className="flex items-center gap-2 py-1">
            <input
              type="checkbox"
              className="checkbox checkbox-xs"
              checked={value.byDensity}
              onChange={(event) => toning.change("Order of densities", { byDensity: event.target.checked })}
            />
            Takes densities in its own order
          </label>
          <p className="pt-1 pb-1">Second bath</p>
          <Choice
            label="Second bath"
            options={TONER_CHOICES}
            value={value.second}
            onChoose={choose("second", "Second bath")}
          />
          {value.second !== "none" && (
            <Amount
              {...toning.amount("secondStrength", "Second time")}
              step={0.05}
              format={asPercent}
              typedScale={100}
            />
          )}
        </>
      )}
      {bathed && (
        <>
          <label className="flex items-center gap-2 py-1">
            <input
              type="checkbox"
              className="checkbox checkbox-xs"
              checked={value.keepLightness}
              onChange={(event) => toning.change("Lightness kept", { keepLightness: event.target.checked })}
            />
            Lightness kept
          </label>
          <p className="text-quiet pb-1">
            Simulated. Real toners are hazardous chemicals: follow the maker’s safety sheet and local rules.
          </p>
        </>
      )}
      <End field="darks" label="the darks" />
      <End field="lights" label="the lights" />
      {(value.darks.chroma > 0 || value.lights.chroma > 0) && (
        <>
          <Amount
            {...toning.amount("between", "Where they meet")}
            step={0.05}
            format={asSignedPercent}
            typedScale={100}
          />
          <Amount {...toning.amount("overlap", "Overlap")} step={0.05} format={asPercent} typedScale={100} />
        </>
      )}
      <End field="paper" label="the paper" />
    </Group>
  );
}

/** Hue and strength of one tone of one's own. */
function End({ field, label }: { field: "darks" | "lights" | "paper"; label: string }) {
  const toning = useLens(TONING);
  const { hueDegrees, chroma } = toning.value[field];
  const most = field === "paper" ? MOST_PAPER_CHROMA : MOST_TONE_CHROMA;
  const put = (change: Partial<Toning["darks"]>) => toning.preview({ [field]: { ...toning.value[field], ...change } });
  const name = `Tone ${label}`;
  return (
    <>
      <Amount
        label={name}
        value={chroma / most}
        range={{ minimum: 0, maximum: 1, default: 0, description: `How strong ${label} are toned.` }}
        step={0.05}
        format={asPercent}
        typedScale={100}
        onChange={(share) => put({ chroma: Number((share * most).toFixed(5)) })}
        onEnd={() => toning.commit(name)}
      />
      {chroma > 0 && (
        <Amount
          label={`Hue of ${label}`}
          value={hueDegrees}
          range={rangeOf(tonedEndSchema, "hueDegrees")}
          step={5}
          format={(degrees) => `${Math.round(degrees)}°`}
          onChange={(degrees) => put({ hueDegrees: Math.round(degrees) })}
          onEnd={() => toning.commit(`Hue of ${label}`)}
        />
      )}
    </>
  );
}

/** How strong the tone is, over the picture as it is. */
function Strength({ toning }: { toning: Toning }) {
  const { histograms } = useHistograms();
  if (isNeutral(toning)) return <p className="text-quiet pb-1">{toning.on ? "Neutral." : "Off: neutral."}</p>;
  const { mean, most, word } = toneStrength(toning, histograms?.print ?? new Array<number>(20).fill(1));
  return (
    <p className="pb-1" data-testid="tone-strength">
      <span className="font-serif text-[15px]">{word}</span>{" "}
      <span className="text-quiet">
        chroma {(1000 * mean).toFixed(0)} on average, {(1000 * most).toFixed(0)} at most
      </span>
    </p>
  );
}

/** The print's densities, each in its tone; the darkest at the foot. */
function Rungs({ toning }: { toning: Toning }) {
  return (
    <ol aria-label="Tones by density" className="shrink-0">
      {RUNGS.map((zone, i) => {
        const y = lightnessToLuminance(Math.min(99.5, Math.max(0.5, 10 * i)));
        return { zone, colour: workingToCss(transform3(REC709_TO_REC2020, tonedColour(y, toning))) };
      })
        .reverse()
        .map(({ zone, colour }) => (
          <li key={zone} className="flex items-center gap-1">
            <span className="text-quiet w-6 text-right font-serif text-[11px] leading-[13px]">{zone}</span>
            <i className="block h-[13px] w-9 outline outline-1 outline-white/10" style={{ background: colour }} />
          </li>
        ))}
    </ol>
  );
}
