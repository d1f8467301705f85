import { defaultRecipe, type Negative } from "@yelm/core";
import { Lock, LockOpen } from "lucide-react";
import { useStore } from "zustand";
import { measured } from "../bench/measured.ts";
import { Amount } from "../controls/amount.tsx";
import { Group } from "../controls/group.tsx";
import { useLens } from "../controls/use-lens.ts";
import { useEdit } from "../data/use-session.ts";
import { WeighRungs } from "../instruments/weigh-rungs.tsx";
import { useAct } from "../keys/acts.ts";
import { asWeight } from "./formats.ts";
import { WEIGH } from "./lenses.ts";
import { PriceGroup } from "./price-group.tsx";
import { moveWeight, type WeightName } from "./weight-edits.ts";

const STARTS = [
  ["Plain luminance", defaultRecipe().weigh],
  ["Red light", { red: 1, green: 0, blue: 0 }],
  ["Green light", { red: 0, green: 1, blue: 0 }],
  ["Blue light", { red: 0, green: 0, blue: 1 }],
  ["Dark sky", { red: 1.1, green: 0.3, blue: -0.4 }],
  ["Soft skin", { red: 0.6, green: 0.4, blue: 0 }],
] as const;
const NAMES: readonly (readonly [WeightName, string])[] = [
  ["red", "Red light"],
  ["green", "Green light"],
  ["blue", "Blue light"],
];

/** Weigh: how much red, green and blue light counts, and what that does to the picture's own colours. */
export function WeighStation({ negative }: { negative: Negative }) {
  const { palette } = useStore(measured);
  const recipe = useEdit((state) => state.recipe);
  const { value: weigh, amount, preview, commit, change } = useLens(WEIGH);
  const sum = weigh.red + weigh.green + weigh.blue;
  const lock = () => change(weigh.lockSum ? "Sum let go" : "Sum held", { lockSum: !weigh.lockSum });
  useAct({
    id: "plain",
    label: "Plain luminance",
    group: "Print",
    keys: "shift+l",
    run: () => change("Plain luminance", STARTS[0][1]),
  });
  if (negative.capture.grey) return <NothingToWeigh negative={negative} />;
  return (
    <>
      <Group
        title="Three weights"
        aside={
          <button
            className="act"
            aria-pressed={weigh.lockSum}
            title="Keep the sum while one weight moves"
            onClick={lock}
          >
            sum {asWeight(sum)} {weigh.lockSum ? <Lock size={13} /> : <LockOpen size={13} />}
          </button>
        }
      >
        {NAMES.map(([name, label]) => (
          <Amount
            key={name}
            {...amount(name, label)}
            step={0.05}
            format={asWeight}
            onChange={(value) => preview(moveWeight(weigh, name, value))}
            onEnd={() => commit(label)}
          />
        ))}
        <div className="flex flex-wrap gap-1 pt-2">
          {STARTS.map(([label, weights]) => (
            <button key={label} className="chip" onClick={() => change(label, weights)}>
              {label}
            </button>
          ))}
        </div>
      </Group>
      <PriceGroup negative={negative} weigh={weigh} exposureEv={recipe.ground.exposureEv} />
      <Group
        title="Colour in, grey out"
        aside={<span className="text-quiet">{palette.length > 0 ? `${palette.length} colours` : "measuring…"}</span>}
      >
        <WeighRungs palette={palette} recipe={recipe} />
      </Group>
    </>
  );
}

/** Said of a file without colour: what cannot be done here, why, and where to go on. */
function NothingToWeigh({ negative }: { negative: Negative }) {
  return (
    <Group title="Nothing to weigh">
      <p className="pb-2">{negative.fileName} holds no colour: red, green and blue are the same everywhere.</p>
      <p className="text-quiet pb-2">
        Making red lighter, darkening a sky or parting two colours needs the colour of the capture; no weights can tell
        apart what is already one grey. That decision was made when the file was made.
      </p>
      <p className="text-quiet">
        Bring in the camera&apos;s raw file to weigh it here. Tone, light, grain and toning work as they are: go on with
        Shape (4).
      </p>
    </Group>
  );
}
