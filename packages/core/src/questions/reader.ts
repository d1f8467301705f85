import type { Size } from "../maths/rect.ts";
import type { CaptureInfo } from "../raw/capture-info.ts";
import { defaultRecipe } from "../recipe/defaults.ts";
import type { Recipe } from "../recipe/schema.ts";
import type { Engine } from "../render/engine.ts";
import type { PreparedPrint } from "../render/prepare.ts";
import type { TilePlace } from "../tiles/tiles.ts";
import { levelView, wholeView, type View } from "../tiles/view.ts";

/** A negative that can be asked about: an engine, and a way to its tiles. */
export interface PictureReader {
  readonly engine: Engine;
  readonly size: Size;
  readonly capture: CaptureInfo;
  /** Brings tiles to hand; they stay there until the next call. @throws when one cannot be had. */
  readonly fetch: (places: readonly TilePlace[]) => Promise<void>;
  /** Between steps of something long: lets what is wanted more pass. No tile is at hand afterwards. */
  readonly pause?: () => Promise<void>;
  /** Says which tiles will be asked for soon, where they have a way to go. */
  readonly expect?: (places: readonly TilePlace[]) => void;
}

/** Something that can be asked about a negative. Answers can be posted between threads. */
export type Question<Input, Answer> = (reader: PictureReader, input: Input) => Promise<Answer>;

/** What every question about a print is asked with. */
export interface AboutPrint {
  readonly recipe: Recipe;
}

export function withoutGrain(recipe: Recipe): Recipe {
  const { grain } = recipe.finish;
  return { ...recipe, finish: { ...recipe.finish, grain: { ...grain, granularity: 0 } } };
}

/** Scene light of the whole print, small. */
export async function wholeLight(
  { engine, size, fetch }: PictureReader,
  recipe: Recipe,
  longEdge: number,
): Promise<Float32Array> {
  const print = engine.prepare(recipe);
  const view = wholeView(print.frame, size, longEdge);
  await fetch(engine.tilesFor(print, view));
  return engine.renderLight(print, view).slice();
}

/** Scene light of two prints of one frame at the same pixels, of which none is scaled: fit to be divided by each other. */
export async function lightOfBoth(
  { engine, size, fetch }: PictureReader,
  [before, after]: readonly [Recipe, Recipe],
  longEdge: number,
): Promise<{ readonly view: View; readonly before: Float32Array; readonly after: Float32Array }> {
  const view = levelView(engine.prepare(before).frame, size, longEdge);
  const light = async (recipe: Recipe) => {
    const print = engine.prepare(recipe);
    await fetch(engine.tilesFor(print, view));
    return engine.renderLight(print, view);
  };
  return { view, before: await light(before), after: await light(after) };
}

/** The whole print without its finish, rendered small in some way. */
export async function wholePrint(
  { engine, size, fetch }: PictureReader,
  recipe: Recipe,
  longEdge: number,
  render: (print: PreparedPrint, view: View) => Float32Array,
): Promise<{ readonly view: View; readonly values: Float32Array }> {
  const print = engine.prepare({ ...recipe, finish: defaultRecipe().finish });
  const view = wholeView(print.frame, size, longEdge);
  await fetch(engine.tilesFor(print, view));
  return { view, values: render(print, view).slice() };
}
