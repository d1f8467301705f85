import {
  describeRecipe,
  formatStops,
  frameOf,
  matchPrint,
  mixRecipes,
  readTones,
  SET_MEASURES,
  toneStrength,
  type Look,
  type MatchedPart,
  type MatchPlan,
  type Negative,
  type PasteAnswer,
  type Print,
  type PrintTones,
  type Recipe,
  type SetEntry,
  type SetMeasure,
} from "@yelm/core";
import { tilesPath } from "../files/data-folder.ts";
import { changeMany } from "./change-many.ts";
import type { Context } from "./context.ts";
import { findNegative, sheetOf } from "./negatives.ts";
import { findPrint } from "./prints.ts";

/** Tones by the revision that they are of. */
const known = new Map<string, PrintTones>();
const MOST_KNOWN = 4000;
const MOST_IN_SET = 120;
/** Farther from the middle of the set than so many of its typical distances, and at least so much, is far from the others. */
const OUTLYING = 3;
const LEAST: Readonly<Record<SetMeasure, number>> = {
  middle: 0.8,
  span: 1,
  chroma: 0.012,
  granularity: 6,
  // Beyond what lies between the frames of two cameras, 4:3 and 3:2.
  ratio: 0.25,
};

interface Looked {
  readonly print: Print;
  readonly negative: Negative;
  readonly tones: PrintTones;
}

async function lookAt(context: Context, id: string): Promise<Looked> {
  const print = await findPrint(context, id);
  const negative = await findNegative(context, print.negativeId);
  let tones = known.get(print.head);
  if (!tones) {
    const tiles = tilesPath(context.folder, negative.hash);
    tones = await context.shelf.use(negative, () =>
      context.pool.run("background", "tones", { info: negative.capture, tiles, recipe: print.recipe }),
    );
    if (known.size >= MOST_KNOWN) known.clear();
    known.set(print.head, tones);
  }
  return { print, negative, tones };
}

/** The best prints of a roll side by side, and which lie far from the others. */
export async function setOf(context: Context, rollId: string): Promise<SetEntry[]> {
  const sheet = await sheetOf(context, rollId);
  // Of a large roll what is kept, or else what came first.
  const kept = sheet.filter(({ rating }) => rating === "keep");
  const of = sheet.length > MOST_IN_SET && kept.length > 1 ? kept : sheet;
  const ids = of.slice(0, MOST_IN_SET).flatMap(({ best }) => (best ? [best.id] : []));
  const looked = await Promise.all(ids.map((id) => lookAt(context, id)));
  const entries = looked.map(({ print, negative, tones }): Omit<SetEntry, "outlying"> => {
    const { shape, finish, ground } = print.recipe;
    const { width, height } = frameOf(negative, ground);
    const read = readTones(tones, shape);
    return {
      id: print.id,
      head: print.head,
      negativeId: negative.id,
      negative: negative.title,
      name: print.name,
      tones: read,
      grade: shape.grade,
      chroma: toneStrength(finish.toning, sharesAround(read.dark, read.light)).mean,
      granularity: finish.grain.granularity,
      ratio: width / height,
    };
  });
  const valueOf = (entry: Omit<SetEntry, "outlying">, measure: SetMeasure) =>
    measure === "middle" || measure === "span"
      ? entry.tones[measure]
      : measure === "ratio"
        ? Math.abs(Math.log2(entry.ratio))
        : entry[measure];
  const typical = new Map(
    SET_MEASURES.map((measure) => {
      const values = entries.map((entry) => valueOf(entry, measure));
      const middle = medianOf(values);
      return [measure, { middle, apart: medianOf(values.map((v) => Math.abs(v - middle))) }] as const;
    }),
  );
  return entries.map((entry) => ({
    ...entry,
    outlying: SET_MEASURES.filter((measure) => {
      const { middle, apart } = typical.get(measure)!;
      return Math.abs(valueOf(entry, measure) - middle) > Math.max(LEAST[measure], OUTLYING * apart);
    }),
  }));
}

/** As much of each zone between two as of any other, none elsewhere. */
function sharesAround(dark: number, light: number): number[] {
  return Array.from({ length: 20 }, (_, i) => ((i + 0.5) / 2 >= dark - 0.5 && (i + 0.5) / 2 <= light + 0.5 ? 1 : 0));
}

