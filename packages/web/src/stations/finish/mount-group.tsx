import { isMounted, ROOM_SIDES } from "@yelm/core";
import { useEffect, useState } from "react";
import { Amount } from "../../controls/amount.tsx";
import { Choice } from "../../controls/choice.tsx";
import { Group } from "../../controls/group.tsx";
import { MOUNT, OUTPUT } from "../../controls/lenses.ts";
import { useLens } from "../../controls/use-lens.ts";

const LIGHTNESSES = [
  ["100", "white"],
  ["94", "soft"],
  ["50", "grey"],
  ["12", "dark"],
  ["0", "black"],
] as const;
const asWidth = (share: number) => `${(100 * share).toFixed(1)} %`;
const UNITS = [
  ["%", "% of the picture"],
  ["mm", "mm on paper"],
] as const;
/** A width on a print whose picture is so long. */
const asMm = (share: number, paperCm: number) => `${(10 * paperCm * share).toFixed(1)} mm`;
const asLightness = (lightness: number) => `L* ${lightness.toFixed(0)}`;

/** Border, line, mat, room for text and the caption. Widths are shares of the picture's long edge, or millimetres on its paper. */
export function MountGroup() {
  const mount = useLens(MOUNT);
  const { value } = mount;
  const paper = useLens(OUTPUT);
  const [inMm, setInMm] = useState(false);
  const { paperCm } = paper.value;
  const width = inMm
    ? { step: 1 / (10 * paperCm), format: (share: number) => asMm(share, paperCm), typedScale: 10 * paperCm }
    : { step: 0.005, format: asWidth, typedScale: 100 };
  const mounted = isMounted(value);
  const inMat = value.mat > 0 || value.room > 0;
  return (
    <Group
      title="Border and mat"
      aside={
        mounted && (
          <button
            className="act"
            onClick={() => mount.change("Nothing around the picture", { border: 0, line: 0, mat: 0, room: 0 })}
          >
            Take off
          </button>
        )
      }
    >
      <Amount {...mount.amount("border", "Border")} {...width} />
      {value.border > 0 && <Lightness field="borderLightness" label="Border" />}
      <Amount {...mount.amount("mat", "Mat")} {...width} step={inMm ? width.step : 0.01} />
      {inMat && <Lightness field="matLightness" label="Mat" />}
      {mounted && (
        <>
          <Amount {...mount.amount("line", "Line")} {...width} step={inMm ? width.step / 2 : 0.001} />
          {value.line > 0 && <Amount {...mount.amount("lineLightness", "Line’s tone")} step={5} format={asLightness} />}
          <Amount {...mount.amount("room", "Room for text")} {...width} step={inMm ? width.step : 0.01} />
          {value.room > 0 && (
            <Choice
              label="Side of the room"
              options={ROOM_SIDES.map((side) => [side, side] as const)}
              value={value.roomAt}
              onChoose={(roomAt) => mount.change("Side of the room", { roomAt })}
            />
          )}
          <Choice
            label="Widths"
            options={UNITS}
            value={inMm ? "mm" : "%"}
            onChoose={(unit) => setInMm(unit === "mm")}
          />
          {inMm && <Amount {...paper.amount("paperCm", "On paper")} step={1} format={(v) => `${v.toFixed(0)} cm`} />}
          <CaptionField />
          {value.caption !== "" && (
            <Amount {...mount.amount("captionSize", "Letters")} {...width} step={inMm ? width.step / 2 : 0.001} />
          )}
          <label className="flex items-center gap-2 py-1">
            <input
              type="checkbox"
              className="checkbox checkbox-xs"
              checked={value.toned}
              onChange={(event) => mount.change("Tone of the mat", { toned: event.target.checked })}
            />
            In the print’s tone
          </label>
        </>
      )}
    </Group>
  );
}

function Lightness({ field, label }: { field: "borderLightness" | "matLightness"; label: string }) {
  const mount = useLens(MOUNT);
  const now = String(mount.value[field]);
  return (
    <>
      <Choice
        label={`${label} lightness`}
        options={LIGHTNESSES}
        value={LIGHTNESSES.find(([lightness]) => lightness === now)?.[0] ?? null}
        onChoose={(lightness) => mount.change(`${label} lightness`, { [field]: Number(lightness) })}
      />
      <Amount {...mount.amount(field, `${label}’s tone`)} step={2} format={asLightness} />
    </>
  );
}

/** The caption is kept when the hand leaves it, so that undo takes back a line and not a letter. */
function CaptionField() {
  const mount = useLens(MOUNT);
  const { caption } = mount.value;
  const [text, setText] = useState(caption);
  useEffect(() => setText(caption), [caption]);
  return (
    <input
      className="field mt-1 w-full"
      aria-label="Caption"
      placeholder="Caption"
      maxLength={160}
      value={text}
      onChange={(event) => {
        setText(event.target.value);
        mount.preview({ caption: event.target.value });
      }}
      onBlur={() => mount.commit("Caption")}
      onKeyDown={(event) => {
        if (event.key === "Enter") event.currentTarget.blur();
      }}
    />
  );
}
