import { WEIGH_ACTS } from "./acts.ts";
import {
  factsOf,
  familySchema,
  MOST_FAMILIES,
  rangeOf,
  type Family,
  type Goal,
  type Recipe,
  type Weigh,
} from "@yelm/core";
import { Pin, PinOff, Pipette, MoveVertical, Split, Undo2 } from "lucide-react";
import { useEffect, useState } from "react";
import { useStore } from "zustand";
import type { WeighScene } from "./measured.ts";
import type { SheetProps } from "../station.ts";
import { Amount } from "../../controls/amount.tsx";
import { Choice } from "../../controls/choice.tsx";
import { useLens } from "../../controls/use-lens.ts";
import { useEdit, useSession } from "../../data/use-session.ts";
import { useAct } from "../../keys/acts.ts";
import { benchView, type Tool } from "../../picture/bench-view.ts";
import { changeFamily, mergeTwo, splitInTwo, withFamilies } from "./family-edits.ts";
import { asPercent, asStops, zoneNumeral, zoneThirds } from "../../controls/formats.ts";
import { WEIGH } from "../../controls/lenses.ts";
import { useSolve, useTriedRecipe } from "./use-solve.ts";

const MOST = MOST_FAMILIES;

/** What is done with families: moved on the picture, picked, found again; and the one in hand. */
export function FamilyActs({ scene }: { scene: WeighScene }) {
  const session = useSession();
  const { tool } = useStore(benchView);
  const take = (next: Tool) => benchView.setState({ tool: tool === next ? "look" : next });
  useAct({ ...WEIGH_ACTS["family-move"], run: () => take("family") });
  useAct({ ...WEIGH_ACTS["family-pick"], enabled: scene.families.length < MOST, run: () => take("family pick") });
  useAct({
    ...WEIGH_ACTS["families-still"],
    run: () =>
      session.change("Weigh", "Families put back", (recipe) =>
        withFamilies(
          recipe,
          recipe.weigh.families.map((family) => ({ ...family, stops: 0 })),
        ),
      ),
  });
  return (
    <>
      <div className="-mx-2 flex flex-wrap">
        <button className="act" aria-pressed={tool === "family"} onClick={() => take("family")}>
          <MoveVertical size={14} /> Move on picture <kbd>U</kbd>
        </button>
        <button className="act" aria-pressed={tool === "family pick"} onClick={() => take("family pick")}>
          <Pipette size={14} /> Pick <kbd>Y</kbd>
        </button>
      </div>
    </>
  );
}

const PASSAGES = [
  ["mixture", "as their light mixes"],
  ["nearness", "the nearer one’s"],
] as const;

interface Earlier {
  readonly told: string;
  readonly act: string;
  readonly title: string;
  readonly label: string;
  readonly change: Partial<Weigh>;
}

const BY_NEARNESS: Earlier = {
  told: "Where two of its families mix, this print gives the mixture to the nearer one.",
  act: "Share it as light mixes",
  title: "Soft edges keep the light of what mixes in them. Point here to see it first.",
  label: "Mixtures by their light",
  change: { passage: "mixture" },
};
const BY_EVEN_COLOURS: Earlier = {
  told: "In this print only very even colours say what light their material gets.",
  act: "Let textured ones speak, too",
  title: "Fur, straw and petals keep their own light to their borders. Point here to see it first.",
  label: "Light of textured colours",
  change: { evenness: "natural" },
};

const BY_NOISE: Earlier = {
  told: "In this print moved light follows the noise of the file’s colours.",
  act: "Hold it to its surroundings",
  title: "Smooth places stay smooth where dark or compressed colours are blotched. Point here to see it first.",
  label: "Light held where colours are noise",
  change: { noisyColours: "held" },
};

const BY_COLOURS: Earlier = {
  told: "In this print colours say what is clipped, not the channels that filled.",
  act: "Heed the channels",
  title: "Sparkle keeps the light of what is about to fill one. Point here to see it first.",
  label: "Clipped light by its channels",
  change: { clippedBy: "channels" },
};

