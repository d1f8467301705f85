import {
  defaultRecipe,
  QUESTIONS,
  wholeView,
  type AboutPrint,
  type PictureReader,
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

/** Everything that the page can ask a render worker: the core's questions, and the picture itself. */
export const WORKER_QUESTIONS = {
  ...QUESTIONS,

  async render(
    this: void,
    { engine, fetch }: WorkerReader,
    { recipe, view, mode, memory }: RenderInput,
  ): Promise<RenderedPiece> {
    const print = engine.prepare(mode === "plain" ? { ...defaultRecipe(), ground: recipe.ground } : recipe);
    await fetch(mode === "colour" ? engine.tilesForColour(print, view) : engine.tilesFor(print, view));
    const started = performance.now();
    const bytes = 4 * view.width * view.height;
    const out = new Uint8Array(memory.byteLength >= bytes ? memory : new ArrayBuffer(bytes));
    if (mode === "colour") engine.renderColourRgba(print, view, out);
    else engine.renderRgba(print, view, out);
    return { memory: out.buffer, computeMs: performance.now() - started };
  },

  /** Works out what every picture of a print shares, so that the first one comes sooner. */
  async warm(this: void, { engine, size, fetch }: WorkerReader, { recipe }: AboutPrint): Promise<null> {
    const print = engine.prepare(recipe);
    const view = wholeView(print.frame, size, WARM_EDGE);
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

type Asked = typeof WORKER_QUESTIONS;
export type QuestionName = keyof Asked;
export type InputOf<K extends QuestionName> = Parameters<Asked[K]>[1];
export type AnswerOf<K extends QuestionName> = Awaited<ReturnType<Asked[K]>>;
