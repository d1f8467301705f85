import {
  defaultRecipe,
  STATIONS,
  type Light,
  type Notes,
  type Print,
  type Recipe,
  type Revision,
  type Station,
  walkRevisions,
} from "@yelm/core";
import { createStore } from "zustand/vanilla";

/** How two prints are seen together. */
export type CompareBy = "wipe" | "beside" | "difference";

/** What the print is compared with, by a name that outlives changes. */
export type Against =
  | { readonly kind: "plain" }
  | { readonly kind: "first" }
  | { readonly kind: "state"; readonly id: string }
  | { readonly kind: "revision"; readonly id: string }
  | { readonly kind: "print"; readonly id: string }
  /** A print of another negative, which has a frame of its own. */
  | { readonly kind: "elsewhere"; readonly id: string }
  | { readonly kind: "without"; readonly station: Station }
  | { readonly kind: "without move"; readonly id: string }
  | { readonly kind: "without group"; readonly id: string };

interface Comparing {
  readonly by: CompareBy | null;
  readonly against: Against;
  /** Where a wipe stands, 0–1 of the picture. */
  readonly wipe: number;
}

export const comparing = createStore<Comparing>(() => ({ by: null, against: { kind: "plain" }, wipe: 0.5 }));

interface Known {
  readonly head: string;
  readonly revisions: ReadonlyMap<string, Revision>;
  readonly notes: Notes;
  readonly prints: readonly Print[];
}

/** The other print, in the present frame, so that the same place lies at the same place; null when it is gone. */
export function otherRecipe(against: Against, recipe: Recipe, known: Known): Recipe | null {
  const other = find(against, recipe, known);
  return (
    other && {
      ...other,
      ground: {
        ...other.ground,
        crop: recipe.ground.crop,
        angleDegrees: recipe.ground.angleDegrees,
        quarterTurns: recipe.ground.quarterTurns,
        lens: recipe.ground.lens,
      },
    }
  );
}

function find(against: Against, recipe: Recipe, { head, revisions, notes, prints }: Known): Recipe | null {
  const fresh = defaultRecipe();
  switch (against.kind) {
    case "plain":
      return { ...fresh, ground: recipe.ground };
    case "first": {
      const root = [...revisions.values()].find(({ parent }) => parent === null);
      return root ? walkRevisions(recipe, head, root.id, revisions) : null;
    }
    case "state": {
      const state = notes.states.find(({ id }) => id === against.id);
      return state && revisions.has(state.revision) ? walkRevisions(recipe, head, state.revision, revisions) : null;
    }
    case "revision":
      return revisions.has(against.id) ? walkRevisions(recipe, head, against.id, revisions) : null;
    case "elsewhere":
      return null;
    case "print":
      return prints.find(({ id }) => id === against.id)?.recipe ?? null;
    case "without":
      return { ...recipe, ...partOf(against.station, fresh, recipe) };
    case "without move":
      return withLight(recipe, { moves: recipe.light.moves.filter(({ id }) => id !== against.id) });
    case "without group":
      return withLight(recipe, { moves: recipe.light.moves.filter(({ group }) => group !== against.id) });
  }
}

const withLight = (recipe: Recipe, change: Partial<Light>): Recipe => ({
  ...recipe,
  light: { ...recipe.light, ...change },
});

/** A station's part as it is in a fresh print. */
function partOf(station: Station, fresh: Recipe, recipe: Recipe): Partial<Recipe> {
  if (station === "Ground") return { ground: { ...fresh.ground, crop: recipe.ground.crop } };
  if (station === "Weigh") return { weigh: fresh.weigh };
  if (station === "Shape") return { shape: fresh.shape };
  if (station === "Light") return { light: { ...recipe.light, moves: [] } };
  if (station === "Finish") return { finish: { ...fresh.finish, mount: recipe.finish.mount } };
  return {};
}

/** Stations that change a picture. */
export const SWITCHED_STATIONS = STATIONS.filter((name) => !["Intend", "Judge", "Deliver"].includes(name));

export function againstName(
  against: Against,
  known: Pick<Known, "notes" | "prints"> & { readonly elsewhere?: { readonly name: string } | null },
  recipe: Recipe,
): string {
  switch (against.kind) {
    case "plain":
      return "plain luminance";
    case "first":
      return "as it was opened first";
    case "state":
      return known.notes.states.find(({ id }) => id === against.id)?.name ?? "a state that is gone";
    case "revision":
      return "an earlier state";
    case "elsewhere":
      return known.elsewhere?.name ?? "another print";
    case "print":
      return known.prints.find(({ id }) => id === against.id)?.name ?? "a print that is gone";
    case "without":
      return `without ${against.station}`;
    case "without move":
      return `without ${recipe.light.moves.find(({ id }) => id === against.id)?.name ?? "a move"}`;
    case "without group":
      return `without ${recipe.light.groups.find(({ id }) => id === against.id)?.name ?? "a group"}`;
  }
}
