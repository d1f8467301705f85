import { invertAffine, type Affine } from "../maths/affine.ts";
import { levelGain } from "../maths/level-gain.ts";
import type { Size } from "../maths/rect.ts";
import { defaultRecipe } from "../recipe/defaults.ts";
import type { Recipe } from "../recipe/schema.ts";
import { proposeRegions } from "../regions/proposals.ts";
import { cellRefiner, type RefineCells } from "../regions/refine-cells.ts";
import {
  cellsBeyond,
  cellsOfPatches,
  correctedRegion,
  isPennedIn,
  knownCells,
  patchesOfCells,
  regionOfOutline,
  regionOfSeeds,
} from "../regions/seeds.ts";
import { cutCells } from "../regions/cell-cut.ts";
import { superpixels, coloursOf, type PlanarPicture, type Superpixels } from "../regions/superpixels.ts";
import type { Engine } from "../render/engine.ts";
import { REGION_EDGE, regionCells, regionOf, type RegionSeed, type RegionShape } from "../shapes/region.ts";
import { wholeView, type View } from "../tiles/view.ts";
import type { AboutPrint, PictureReader, Question } from "./reader.ts";

/** A region that stands ready, and its share of the negative. */
export interface ReadyRegion {
  readonly shape: RegionShape;
  readonly share: number;
}

/** What a region is to be found from. */
export interface RegionWish extends AboutPrint {
  readonly of: "strokes" | "outline";
  /** All scribbles, the newest last; of an outline its line. */
  readonly seeds: readonly RegionSeed[];
  /** The region that the newest scribble is to correct. */
  readonly before?: RegionShape;
}

interface Patched {
  readonly lens: string;
  readonly picture: PlanarPicture;
  readonly patches: Superpixels;
  readonly refine: RefineCells;
}

/** Pixels to a cell, across and down, whose mean it is: so that it hardly matters how the picture was scaled. */
const FINER = 3;
/** Light that nearly all of a picture lies below is brought to this, of white. */
const LEVEL = 0.55;
const LEVELLED = 0.95;

const known = new WeakMap<Engine, Patched>();

/** The whole flat picture in patches of one colour; kept as long as the engine, until the lens is corrected otherwise. */
async function patched({ engine, size, fetch }: PictureReader, { recipe }: AboutPrint): Promise<Patched> {
  const lens = JSON.stringify(recipe.ground.lens);
  const found = known.get(engine);
  if (found?.lens === lens) return found;
  const plain = defaultRecipe();
  const print = engine.prepare({ ...plain, ground: { ...plain.ground, lens: recipe.ground.lens } });
  const view = wholeView(print.frame, size, FINER * REGION_EDGE);
  await fetch(engine.tilesForColour(print, view));
  const planes = engine.renderWorking(print, view);
  const cell = REGION_EDGE / Math.max(size.width, size.height);
  const [width, height] = [size.width, size.height].map((length) => Math.max(1, Math.round(length * cell)));
  const picture = cellsOfView({ width, height }, cell, planes, view, invertAffine(print.frame.toFlat));
  levelLight(picture);
  const made = {
    lens,
    picture,
    patches: superpixels(picture),
    refine: cellRefiner(picture, engine.boxMeans.bind(engine)),
  };
  known.set(engine, made);
  return made;
}

/**
 * A picture of cells, each the mean of pixels of a view. Cells lie on the flat picture; where the frame does not reach, its edge goes on.
 * @param cell - cells to a full-size pixel.
 */
function cellsOfView(
  { width, height }: Size,
  cell: number,
  [red, green, blue]: PlanarPicture["planes"],
  view: View,
  { ax, bx, cx, ay, by, cy }: Affine,
): PlanarPicture {
  const planes = [0, 1, 2].map(() => new Float32Array(width * height)) as unknown as [Float32Array, Float32Array, Float32Array]; // prettier-ignore
  const [toRed, toGreen, toBlue] = planes;
  const { scale, width: across, height: down } = view;
  const share = 1 / FINER ** 2;
  for (let y = 0, at = 0; y < height; y++)
    for (let x = 0; x < width; x++, at++) {
      let r = 0;
      let g = 0;
      let b = 0;
      for (let dy = 0; dy < FINER; dy++)
        for (let dx = 0; dx < FINER; dx++) {
          const u = (x + (dx + 0.5) / FINER) / cell;
          const v = (y + (dy + 0.5) / FINER) / cell;
          const i = Math.min(across - 1, Math.max(0, Math.floor((ax * u + bx * v + cx) * scale)));
          const j = Math.min(down - 1, Math.max(0, Math.floor((ay * u + by * v + cy) * scale)));
          const from = j * across + i;
          r += red[from];
          g += green[from];
          b += blue[from];
        }
      toRed[at] = r * share;
      toGreen[at] = g * share;
      toBlue[at] = b * share;
    }
  return { width, height, planes };
}

