import { lightToStops } from "../colour/stops.ts";
import type { Rect, Size } from "../maths/rect.ts";
import { defaultRecipe } from "../recipe/defaults.ts";
import { sparedShares } from "../parts/shape/sharpen-stage.ts";
import { levelSize } from "../tiles/tiles.ts";
import { edgeBlur } from "../measure/edge-blur.ts";
import { OPENING_STARTS, openings, stopsBelow, type Opening, type StopsBelow } from "../parts/shape/openings.ts";
import { wholeLight, type AboutPrint, type Question } from "./reader.ts";

const OPENINGS_EDGE = 700;
/** Light that counts as none. */
const LEAST_LIGHT = 1e-6;
/** Pieces of the frame, across and down, whose edges tell the capture's blur, and their edge in pixels. */
const PIECES = [5, 4] as const;
const PIECE_PX = 320;

/** Pixels above which what is spared is looked at on a coarser level. */
const MOST_SPARED_PX = 1.5e6;

/** How much sharpening spares of each pixel, 255 being all of it. */
export interface Spared extends Size {
  readonly spared: Uint8Array;
}

export const shapeQuestions = {
  /** Ways to begin with the picture's tones. */
  openings: (async (reader, { recipe }) => {
    const measured: StopsBelow[] = [];
    for (const start of OPENING_STARTS) {
      const light = await wholeLight(reader, { ...recipe, shape: { ...recipe.shape, ...start } }, OPENINGS_EDGE);
      measured.push(stopsBelow(light.map((e) => lightToStops(Math.max(LEAST_LIGHT, e)))));
    }
    return openings(recipe.shape, measured);
  }) satisfies Question<AboutPrint, Opening[]>,

  /** What sharpening spares of a part of the frame, given in its full-size pixels. */
  spared: (async ({ engine, fetch }, { recipe, x, y, width, height }) => {
    const { shape } = recipe;
    // Light as sharpening finds it: none of what comes after but the geometry.
    const { haze, openShadows, holdHighlights, localContrast, detail, scatter } = defaultRecipe().shape;
    const sharpening = { ...shape.sharpening, amount: 0 };
    const plain = { ...shape, haze, openShadows, holdHighlights, localContrast, detail, scatter, sharpening };
    const print = engine.prepare({ ...recipe, shape: plain, light: defaultRecipe().light });
    let level = 0;
    while ((width * height) / 4 ** level > MOST_SPARED_PX) level++;
    const size = levelSize(print.frame, level);
    const [left, top] = [Math.max(0, Math.floor(x / 2 ** level)), Math.max(0, Math.floor(y / 2 ** level))];
    const view = {
      x: left,
      y: top,
      width: Math.max(1, Math.min(size.width - left, Math.ceil(width / 2 ** level))),
      height: Math.max(1, Math.min(size.height - top, Math.ceil(height / 2 ** level))),
      scale: 2 ** -level,
      level,
    };
    await fetch(engine.tilesFor(print, view));
    const light = engine.renderLight(print, view);
    const shares = sparedShares(print, level, light, view.width, view.height);
    return {
      width: view.width,
      height: view.height,
      spared: Uint8Array.from(shares, (share) => Math.round(255 * share)),
    };
  }) satisfies Question<AboutPrint & Rect, Spared>,

  /** The capture's blur by the picture's own sharpest edges, pixels; null when it has none that are clear. */
  edgeBlur: (async ({ engine, fetch }, { recipe }) => {
    const { sharpening } = recipe.shape;
    const plain = { ...recipe, shape: { ...recipe.shape, sharpening: { ...sharpening, amount: 0 } } };
    const print = engine.prepare(plain);
    const { width, height } = print.frame;
    const [w, h] = [Math.min(PIECE_PX, width), Math.min(PIECE_PX, height)];
    const pieces: { readonly light: Float32Array; readonly width: number; readonly height: number }[] = [];
    for (let j = 0; j < PIECES[1]; j++)
      for (let i = 0; i < PIECES[0]; i++) {
        const x = Math.round(((width - w) * i) / (PIECES[0] - 1));
        const y = Math.round(((height - h) * j) / (PIECES[1] - 1));
        const view = { x, y, width: w, height: h, scale: 1, level: 0 };
        await fetch(engine.tilesFor(print, view));
        pieces.push({ light: engine.renderLight(print, view).slice(), width: w, height: h });
      }
    return edgeBlur(pieces);
  }) satisfies Question<AboutPrint, number | null>,
};
