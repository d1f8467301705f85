import {
  FamilyProbe,
  findNeighbours,
  type Family,
  type FamilyFacts,
  type FamilyGrey,
  type FamilyMap,
  type FilmResponse,
  type Negative,
  type Neighbours,
  type PictureColours,
  type Recipe,
} from "@yelm/core";
import { useMemo, useRef } from "react";
import { useEdit } from "../../data/use-session.ts";
import { useAnswer, useMeasured, usePool } from "../../workers/use-answer.ts";
import { familyKey, useColours } from "../../instruments/use-colours.ts";
import { ownFamilies } from "./family-edits.ts";
import { measurePrice } from "./measure-price.ts";

const PRICE_REST_MS = 300;

/** What the film in use sees; not asked while there is none. */
function useFilm() {
  const recipe = useEdit((state) => state.recipe);
  const { by, film } = recipe.weigh;
  const key = JSON.stringify(film);
  const answer = useAnswer("film", { recipe }, { key, restMs: 0, enabled: by === "film" });
  return { key, response: by === "film" && !answer.isPlaceholderData ? (answer.data ?? null) : null };
}

/** What the conversion costs, measured when the hand rests. */
export function usePrice() {
  const recipe = useEdit((state) => state.recipe);
  const pool = usePool();
  const key = JSON.stringify([recipe.ground, recipe.weigh, recipe.shape]);
  return useMeasured("price", (signal) => measurePrice(pool, recipe, signal), { key, restMs: PRICE_REST_MS });
}

/** The picture through its families, as the print stands now. */
export interface WeighScene {
  readonly families: readonly Family[];
  /** One for each family, then the neutrals; so are greys and noise. */
  readonly facts: readonly FamilyFacts[];
  readonly map: FamilyMap;
  readonly colours: PictureColours;
  readonly probe: FamilyProbe;
  readonly greys: readonly FamilyGrey[];
  readonly plain: readonly FamilyGrey[];
  /** Cost in noise, stops of ISO. */
  readonly noise: readonly (number | null)[];
  readonly neighbours: readonly Neighbours[];
}

/** The scene of the print on the bench; null until its colours are measured. */
export function useWeighScene(negative: Negative): WeighScene | null {
  const recipe = useEdit((state) => state.recipe);
  const colours = useColours().data ?? null;
  const { key, response } = useFilm();
  const kept = useRef<WeighScene | null>(null);
  const scene = useMemo(
    () => colours && sharedScene(negative, recipe, colours, key, response),
    [negative, recipe, colours, key, response],
  );
  // While families are measured anew, the last scene stands.
  if (scene) kept.current = scene;
  else if (!colours) kept.current = null;
  return scene ?? kept.current;
}

let last: { readonly of: readonly unknown[]; readonly scene: WeighScene | null } | null = null;

/** Sheet and picture look at one scene, worked out once. */
function sharedScene(...of: Parameters<typeof sceneOf>): WeighScene | null {
  if (!last || last.of.some((value, i) => value !== of[i])) last = { of, scene: sceneOf(...of) };
  return last.scene;
}

function sceneOf(
  negative: Negative,
  recipe: Recipe,
  colours: PictureColours,
  filmKey: string,
  film: FilmResponse | null,
): WeighScene | null {
  const families = ownFamilies(recipe, colours.families);
  if (familyKey(families) !== familyKey(colours.families)) return null;
  const byFilm = recipe.weigh.by === "film";
  if (byFilm && (!film || filmKey !== JSON.stringify(recipe.weigh.film))) return null;
  const { facts, boundaries } = colours.map;
  const full = { ...recipe, weigh: { ...recipe.weigh, families: [...families] } };
  const probe = new FamilyProbe(negative.capture, full, facts, byFilm ? film! : undefined);
  const greys = probe.greys();
  return {
    families,
    facts,
    map: colours.map,
    colours,
    probe,
    greys,
    plain: probe.plainGreys(),
    noise: probe.noiseStops(),
    neighbours: findNeighbours(probe, boundaries, greys),
  };
}