/** Brings a picture's light to a level of its own, so that nothing depends on how it was exposed. */
function levelLight({ planes }: PlanarPicture): void {
  const gain = levelGain(planes[1], LEVELLED, LEVEL);
  for (const plane of planes) for (let i = 0; i < plane.length; i++) plane[i] *= gain;
}

/** From this share of the picture on a region is seen between leaves and stalks, and its border is fitted to their colours. */
const LARGE = 0.08;

/**
 * A region that a hand asked for, its border moved to where the picture's colours part.
 * @param rough - its cells at first.
 * @param known - what the hand said of each cell.
 */
function askedFor({ refine, picture }: Patched, rough: Uint8Array, known: Uint8Array): Uint8Array {
  return areaShare(rough) < LARGE ? cutCells(coloursOf(picture), picture, rough, known) : refine(rough);
}

const areaShare = (cells: Uint8Array) => cells.reduce((sum, cell) => sum + cell, 0) / cells.length;

/** Null when no cell is inside. */
function shaped(
  { patches: { width, height } }: Patched,
  of: RegionShape["of"],
  seeds: readonly RegionSeed[],
  inside: Uint8Array,
) {
  return inside.includes(1) ? regionOf({ width, height, inside }, of, seeds) : null;
}

/** Whether a patch's middle lies in the frame of a print. */
function seenPatches({ width, height, xs, ys }: Superpixels, { engine, size }: PictureReader, recipe: Recipe) {
  const { frame } = engine.prepare(recipe);
  const { ax, bx, cx, ay, by, cy } = invertAffine(frame.toFlat);
  const pixels = Math.max(size.width, size.height) / Math.max(width, height);
  return (patch: number): boolean => {
    const [u, v] = [pixels * (xs[patch] + 0.5), pixels * (ys[patch] + 0.5)];
    const [x, y] = [ax * u + bx * v + cx, ay * u + by * v + cy];
    return x >= 0 && y >= 0 && x < frame.width && y < frame.height;
  };
}

export const regionQuestions = {
  /** Regions that are offered without a stroke: a sky, what stands out, large even areas. */
  readyRegions: (async (reader, about) => {
    const whole = await patched(reader, about);
    const { width, height } = whole.patches;
    return proposeRegions(whole.picture, whole.patches).map(({ of, inside, unsure }) => ({
      shape: regionOf({ width, height, inside: whole.refine(inside, unsure) }, of, []),
      share: areaShare(inside),
    }));
  }) satisfies Question<AboutPrint, ReadyRegion[]>,

  /**
   * The region that scribbles or a rough outline ask for; null when they leave nothing. A scribble on a region that is there adds
   * what it is like, or takes it away, and leaves the rest as it is.
   */
  findRegion: (async (reader, { of, seeds, recipe, before }) => {
    const whole = await patched(reader, { recipe });
    const { patches } = whole;
    if (of === "outline") {
      const line = seeds[0]?.points ?? [];
      const inside = regionOfOutline(patches, line);
      return (
        inside &&
        shaped(whole, "outline", seeds, askedFor(whole, cellsOfPatches(patches, inside), cellsBeyond(patches, line)))
      );
    }
    const newest = seeds.at(-1);
    if (!newest) return null;
    const fits = before?.width === patches.width && before.height === patches.height;
    const isSeen = seenPatches(patches, reader, recipe);
    // Who draws around a thing says more than what is wrong with it.
    const penned =
      !newest.inside &&
      before !== undefined &&
      ["strokes", "click"].includes(before.of) &&
      isPennedIn(patches, seeds, isSeen);
    if (!before || !fits || penned) {
      const inside = regionOfSeeds(patches, seeds, isSeen);
      const isClick = seeds.length === 1 && newest.points.length === 1;
      const cells = inside && askedFor(whole, cellsOfPatches(patches, inside), knownCells(patches, seeds));
      return cells && shaped(whole, isClick ? "click" : "strokes", seeds, cells);
    }
    const cellsBefore = regionCells(before);
    // An outline's line is no scribble.
    const scribbles = before.of === "outline" ? seeds.slice(1) : seeds;
    const corrected = correctedRegion(patches, patchesOfCells(patches, cellsBefore), scribbles);
    if (!corrected) return before;
    // Where nothing changed the cells stay as they were.
    const changed = (cells: Uint8Array) =>
      cells.map((cell, i) => (corrected.touched[patches.labels[i]] ? cell : cellsBefore[i]));
    const rough = changed(cellsOfPatches(patches, corrected.inside));
    return shaped(whole, before.of, seeds, changed(askedFor(whole, rough, knownCells(patches, scribbles))));
  }) satisfies Question<RegionWish, RegionShape | null>,
};