/** What a print of a negative could have otherwise. */
interface OfNegative {
  /** Its noise was not smoothed at import. */
  readonly isNoisy: boolean;
  /** Some of it is clipped, or it is not known. */
  readonly isClipped: boolean;
}

const earlierOf = (
  { passage, evenness, noisyColours, clippedBy, families, by }: Weigh,
  { isNoisy, isClipped }: OfNegative,
): Earlier | null => {
  const moved = families.some(({ stops }) => stops !== 0);
  if (moved && passage === "nearness") return BY_NEARNESS;
  if (!moved && by !== "film") return null;
  if (evenness === "strict") return BY_EVEN_COLOURS;
  if (isNoisy && noisyColours === "followed") return BY_NOISE;
  return isClipped && clippedBy === "colours" ? BY_COLOURS : null;
};

/** A print of an earlier version: its edges are as they were until its user wants them as they are made now, seen first. */
export function EarlierRendering({ negative }: Pick<SheetProps, "negative">) {
  const session = useSession();
  const { clipped } = negative.capture;
  const isNoisy = factsOf(negative.capture).noise === null;
  const isClipped = clipped === null || clipped.some((share) => share > 0);
  const earlier = useEdit(({ recipe: { weigh } }) => earlierOf(weigh, { isNoisy, isClipped }));
  const now = ({ weigh, ...rest }: Recipe): Recipe => ({ ...rest, weigh: { ...weigh, ...earlier?.change } });
  const tried = useTriedRecipe(now);
  if (!earlier) return null;
  return (
    <p className="text-quiet pt-2 leading-snug">
      {earlier.told}{" "}
      <button
        className="text-accent cursor-pointer underline-offset-2 hover:underline"
        title={earlier.title}
        {...tried}
        onClick={() => session.change("Weigh", earlier.label, now)}
      >
        {earlier.act}
      </button>
    </p>
  );
}

/** How far families reach into each other. */
export function ReachControls({ scene, family }: { scene: WeighScene; family: Family | undefined }) {
  const session = useSession();
  const { value: weigh, amount, change } = useLens(WEIGH);
  return (
    <>
      <Amount {...amount("softness", "Softness")} step={0.05} format={asPercent} typedScale={100} />
      {family && (
        <Amount
          label="Reach"
          value={family.reach}
          range={rangeOf(familySchema, "reach")}
          step={0.1}
          format={(value) => value.toFixed(2)}
          onChange={(reach) => session.preview((recipe) => changeFamily(recipe, scene.families, family.id, { reach }))}
          onEnd={() => session.commit("Weigh", `${family.name}, reach`)}
        />
      )}
      <p className="pt-2 pb-1">Where two families mix</p>
      <Choice
        label="Where two families mix"
        options={PASSAGES}
        value={weigh.passage}
        onChoose={(passage) =>
          change(passage === "mixture" ? "Mixtures by their light" : "Mixtures by nearness", { passage })
        }
      />
      {weigh.families.length > 0 && (
        <button
          className="act -mx-2 mt-1"
          title="Forget these families and take those that the picture shows by itself"
          onClick={() => change("Families found again", { families: [] })}
        >
          <Undo2 size={14} /> Find families again
        </button>
      )}
    </>
  );
}

