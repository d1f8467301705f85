import { GROUND_ACTS } from "./acts.ts";
import { frameOf, SAME_RATIO, type Negative, changeFrame, cropToRatio } from "@yelm/core";
import { Crop, RotateCcw, RotateCw, X } from "lucide-react";
import { useState } from "react";
import { useStore } from "zustand";
import { Amount } from "../../controls/amount.tsx";
import { Choice } from "../../controls/choice.tsx";
import { Group } from "../../controls/group.tsx";
import { useLens } from "../../controls/use-lens.ts";
import { useSession } from "../../data/use-session.ts";
import { useAct } from "../../keys/acts.ts";
import { benchView, GUIDES, type Tool } from "../../picture/bench-view.ts";
import { asDegrees } from "../../controls/formats.ts";
import { GROUND } from "../../controls/lenses.ts";
import { addRatio, dropRatio, parseRatio, ratios } from "./ratios.ts";

const PPI = ["240", "300", "360"] as const;
const SLANT_STEP = 0.1;

/** Straightening, turning and cropping, with the size that is left in pixels and on paper. */
export function FrameGroup({ negative }: { negative: Negative }) {
  const session = useSession();
  const { value: ground, amount, change } = useLens(GROUND);
  const { tool, guide } = useStore(benchView);
  const list = useStore(ratios);
  const [own, setOwn] = useState("");
  const [ppi, setPpi] = useState<(typeof PPI)[number]>("300");
  const hold = (wanted: Tool) => benchView.setState({ tool: tool === wanted ? "look" : wanted });
  const turn = (quarters: 1 | 3) => change("Turn", { quarterTurns: (ground.quarterTurns + quarters) % 4, crop: null });
  const slant = (by: number) => {
    const angleDegrees = Math.min(45, Math.max(-45, Math.round(10 * (ground.angleDegrees + by)) / 10));
    session.change("Ground", "Straightened", (recipe) => changeFrame(recipe, negative, { angleDegrees }));
  };
  useAct({ ...GROUND_ACTS["crop"], run: () => hold("crop") });
  useAct({ ...GROUND_ACTS["level"], run: () => hold("level") });
  useAct({ ...GROUND_ACTS["slant-left"], run: () => slant(-SLANT_STEP) });
  useAct({ ...GROUND_ACTS["slant-right"], run: () => slant(SLANT_STEP) });
  useAct({ ...GROUND_ACTS["turn-right"], run: () => turn(1) });
  useAct({ ...GROUND_ACTS["turn-left"], run: () => turn(3) });

  const frame = frameOf(negative, ground);
  const ratio = frame.width / frame.height;
  const upright = ratio < 1;
  const known = list.find(({ value }) => Math.abs(value - (upright ? 1 / ratio : ratio)) < SAME_RATIO);
  const setRatio = (value: number, stand: boolean) =>
    change("Crop", { crop: cropToRatio(negative, ground, stand ? 1 / value : value) });
  const keepOwn = () => {
    const parsed = parseRatio(own);
    setOwn("");
    if (!parsed) return;
    addRatio(parsed);
    setRatio(parsed.value, upright);
  };
  const centimetres = (pixels: number) => ((pixels / Number(ppi)) * 2.54).toFixed(1);
  return (
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
      <Amount
        {...amount("angleDegrees", "Straighten")}
        step={0.5}
        format={asDegrees}
        onChange={(angleDegrees) => session.preview((recipe) => changeFrame(recipe, negative, { angleDegrees }))}
      />
      <div className="flex items-center justify-between pt-1 pb-2">
        <button className="act -ml-2" aria-pressed={tool === "crop"} onClick={() => hold("crop")}>
          <Crop size={15} /> {tool === "crop" ? "Crop is open" : "Crop"} <kbd>X</kbd>
        </button>
        <button className="act" aria-pressed={tool === "level"} onClick={() => hold("level")}>
          Draw a level <kbd>A</kbd>
        </button>
      </div>
      <Choice
        label="Ratio"
        options={list.map(({ value, text }) => [String(value), text] as const)}
        value={known ? String(known.value) : null}
        onChoose={(value) => setRatio(Number(value), upright)}
      />
      <form
        className="flex items-center gap-1 pt-2"
        onSubmit={(event) => {
          event.preventDefault();
          keepOwn();
        }}
      >
        <input
          className="field w-24"
          aria-label="Own ratio"
          placeholder="own, 12:5"
          value={own}
          maxLength={12}
          onChange={(event) => setOwn(event.target.value)}
        />
        <button className="chip" disabled={parseRatio(own) === null}>
          Add
        </button>
        {known && (
          <button
            type="button"
            className="act text-quiet ml-auto"
            title={`Take ${known.text} off the list`}
            onClick={() => dropRatio(known.value)}
          >
            <X size={12} /> {known.text}
          </button>
        )}
      </form>
      <div className="flex items-center justify-between pt-2">
        <Choice
          label="Held"
          options={[
            ["across", "across"],
            ["upright", "upright"],
          ]}
          value={upright ? "upright" : "across"}
          onChoose={(held) => setRatio(known?.value ?? (upright ? 1 / ratio : ratio), held === "upright")}
        />
        {ground.crop && (
          <button className="act" onClick={() => change("Crop taken away", { crop: null })}>
            Whole picture
          </button>
        )}
      </div>
      {tool === "crop" && (
        <div className="pt-2">
          <Choice
            label="Guide"
            options={GUIDES.map((name) => [name, name] as const)}
            value={guide}
            onChoose={(name) => benchView.setState({ guide: name })}
          />
        </div>
      )}
      <p className="text-quiet pt-3">
        {frame.width} × {frame.height}, {((frame.width * frame.height) / 1e6).toFixed(1)} MP
        <br />
        {centimetres(frame.width)} × {centimetres(frame.height)} cm on paper at
      </p>
      <div className="pt-1">
        <Choice
          label="Pixels an inch"
          options={PPI.map((v) => [v, `${v} ppi`] as const)}
          value={ppi}
          onChoose={setPpi}
        />
      </div>
    </Group>
  );
}
