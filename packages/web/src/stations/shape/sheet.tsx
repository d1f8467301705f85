import { useHistograms } from "../../instruments/use-histograms.ts";
import { Amount } from "../../controls/amount.tsx";
import { Choice } from "../../controls/choice.tsx";
import { Group } from "../../controls/group.tsx";
import { useLens } from "../../controls/use-lens.ts";
import { CurveEditor } from "./curve-editor.tsx";
import { asPercent } from "../../controls/formats.ts";
import { SHAPE } from "../../controls/lenses.ts";
import { PointsGroup } from "./points-group.tsx";
import { OpenGroup, SpaceGroups } from "./space-groups.tsx";
import { SpotsGroup } from "./spots-group.tsx";

/** Shape: the ends of the scale, its middle, its contrast, its curve. */
export function ShapeStation() {
  const { histograms } = useHistograms();
  const { value: shape, amount, change } = useLens(SHAPE);
  return (
    <>
      <PointsGroup />
      <OpenGroup />
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
      <SpaceGroups />
      <Group title="Curve">
        <CurveEditor histograms={histograms} />
      </Group>
    </>
  );
}