/** The family in hand. */
export function FamilyGroup({ scene, family }: { scene: WeighScene; family: Family }) {
  const session = useSession();
  const { besideId } = useStore(benchView);
  const solve = useSolve(scene);
  const index = scene.families.findIndex(({ id }) => id === family.id);
  const { hint, share, samples } = scene.facts[index];
  const grey = scene.greys[index];
  const beside = scene.families.findIndex(({ id }) => id === besideId);
  const set = (change: Partial<Family>) =>
    session.preview((recipe) => changeFamily(recipe, scene.families, family.id, change));
  const keep = (label: string) => session.commit("Weigh", label);
  const pin = () => {
    set({ pinned: !family.pinned });
    keep(family.pinned ? `${family.name} let go` : `${family.name} pinned`);
  };
  const goal = (wanted: Goal, label: string) => void solve(wanted, label);
  const other = beside === -1 ? null : scene.families[beside];
  return (
    <div className="pt-2" aria-label={family.name} role="group">
      <div className="flex items-center gap-2 pb-1">
        <NameField family={family} onName={(name) => { set({ name }); keep(`Named ${name}`); }} />
        <button className="act px-1.5" aria-pressed={family.pinned} title="Nothing but the hand moves a pinned family" onClick={pin}>
          {family.pinned ? <Pin size={14} /> : <PinOff size={14} />} {family.pinned ? "Pinned" : "Pin"}
        </button>
      </div>
            <p className="text-quiet pb-0.5">
        Zone {zoneThirds(grey.lightness / 10)}, its colours {(grey.spread / 10).toFixed(1)} zones apart; plain luminance
        gives {zoneThirds(scene.plain[index].lightness / 10)}
      </p>
      <Amount
        label="Stops"
        value={family.stops}
        range={rangeOf(familySchema, "stops")}
        step={0.1}
        format={asStops}
        onChange={(stops) => set({ stops })}
        onEnd={() => keep(`${family.name} moved`)}
      />
      <div className="flex items-center justify-between pt-1" role="group" aria-label="To a zone" title="Bring this family to a zone">
        {Array.from({ length: 11 }, (_, zone) => (
          <button
            key={zone}
            className="hover:bg-fill h-6 min-w-[22px] cursor-pointer rounded font-serif text-[12px]"
            aria-label={`To Zone ${zoneNumeral(zone)}`}
            onClick={() => goal({ kind: "zone", family: index, zone }, `${family.name} to Zone ${zoneNumeral(zone)}`)}
          >
            {zoneNumeral(zone)}
          </button>
        ))}
      </div>
      <div className="-mx-2 flex flex-wrap pt-1">
        {other ? (
          <>
            <button className="act" onClick={() => goal({ kind: "part", first: index, second: beside }, `${family.name} and ${other.name} parted`)}>
              Part from {other.name}
            </button>
            <button
              className="act"
              onClick={() => {
                session.change("Weigh", `${family.name} and ${other.name} made one`, (recipe) =>
                  mergeTwo(recipe, scene.families, { id: family.id, share }, { id: other.id, share: scene.facts[beside].share }),
                );
                benchView.setState({ besideId: null });
              }}
            >
              Make one
            </button>
          </>
        ) : (
          <>
            <button
              className="act"
              disabled={samples.length < 2 || scene.families.length >= MOST}
              onClick={() => session.change("Weigh", `${family.name} split`, (recipe) => splitInTwo(recipe, scene.families, family.id, samples))}
            >
              <Split size={14} /> Split
            </button>
            {hint && !scene.families.some(({ name }) => name === hint) ? (
              <button
                className="act text-quiet"
                title="By its colour and place in the picture"
                onClick={() => {
                  set({ name: hint });
                  keep(`Named ${hint}`);
                }}
              >
                Maybe {hint}? Call it so
              </button>
            ) : (
              <span className="text-quiet self-center px-2">Shift-click another to part or join</span>
            )}
          </>
        )}
      </div>
    </div>
  ); // prettier-ignore
}

function NameField({ family, onName }: { family: Family; onName: (name: string) => void }) {
  const [text, setText] = useState(family.name);
  useEffect(() => setText(family.name), [family.name]);
  const keep = () => {
    const name = text.trim().slice(0, 40);
    if (name && name !== family.name) onName(name);
    else setText(family.name);
  };
  return (
    <input
      className="field min-w-0 flex-1"
      aria-label="Name of the family"
      value={text}
      maxLength={40}
      onChange={(event) => setText(event.target.value)}
      onBlur={keep}
      onKeyDown={(event) => event.key === "Enter" && event.currentTarget.blur()}
    />
  );
}
