import { formatSigned, placeToFamily, familyPlace, type Family } from "@yelm/core";
import type { WeighScene } from "./measured.ts";
import { Group } from "../../controls/group.tsx";
import { useSession } from "../../data/use-session.ts";
import { notify } from "../../shell/shell-view.ts";
import { clampStops, ownFamilies, withFamilies } from "./family-edits.ts";
import { useSolve } from "./use-solve.ts";

/** Stops for a family by what it looks like. */
type Advice = (hue: number, hint: WeighScene["facts"][number]["hint"]) => number;

const within = (hue: number, from: number, to: number) => hue >= from && hue < to;

const ADVICE: readonly { kind: string; line: string; act: string; stops: Advice | null }[] = [
  {
    kind: "Portrait",
    line: "Reds and oranges carry skin: lighter for softness, darker for texture.",
    act: "Lighten skin",
    stops: (hue, hint) => (hint === "skin" ? 0.4 : within(hue, 15, 75) ? 0.15 : 0),
  },
  {
    kind: "Landscape",
    line: "Blues hold the sky, yellows and greens the land.",
    act: "Darken sky, open leaves",
    stops: (hue, hint) => (hint === "sky" || within(hue, 215, 280) ? -0.7 : within(hue, 85, 150) ? 0.35 : 0),
  },
  {
    kind: "Architecture",
    line: "Let walls stand out of sky and trees.",
    act: "Lighten walls, darken sky",
    stops: (hue, hint) =>
      hint === "sky" || within(hue, 215, 280) ? -0.8 : within(hue, 25, 80) ? 0.3 : within(hue, 95, 160) ? -0.2 : 0,
  },
  { kind: "Still life", line: "Each thing wants a grey of its own.", act: "Part all neighbours", stops: null },
];

/** Usual advice, each with an act that follows it on this picture's families. */
export function AdviceGroup({ scene }: { scene: WeighScene }) {
  const session = useSession();
  const solve = useSolve(scene);
  const { families, facts } = scene;
  const follow = (kind: string, stopsOf: Advice) => {
    const moved = families.map((family, i) => advised(family, facts[i], stopsOf));
    const told = moved.flatMap((family, i) =>
      family.stops === families[i].stops ? [] : [`${family.name} ${formatSigned(family.stops - families[i].stops, 2)}`],
    );
    if (told.length === 0) {
      notify("The picture has no such colours, or they are pinned.");
      return;
    }
    session.change("Weigh", `Advice: ${kind.toLowerCase()}`, (recipe) => {
      const own = ownFamilies(recipe, families);
      const stops = new Map(moved.map((family) => [family.id, family.stops]));
      return withFamilies(
        recipe,
        own.map((family) => ({ ...family, stops: stops.get(family.id) ?? family.stops })),
      );
    });
    notify(`Moved ${told.join(", ")} stops.`, { label: "Undo", run: session.takeBack() });
  };
  return (
    <Group title="Usual advice" folded="portrait, landscape…">
      <ul className="space-y-2">
        {ADVICE.map(({ kind, line, act, stops }) => (
          <li key={kind}>
            <span className="font-serif">{kind}.</span> <span className="text-quiet">{line}</span>{" "}
            <button
              className="text-accent cursor-pointer underline-offset-2 hover:underline"
              onClick={() => (stops ? follow(kind, stops) : void solve({ kind: "part all" }, "Neighbours parted"))}
            >
              {act}
            </button>
          </li>
        ))}
      </ul>
    </Group>
  );
}

function advised(family: Family, { working, hint, share }: WeighScene["facts"][number], stopsOf: Advice): Family {
  if (family.pinned || share === 0) return family;
  const { hueDegrees } = placeToFamily(familyPlace(working));
  return { ...family, stops: clampStops(family.stops + stopsOf(hueDegrees, hint)) };
}
