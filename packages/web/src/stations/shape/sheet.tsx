import { useHistograms } from "../../instruments/use-histograms.ts";
import { Amount } from "../../controls/amount.tsx";
import { Choice } from "../../controls/choice.tsx";
import { Group } from "../../controls/group.tsx";
import { useLens } from "../../controls/use-lens.ts";
import { CurveEditor } from "./curve-editor.tsx";
import { asPercent, asSignedPercent } from "../../controls/formats.ts";
import { LOCAL_CONTRAST, SHAPE } from "../../controls/lenses.ts";
import { PointsGroup } from "./points-group.tsx";
import { SpotsGroup } from "./spots-group.tsx";

/** Shape: the ends of the scale, its middle, its contrast, its curve. */
export function ShapeStation() {
  const { histograms } = useHistograms();
  const { value: shape, amount, change } = useLens(SHAPE);
  const local = useLens(LOCAL_CONTRAST);
  return (
    <>
      <PointsGroup />
      <SpotsGroup />
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
