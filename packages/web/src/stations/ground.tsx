import { frameOf, type Negative } from "@yelm/core";
import { Crop, RotateCcw, RotateCw } from "lucide-react";
import { useStore } from "zustand";
import { Amount } from "../controls/amount.tsx";
import { Choice } from "../controls/choice.tsx";
import { Group } from "../controls/group.tsx";
import { useLens } from "../controls/use-lens.ts";
import { useAct } from "../keys/acts.ts";
import { benchView } from "../picture/bench-view.ts";
import { cropToRatio } from "./crop-edits.ts";
import { asDegrees, asStops } from "./formats.ts";
import { GROUND } from "./lenses.ts";
import { WhiteBalanceGroup } from "./white-balance.tsx";

const RATIOS = [
  ["1", "1:1"],
  ["1.25", "5:4"],
  ["1.3333333", "4:3"],
  ["1.4", "7:5"],
  ["1.5", "3:2"],
  ["1.7777778", "16:9"],
] as const;

/** Ground: exposure, crop and straightening. */
export function GroundStation({ negative }: { negative: Negative }) {
  const { value: ground, amount, change } = useLens(GROUND);
  const { tool } = useStore(benchView);
  const cropping = tool === "crop";
  const toggleCrop = () => benchView.setState({ tool: cropping ? "look" : "crop" });
  const turn = (quarters: 1 | 3) => change("Turn", { quarterTurns: (ground.quarterTurns + quarters) % 4, crop: null });
  useAct({ id: "crop", label: "Crop", group: "Print", keys: "x", run: toggleCrop });
  useAct({ id: "turn-right", label: "Turn clockwise", group: "Print", keys: "shift+period", run: () => turn(1) });
  useAct({ id: "turn-left", label: "Turn anticlockwise", group: "Print", keys: "shift+comma", run: () => turn(3) });
  useAct({
    id: "crop-done",
    label: "Leave the tool",
    group: "Print",
    keys: "enter,escape",
    enabled: cropping || tool === "pick",
    run: () => benchView.setState({ tool: "look" }),
  });

  const frame = frameOf(negative, ground);
  const ratio = frame.width / frame.height;
  const upright = ratio < 1;
  const known = RATIOS.find(([value]) => Math.abs(Number(value) - (upright ? 1 / ratio : ratio)) < 0.004);
  const setRatio = (value: string, stand: boolean) =>
    change("Crop", { crop: cropToRatio(negative, ground, stand ? 1 / Number(value) : Number(value)) });

  return (
    <>
      <Group title="Light">
        <Amount {...amount("exposureEv", "Exposure")} step={1 / 6} format={asStops} />
      </Group>
      <WhiteBalanceGroup negative={negative} />
      <Group
        title="Frame"
        aside={
          <span className="flex">
            <button
              className="act"
              title="Turn anticlockwise (<)"
              aria-label="Turn anticlockwise"
              onClick={() => turn(3)}
            >
              <RotateCcw size={15} />
            </button>
            <button className="act" title="Turn clockwise (>)" aria-label="Turn clockwise" onClick={() => turn(1)}>
              <RotateCw size={15} />
            </button>
          </span>
        }
      >
        <Amount {...amount("angleDegrees", "Straighten")} step={0.5} format={asDegrees} />
        <div className="flex items-center justify-between pt-2 pb-2">
          <button className="act -ml-2" aria-pressed={cropping} onClick={toggleCrop}>
            <Crop size={15} /> {cropping ? "Crop is open" : "Crop"} <kbd>X</kbd>
          </button>
          {ground.crop && (
            <button className="act" onClick={() => change("Crop taken away", { crop: null })}>
              Whole picture
            </button>
          )}
        </div>
        <Choice
          label="Ratio"
          options={RATIOS}
          value={known?.[0] ?? null}
          onChoose={(value) => setRatio(value, upright)}
        />
        <div className="pt-2">
          <Choice
            label="Held"
            options={[
              ["across", "across"],
              ["upright", "upright"],
            ]}
            value={upright ? "upright" : "across"}
            onChoose={(held) => setRatio(known?.[0] ?? String(upright ? 1 / ratio : ratio), held === "upright")}
          />
        </div>
        <p className="text-quiet pt-3">
          {frame.width} × {frame.height}, {((frame.width * frame.height) / 1e6).toFixed(1)} MP;
          <br />
          at 300 ppi {((frame.width / 300) * 2.54).toFixed(1)} × {((frame.height / 300) * 2.54).toFixed(1)} cm
        </p>
      </Group>
    </>
  );
}
