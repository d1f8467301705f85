import { applyAffine, invertAffine } from "../maths/affine.ts";
import { defaultRecipe } from "../recipe/defaults.ts";
import { proposeRegions } from "../regions/proposals.ts";
import { cellRefiner, type RefineCells } from "../regions/refine-cells.ts";
import { cellsOfPatches, regionOfOutline, regionOfSeeds } from "../regions/seeds.ts";
import { superpixels, type PlanarPicture, type Superpixels } from "../regions/superpixels.ts";
import type { Engine } from "../render/engine.ts";
import { REGION_EDGE, regionCells, regionOf, type RegionSeed, type RegionShape } from "../shapes/region.ts";
import { wholeView } from "../tiles/view.ts";
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
  const picture: PlanarPicture = {
    width,
    height,
    planes: [0, 1, 2].map(() => new Float32Array(width * height)) as never,
  };
  // Cells lie on the flat picture; where the frame does not reach, its edge goes on.
  const fromFlat = invertAffine(print.frame.toFlat);
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++)
      for (let k = 0; k < FINER * FINER; k++) {
        const [sx, sy] = [(k % FINER) + 0.5, Math.floor(k / FINER) + 0.5];
        const [u, v] = applyAffine(fromFlat, (x + sx / FINER) / cell, (y + sy / FINER) / cell);
        const i = Math.min(view.width - 1, Math.max(0, Math.floor(u * view.scale)));
        const j = Math.min(view.height - 1, Math.max(0, Math.floor(v * view.scale)));
        const at = y * width + x;
        picture.planes.forEach((plane, c) => (plane[at] += planes[c][j * view.width + i] / FINER ** 2));
      }
  levelLight(picture);
  const made = { lens, patches: superpixels(picture), refine: cellRefiner(picture) };
  known.set(engine, made);
  return made;
}

/** Brings a picture's light to a level of its own, so that nothing depends on how it was exposed. */
function levelLight({ planes }: PlanarPicture): void {
  const sorted = planes[1].slice().sort();
  const gain = LEVEL / Math.max(1e-6, sorted[Math.floor(LEVELLED * (sorted.length - 1))]);
  for (const plane of planes) for (let i = 0; i < plane.length; i++) plane[i] *= gain;
}

function shaped(
  { refine, patches }: Patched,
  of: RegionShape["of"],
  seeds: readonly RegionSeed[],
  inside: Uint8Array,
  unsure?: Uint8Array,
): RegionShape {
  const cells = refine(cellsOfPatches(patches, inside), unsure && cellsOfPatches(patches, unsure));
  return regionOf({ width: patches.width, height: patches.height, inside: cells }, of, seeds);
}

export const regionQuestions = {
  /** Regions that are offered without a stroke: a sky, what stands out, large even areas. */
  readyRegions: (async (reader, about) => {
    const whole = await patched(reader, about);
    const { patches } = whole;
    const n = patches.width * patches.height;
    return proposeRegions(patches).map(({ of, inside, unsure }) => ({
      shape: shaped(whole, of, [], inside, unsure),
      share: patches.sizes.reduce((sum, size, i) => sum + size * inside[i], 0) / n,
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
      const inside = regionOfOutline(patches, seeds[0]?.points ?? []);
      return inside ? shaped(whole, "outline", seeds, inside) : null;
    }
    const newest = seeds.at(-1);
    if (!newest) return null;
    const fits = before?.width === patches.width && before.height === patches.height;
    if (!before || !fits) {
      const inside = regionOfSeeds(patches, seeds);
      const isClick = seeds.length === 1 && newest.points.length === 1;
      return inside ? shaped(whole, isClick ? "click" : "strokes", seeds, inside) : null;
    }
    // What is like the newest scribble, and not like those of the other side.
    const own = seeds.map((seed) => ({ ...seed, inside: seed.inside === newest.inside }));
    const like = regionOfSeeds(patches, own);
    if (!like) return null;
    const cells = whole.refine(cellsOfPatches(patches, like));
    const inside = regionCells(before).map((cell, i) => (cells[i] ? (newest.inside ? 1 : 0) : cell));
    return inside.some((cell) => cell === 1)
      ? regionOf({ width: patches.width, height: patches.height, inside }, before.of, seeds)
      : null;
  }) satisfies Question<RegionWish, RegionShape | null>,
};
