import { NoAnswer } from "../../controls/no-answer.tsx";
import { useHistograms } from "../../instruments/use-histograms.ts";
import { Amount } from "../../controls/amount.tsx";
import { Choice } from "../../controls/choice.tsx";
import { Group } from "../../controls/group.tsx";
import { useLens } from "../../controls/use-lens.ts";
import { CurveEditor } from "./curve-editor.tsx";
import { asPercent, asPlain, asSignedPercent, asStops } from "../../controls/formats.ts";
import { LOCAL_CONTRAST, SHAPE } from "../../controls/lenses.ts";
import { pointsFor } from "./points.ts";

/** Shape: the ends of the scale, its middle, its contrast, its curve. */
export function ShapeStation() {
  const { histograms, answer } = useHistograms();
  const { value: shape, amount, change } = useLens(SHAPE);
  const local = useLens(LOCAL_CONTRAST);
  return (
    <>
      <Group
        title="Points and grade"
        aside={
          <button
            className="act"
            disabled={!histograms}
            title="Puts the ends where the picture's tones end"
            onClick={() => histograms && change("Points set from the picture", pointsFor(histograms))}
          >
            Set from picture
          </button>
        }
      >
        <NoAnswer answer={answer} what="The picture’s tones" />
        <Amount {...amount("blackPoint", "Black point")} step={0.25} format={asPlain(1)} />
        <Amount {...amount("whitePoint", "White point")} step={0.25} format={asPlain(1)} />
        <Amount {...amount("midPoint", "Mid point")} step={1 / 6} format={asStops} />
        <Amount {...amount("grade", "Grade")} step={0.25} format={asPlain(1)} />
      </Group>
      <Group title="Characteristic">
        <Choice
          label="Characteristic"
          options={[
            ["straight", "straight"],
            ["film", "film-like"],
          ]}
          value={shape.characteristic}
          onChoose={(characteristic) => change("Characteristic curve", { characteristic })}
        />
        {shape.characteristic === "film" && (
          <div className="pt-2">
            <Amount {...amount("toe", "Toe")} step={0.05} format={asPercent} typedScale={100} />
            <Amount {...amount("shoulder", "Shoulder")} step={0.05} format={asPercent} typedScale={100} />
          </div>
        )}
      </Group>
      <Group title="Local contrast">
        <Amount {...local.amount("low", "Low tones")} step={0.05} format={asSignedPercent} typedScale={100} />
        <Amount {...local.amount("mid", "Mid tones")} step={0.05} format={asSignedPercent} typedScale={100} />
        <Amount {...local.amount("high", "High tones")} step={0.05} format={asSignedPercent} typedScale={100} />
      </Group>
      <Group title="Curve">
        <CurveEditor histograms={histograms} />
      </Group>
    </>
  );
}