function medianOf(values: readonly number[]): number {
  const sorted = [...values].sort((p, q) => p - q);
  return sorted.length === 0 ? 0 : (sorted[(sorted.length - 1) >> 1] + sorted[sorted.length >> 1]) / 2;
}

/** What is asked of a match. */
export interface MatchWish {
  readonly pattern: string;
  readonly to: readonly string[];
  readonly parts: readonly MatchedPart[];
}

/** What prints would become by being matched to a pattern; nothing is changed. */
export async function planMatch(context: Context, wish: MatchWish): Promise<MatchPlan[]> {
  return (await matched(context, wish)).map(({ looked: { print, negative, tones }, recipe }) => ({
    id: print.id,
    negative: negative.title,
    name: print.name,
    before: readTones(tones, print.recipe.shape),
    after: readTones(tones, recipe.shape, recipe.ground.exposureEv - print.recipe.ground.exposureEv),
    changes: changeWords(print.recipe, recipe),
  }));
}

/** Matches prints to a pattern, all of them or none. */
export async function match(context: Context, wish: MatchWish): Promise<PasteAnswer> {
  const plans = await matched(context, wish);
  const { name } = await findPrint(context, wish.pattern);
  return changeAll(context, plans, `Matched to “${name}”`);
}

async function matched(context: Context, { pattern, to, parts }: MatchWish) {
  const [model, ...others] = await Promise.all(
    [pattern, ...to.filter((id) => id !== pattern)].map((id) => lookAt(context, id)),
  );
  const of = { recipe: model.print.recipe, tones: model.tones };
  return others.map((looked) => ({
    looked,
    recipe: matchPrint({ recipe: looked.print.recipe, tones: looked.tones }, of, parts),
  }));
}

/** Lays a look on many prints, each fitted to its own picture: all of them or none. Listeners are told how far it is. */
export async function lookOnMany(
  context: Context,
  { look, to, amount }: { readonly look: Look; readonly to: readonly string[]; readonly amount: number },
): Promise<PasteAnswer> {
  const ids = [...new Set(to)];
  let done = 0;
  const plans = await Promise.all(
    ids.map(async (id) => {
      const print = await findPrint(context, id);
      const negative = await findNegative(context, print.negativeId);
      const tiles = tilesPath(context.folder, negative.hash);
      const { recipe } = await context.shelf.use(negative, () =>
        context.pool.run("background", "looked", { info: negative.capture, tiles, recipe: print.recipe, look }),
      );
      context.broadcast.send({ kind: "look", id: look.id, done: ++done, of: ids.length });
      return { looked: { print }, recipe: mixRecipes(print.recipe, recipe, amount) };
    }),
  );
  return changeAll(context, plans, `Look: ${look.name}`);
}

function changeAll(
  context: Context,
  plans: readonly { readonly looked: { readonly print: Print }; readonly recipe: Recipe }[],
  label: string,
): Promise<PasteAnswer> {
  const byId = new Map(plans.map(({ looked: { print }, recipe }) => [print.id, { print, recipe }]));
  const heads = new Map(plans.map(({ looked: { print } }) => [print.id, print.head]));
  return changeMany(
    context,
    [...byId.keys()],
    label.slice(0, 200),
    ({ id }) => ({ recipe: byId.get(id)!.recipe, station: "Judge", groups: [] }),
    heads,
  );
}

/** What differs between two recipes, as the ticket says it. */
function changeWords(before: Recipe, after: Recipe): string[] {
  const words: string[] = [];
  const exposure = after.ground.exposureEv - before.ground.exposureEv;
  if (Math.abs(exposure) >= 0.01) words.push(`exposure ${formatStops(exposure)}`);
  const grade = after.shape.grade - before.shape.grade;
  if (Math.abs(grade) >= 0.01) words.push(`grade ${before.shape.grade.toFixed(1)} → ${after.shape.grade.toFixed(1)}`);
  const line = (recipe: Recipe, id: string) => describeRecipe(recipe).find((one) => one.id === id)?.text ?? "none";
  for (const id of ["toning", "grain"])
    if (line(before, id) !== line(after, id)) words.push(`${id}: ${line(after, id)}`);
  return words;
}
