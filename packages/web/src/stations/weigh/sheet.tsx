import { WEIGH_ACTS } from "./acts.ts";
import { defaultRecipe, describeFilm, type Negative } from "@yelm/core";
import { Lock, LockOpen } from "lucide-react";
import { useStore } from "zustand";
import { NoAnswer } from "../../controls/no-answer.tsx";
import { rememberPage, sheetMemory } from "../../controls/sheet-memory.ts";
import type { SheetProps } from "../station.ts";
import { useColours } from "../../instruments/use-colours.ts";
import { useWeighScene } from "./measured.ts";
import { Amount } from "../../controls/amount.tsx";
import { Group } from "../../controls/group.tsx";
import { useLens } from "../../controls/use-lens.ts";
import { useEdit } from "../../data/use-session.ts";
import { ColourMap } from "./colour-map.tsx";
import { FamilyRungs } from "./family-rungs.tsx";
import { useAct } from "../../keys/acts.ts";
import { benchView } from "../../picture/bench-view.ts";
import { AdviceGroup } from "./advice-group.tsx";
import { AreasGroup } from "./areas-group.tsx";
import { EarlierRendering, FamilyActs, FamilyGroup, ReachControls } from "./family-group.tsx";
import { FilmChoices } from "./film-group.tsx";
import { asWeight } from "../../controls/formats.ts";
import { WEIGH } from "../../controls/lenses.ts";
import { NeighboursGroup } from "./neighbours-group.tsx";
import { PriceGroup } from "./price-group.tsx";
import { moveWeight, WEIGHT_LABELS } from "./weight-edits.ts";

const WAYS = [
  ["families", "Families"],
  ["weights", "Weights"],
  ["film", "Film"],
  ["areas", "Areas"],
] as const;
type Way = (typeof WAYS)[number][0];

/** Weigh: colour into grey, by families, weights, film and areas, with what merges and what it costs. */
export function WeighStation({ negative }: SheetProps) {
  const { change } = useLens(WEIGH);
  const { by, red, green, blue } = defaultRecipe().weigh;
  useAct({ ...WEIGH_ACTS["plain"], run: () => change("Plain luminance", { by, red, green, blue }) });
  if (negative.capture.grey) return <NothingToWeigh negative={negative} />;
  return <Weighing negative={negative} />;
}

function Weighing({ negative }: SheetProps) {
  const colours = useColours();
  const scene = useWeighScene(negative);
  const recipe = useEdit((state) => state.recipe);
  const { tool, familyId, laidOut } = useStore(benchView);
  const page = useStore(sheetMemory, (memory) => memory.page.Weigh);
  const way: Way = WAYS.find(([id]) => id === page)?.[0] ?? "families";
  const gain = 2 ** recipe.ground.exposureEv;
  const starts = () => benchView.setState({ laidOut: laidOut === "starts" ? null : "starts" });
  useAct({ ...WEIGH_ACTS["starting-points"], run: starts });
  useAct({ ...WEIGH_ACTS["weigh-done"], enabled: tool !== "look", run: () => benchView.setState({ tool: "look" }) });
  const family = scene?.families.find(({ id }) => id === familyId);
  return (
    <>
      <div role="tablist" aria-label="Ways to weigh" className="-mx-2 flex pb-1.5">
        {WAYS.map(([id, label]) => (
          <button
            key={id}
            role="tab"
            aria-selected={way === id}
            className="act px-2.5"
            onClick={() => rememberPage("Weigh", id)}
          >
            {label}
          </button>
        ))}
      </div>
      {way === "weights" && <ThreeWeights />}
      {way === "film" && <FilmWay />}
      {way === "areas" && <AreasGroup />}
      {scene ? (
        <>
          <section aria-label="Families" data-find="Families" className="pb-3">
            {recipe.weigh.by === "film" && <p className="text-quiet pb-1">Over {describeFilm(recipe.weigh.film)}</p>}
            <FamilyRungs scene={scene} gain={gain} />
            <EarlierRendering negative={negative} />
            {way === "families" && (
              <>
                {family && <FamilyGroup scene={scene} family={family} />}
                <FamilyActs scene={scene} />
              </>
            )}
          </section>
          <NeighboursGroup scene={scene} />
          <PriceGroup negative={negative} scene={scene} exposureEv={recipe.ground.exposureEv} />
          <Group title="Hue and lightness" folded="reach, mixtures">
            <ColourMap scene={scene} softness={recipe.weigh.softness} passage={recipe.weigh.passage} gain={gain} />
            <ReachControls scene={scene} family={family} />
          </Group>
          <AdviceGroup scene={scene} />
        </>
      ) : (
        <>
          <NoAnswer answer={colours} what="The picture’s colours" />
          {!colours.isError && <p className="text-quiet py-6">Looking at the picture&apos;s colours…</p>}
        </>
      )}
    </>
  );
}

const STARTS = [
  ["Luminance", defaultRecipe().weigh],
  ["Red", { red: 1, green: 0, blue: 0 }],
  ["Green", { red: 0, green: 1, blue: 0 }],
  ["Blue", { red: 0, green: 0, blue: 1 }],
] as const;
function ThreeWeights() {
  const { value: weigh, amount, preview, commit, change } = useLens(WEIGH);
  const sum = weigh.red + weigh.green + weigh.blue;
  const lock = () => change(weigh.lockSum ? "Sum let go" : "Sum held", { lockSum: !weigh.lockSum });
  return (
    <Group
      title="Three weights"
      aside={
        <button className="act" aria-pressed={weigh.lockSum} title="Keep the sum while one weight moves" onClick={lock}>
          sum {asWeight(sum)} {weigh.lockSum ? <Lock size={13} /> : <LockOpen size={13} />}
        </button>
      }
    >
      {weigh.by === "film" && <p className="text-quiet pb-1">A film is in use. Moving a weight puts it aside.</p>}
      {WEIGHT_LABELS.map(([name, label]) => (
        <Amount
          key={name}
          {...amount(name, label)}
          step={0.05}
          format={asWeight}
          onChange={(value) => preview({ ...moveWeight(weigh, name, value), by: "weights" })}
          onEnd={() => commit(label)}
        />
      ))}
      <div className="flex flex-wrap gap-1 pt-2">
        {STARTS.map(([label, { red, green, blue }]) => (
          <button key={label} className="chip" onClick={() => change(label, { by: "weights", red, green, blue })}>
            {label}
          </button>
        ))}
      </div>
    </Group>
  );
}

function FilmWay() {
  const { value: weigh, change } = useLens(WEIGH);
  return (
    <Group
      title="Film and filter"
      aside={
        weigh.by === "film" ? (
          <button className="act" onClick={() => change("Film put aside", { by: "weights" })}>
            Put aside
          </button>
        ) : (
          <button className="act text-accent" onClick={() => change("Film taken", { by: "film" })}>
            Take this film
          </button>
        )
      }
    >
      <FilmChoices
        film={weigh.film}
        onFilm={(label, film) => change(label, { by: "film", film: { ...weigh.film, ...film } })}
      />
    </Group>
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
