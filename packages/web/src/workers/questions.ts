import {
  defaultRecipe,
  type QUESTIONS,
  wholeView,
  type AboutPrint,
  type PictureReader,
  type PreparedPrint,
  type Recipe,
  type Rect,
  type TilePlace,
  type View,
} from "@yelm/core";

/** Long edge of the picture that is computed only to have its ground work done, pixels. */
const WARM_EDGE = 200;

/** What is drawn: the print, the plain conversion it is compared with, or the negative's colours. */
export type PictureMode = "print" | "plain" | "colour";

/** A rendered view. */
export interface RenderedPiece {
  /** Begins with RGBA, width·height·4. */
  readonly memory: ArrayBuffer;
  /** Milliseconds of computing, without waiting for tiles. */
  readonly computeMs: number;
  /** What of the view was rendered; the rest is as it was in the picture that was named. */
  readonly part: Rect;
}

/** A reader in a worker, which can also say what may be wanted next. */
export interface WorkerReader extends PictureReader {
  readonly expect: (places: readonly TilePlace[]) => void;
}

interface RenderInput extends AboutPrint {
  readonly view: View;
  readonly mode: PictureMode;
  /** Memory to write into, handed back with the answer; it may be too small. */
  readonly memory: ArrayBuffer;
}

interface PictureInput extends AboutPrint {
  readonly view: View;
  readonly mode: PictureMode;
  /** A number for the picture, by which a later one can build on it. */
  readonly number: number;
  /** The picture that is seen at present; null when there is none. */
  readonly since: number | null;
}

/** Pictures of a reader that were asked for last, by number. */
interface Known {
  readonly print: PreparedPrint;
  readonly view: View;
  readonly mode: PictureMode;
}
const pictures = new WeakMap<PictureReader, Map<number, Known>>();
const MOST_PICTURES = 6;

/** What of a view has to be rendered anew, given the picture that is seen; notes the new one. */
function changedPart(reader: WorkerReader, { recipe, view, mode, number, since }: PictureInput): Rect {
  const print = printOf(reader, recipe, mode);
  let known = pictures.get(reader);
  if (!known) pictures.set(reader, (known = new Map<number, Known>()));
  const before = since === null ? undefined : known.get(since);
  known.set(number, { print, view, mode });
  if (known.size > MOST_PICTURES) known.delete(known.keys().next().value!);
  const isAlike = before?.mode === mode && mode !== "colour" && JSON.stringify(before.view) === JSON.stringify(view);
  if (!isAlike) return { x: view.x, y: view.y, width: view.width, height: view.height };
  return reader.engine.changedPart(before.print, print, view);
}

const printOf = ({ engine }: WorkerReader, recipe: Recipe, mode: PictureMode) =>
  engine.prepare(mode === "plain" ? { ...defaultRecipe(), ground: recipe.ground } : recipe);

/** What the page asks a render worker about the picture itself. */
export const AT_THE_PICTURE = {
  /** A view, or what of it is not as in the picture that is seen. */
  async picture(
    this: void,
    reader: WorkerReader,
    input: PictureInput & Pick<RenderInput, "memory">,
  ): Promise<RenderedPiece> {
    const started = performance.now();
    const part = changedPart(reader, input);
    const foundMs = performance.now() - started;
    if (part.width === 0 || part.height === 0) return { memory: input.memory, computeMs: foundMs, part };
    const done = await AT_THE_PICTURE.render(reader, { ...input, view: { ...input.view, ...part } });
    return { ...done, computeMs: done.computeMs + foundMs };
  },

  /** What of a view has to be rendered anew, by whichever worker. */
  changed(this: void, reader: WorkerReader, input: PictureInput): Promise<Rect> {
    return Promise.resolve(changedPart(reader, input));
  },

  async render(this: void, reader: WorkerReader, { recipe, view, mode, memory }: RenderInput): Promise<RenderedPiece> {
    const { engine, fetch } = reader;
    const print = printOf(reader, recipe, mode);
    await fetch(mode === "colour" ? engine.tilesForColour(print, view) : engine.tilesFor(print, view));
    const started = performance.now();
    const bytes = 4 * view.width * view.height;
    const out = new Uint8Array(memory.byteLength >= bytes ? memory : new ArrayBuffer(bytes));
    if (mode === "colour") engine.renderColourRgba(print, view, out);
    else engine.renderRgba(print, view, out);
    const { x, y, width, height } = view;
    return { memory: out.buffer, computeMs: performance.now() - started, part: { x, y, width, height } };
  },

  /** Works out what every picture of a print shares, so that the first one comes sooner. */
  async warm(this: void, { engine, size, fetch }: WorkerReader, { recipe }: AboutPrint): Promise<null> {
    const print = engine.prepare(recipe);
    const view = wholeView(print.frame, size, WARM_EDGE);
    await fetch(engine.tilesFor(print, view));
    engine.renderRgba(print, view);
    return null;
  },

  /** Draws a print as it will be after the first touch of something, and keeps what that shares with the next. */
  async takeUp(
    this: void,
    { engine, fetch }: WorkerReader,
    { recipe, view }: AboutPrint & { readonly view: View },
  ): Promise<null> {
    const print = engine.prepare(recipe);
    await fetch(engine.tilesFor(print, view));
    engine.renderRgba(print, view);
    return null;
  },

  /** Says that a view may be wanted next. */
  prefetch(
    this: void,
    { engine, expect }: WorkerReader,
    { recipe, view }: AboutPrint & { readonly view: View },
  ): Promise<null> {
    expect(engine.tilesFor(engine.prepare(recipe), view));
    return Promise.resolve(null);
  },
};

/** Everything that the page can ask a render worker: the picture itself, and the core's questions. */
type Asked = typeof AT_THE_PICTURE & typeof QUESTIONS;
export type QuestionName = keyof Asked;
export type InputOf<K extends QuestionName> = Parameters<Asked[K]>[1];
export type AnswerOf<K extends QuestionName> = Awaited<ReturnType<Asked[K]>>;
