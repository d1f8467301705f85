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
  type Recipe,
} from "@yelm/core";
import { useEffect, useMemo, useRef } from "react";
import { useStore } from "zustand";
import { createStore } from "zustand/vanilla";
import { useEdit } from "../data/use-session.ts";
import type { PictureColours } from "../picture/protocol.ts";
import type { RenderPool } from "../picture/render-pool.ts";
import { ownFamilies } from "../stations/family-edits.ts";
import { measurePrice, type WeighPrice } from "./measure-price.ts";

const REST_MS = 120;
const PRICE_REST_MS = 500;

interface WeighMeasured {
  readonly colours: PictureColours | null;
  /** The film whose response is at hand. */
  readonly film: { readonly key: string; readonly response: FilmResponse } | null;
  readonly price: WeighPrice | null;
}

const EMPTY: WeighMeasured = { colours: null, film: null, price: null };

/** What was measured of the picture's colours; it follows the edits at a short distance. */
export const weighMeasured = createStore<WeighMeasured>(() => EMPTY);

/** Measures while Weigh is open: the colours when the frame or the families change, the price when the hand rests. */
export function useWeighMeasuring(pool: RenderPool): void {
  const recipe = useEdit((state) => state.recipe);
  const latest = useRef(recipe);
  latest.current = recipe;
  const { weigh } = recipe;
  const colourKey = JSON.stringify([frameKey(recipe), familyKey(weigh.families), weigh.softness]);
  const filmKey = JSON.stringify(weigh.film);
  const priceKey = JSON.stringify([recipe.ground, weigh, recipe.shape]);
  useEffect(() => weighMeasured.setState(EMPTY, true), [pool]);
  useLater(REST_MS, [pool, colourKey], () =>
    pool.colours(latest.current).then((colours) => () => weighMeasured.setState({ colours })),
  );
  useLater(0, [pool, weigh.by === "film", filmKey], () =>
    weigh.by === "film"
      ? pool.film(latest.current).then((response) => () => weighMeasured.setState({ film: { key: filmKey, response } }))
      : null,
  );
  useLater(PRICE_REST_MS, [pool, priceKey], (isWanted) =>
    measurePrice(pool, latest.current, isWanted).then((price) => () => weighMeasured.setState({ price })),
  );
}

/** Runs after a rest; an answer that comes too late is dropped. */
function useLater(
  restMs: number,
  when: readonly unknown[],
  ask: (isWanted: () => boolean) => Promise<() => void> | null,
): void {
  useEffect(() => {
    let live = true;
    const timer = setTimeout(() => {
      ask(() => live)?.then(
        (keep) => live && keep(),
        () => undefined,
      );
    }, restMs);
    return () => {
      live = false;
      clearTimeout(timer);
    };
    // eslint-disable-next-line react-hooks/exhaustive-deps -- the caller says when
  }, when);
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
  const { colours, film } = useStore(weighMeasured);
  const kept = useRef<WeighScene | null>(null);
  const scene = useMemo(
    () => colours && sharedScene(negative, recipe, colours, film),
    [negative, recipe, colours, film],
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
  film: WeighMeasured["film"],
): WeighScene | null {
  const families = ownFamilies(recipe, colours.families);
  if (familyKey(families) !== familyKey(colours.families)) return null;
  const byFilm = recipe.weigh.by === "film";
  if (byFilm && film?.key !== JSON.stringify(recipe.weigh.film)) return null;
  const { facts, boundaries } = colours.map;
  const full = { ...recipe, weigh: { ...recipe.weigh, families: [...families] } };
  const probe = new FamilyProbe(negative.capture, full, facts, byFilm ? film!.response : undefined);
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

/** What of families decides which colours are theirs. */
function familyKey(families: readonly Family[]): string {
  return JSON.stringify(
    families.map(({ id, hueDegrees, saturation, lightness, reach }) => [id, hueDegrees, saturation, lightness, reach]),
  );
}

/** What of a recipe decides which colours are in the picture. */
function frameKey({ ground: { angleDegrees, quarterTurns, crop, lens } }: Recipe): string {
  return JSON.stringify([angleDegrees, quarterTurns, crop, lens]);
}
