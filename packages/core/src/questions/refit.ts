import { applyAffine, composeAffine, invertAffine, type Affine } from "../maths/affine.ts";
import type { Size } from "../maths/rect.ts";
import { frameOf } from "../parts/ground/geometry.ts";
import type { Recipe } from "../recipe/schema.ts";
import { regionCells, regionOf, type RegionSeed, type RegionShape } from "../shapes/region.ts";
import { carryShape, type MaskShape } from "../shapes/shapes.ts";
import type { AboutPrint, PictureReader, Question } from "./reader.ts";
import { regionQuestions } from "./regions.ts";

/** A print whose moves and areas come from a print of another negative. */
export interface RefitWish extends AboutPrint {
  /** Size of the other negative. */
  readonly from: Size;
  /** How the other print lies in its negative. */
  readonly ground: Recipe["ground"];
  readonly moves: boolean;
  readonly areas: boolean;
}

export interface Refitted {
  readonly recipe: Recipe;
  /** Regions that were found anew in this picture. */
  readonly found: number;
  /** Regions that were not found here, and lie where they lay. */
  readonly placed: number;
}

/** What is to be asked once parts of a print have been copied to a print of another negative; null when no shapes came with them. */
export function refitWish(
  recipe: Recipe,
  groups: readonly string[],
  { ground }: Pick<Recipe, "ground">,
  from: Size,
): RefitWish | null {
  const moves = groups.includes("moves") && recipe.light.moves.length > 0;
  const areas = groups.includes("areas") && recipe.weigh.areas.length > 0;
  return moves || areas ? { recipe, from: { width: from.width, height: from.height }, ground, moves, areas } : null;
}

/** Share of what two regions cover together that both must cover, to be the same thing in two pictures. */
const ALIKE = 0.2;

/**
 * Moves and areas of another negative's print on this one: every shape where it lay, as a share of the print; found regions are found
 * anew, by what they were found from, or else lie where they lay.
 */
async function refitted(reader: PictureReader, wish: RefitWish): Promise<Refitted> {
  const { recipe, moves, areas } = wish;
  const way = wayBetween(wish.from, wish.ground, reader.size, recipe.ground);
  const counts = { found: 0, placed: 0 };
  const isSamePlace = isIdentity(way);
  const known = new Map<RegionShape, RegionShape>();
  const one = async (shape: RegionShape): Promise<RegionShape> => {
    const before = known.get(shape);
    if (before) return before;
    const placed = placedRegion(shape, way, wish.from, reader.size);
    const anew = await foundAnew(reader, recipe, placed);
    counts[anew ? "found" : "placed"]++;
    known.set(shape, anew ?? placed);
    return anew ?? placed;
  };
  const fit = async (shape: MaskShape): Promise<MaskShape> => {
    if (shape.kind === "region") return one(shape);
    if (shape.kind !== "joined") return isSamePlace ? shape : carryShape(shape, (x, y) => applyAffine(way, x, y));
    const parts = [];
    for (const part of shape.parts) parts.push({ ...part, shape: (await fit(part.shape)) as typeof part.shape });
    return { ...shape, parts };
  };
  const all = async <T extends { readonly shape: MaskShape }>(list: readonly T[]): Promise<T[]> => {
    const next: T[] = [];
    for (const item of list) next.push({ ...item, shape: await fit(item.shape) });
    return next;
  };
  const { light, weigh } = recipe;
  const next = {
    ...recipe,
    light: moves ? { ...light, moves: await all(light.moves) } : light,
    weigh: areas ? { ...weigh, areas: await all(weigh.areas) } : weigh,
  };
  return { recipe: next, ...counts };
}

/** From places of one negative to those of another, in long edges, that lie at the same share of the two prints. */
function wayBetween(from: Size, ground: Recipe["ground"], to: Size, own: Recipe["ground"]): Affine {
  const unit = (negative: Size, on: Recipe["ground"]): Affine => {
    // From shares of the print to long edges of its negative.
    const frame = frameOf(negative, on);
    const edge = Math.max(negative.width, negative.height);
    const { ax, bx, cx, ay, by, cy } = frame.toFlat;
    const [w, h] = [frame.width / edge, frame.height / edge];
    return { ax: ax * w, bx: bx * h, cx: cx / edge, ay: ay * w, by: by * h, cy: cy / edge };
  };
  return composeAffine(unit(to, own), invertAffine(unit(from, ground)));
}

const isIdentity = ({ ax, bx, cx, ay, by, cy }: Affine): boolean =>
  [ax - 1, bx, cx, ay, by - 1, cy].every((off) => Math.abs(off) < 1e-6);

/** A region's cells where they lay, on the grid of another negative. */
function placedRegion(shape: RegionShape, way: Affine, from: Size, to: Size): RegionShape {
  const cells = regionCells(shape);
  const k = Math.max(shape.width, shape.height);
  const edge = Math.max(to.width, to.height);
  const [width, height] = [to.width, to.height].map((length) => Math.max(1, Math.round((length / edge) * k)));
  const back = invertAffine(way);
  // A negative's own cells end where it ends.
  const most = Math.max(from.width, from.height);
  const [lastX, lastY] = [from.width / most, from.height / most];
  const inside = new Uint8Array(width * height);
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) {
      const [u, v] = applyAffine(back, (x + 0.5) / k, (y + 0.5) / k);
      const i = Math.floor(Math.min(lastX, Math.max(0, u)) * k);
      const j = Math.floor(Math.min(lastY, Math.max(0, v)) * k);
      inside[y * width + x] = cells[Math.min(shape.height - 1, j) * shape.width + Math.min(shape.width - 1, i)];
    }
  const carried = (seed: RegionSeed) => ({ ...seed, points: seed.points.map(([x, y]) => applyAffine(way, x, y)) });
  return regionOf({ width, height, inside }, shape.of, shape.seeds.map(carried));
}

/** The same thing in this picture, by what it was found from in the other; null when it is not here. */
async function foundAnew(reader: PictureReader, recipe: Recipe, placed: RegionShape): Promise<RegionShape | null> {
  const { of, seeds } = placed;
  const { readyRegions, findRegion } = regionQuestions;
  const isReady = of === "sky" || of === "subject" || of === "even";
  let shape: RegionShape | null = null;
  if (isReady) {
    const same = (await readyRegions(reader, { recipe })).filter((ready) => ready.shape.of === of);
    const ranked = same
      .map((ready) => ({ ...ready, alike: overlap(ready.shape, placed) }))
      .sort((p, q) => q.alike - p.alike);
    // There is one sky, wherever it ends; of things and areas it has to be the one at its place.
    const best = ranked.find(({ alike }) => of === "sky" || alike >= ALIKE);
    if (!best) return null;
    shape = best.shape;
  }
  const isOutline = of === "outline";
  if (isOutline && !(shape = await findRegion(reader, { recipe, of, seeds: seeds.slice(0, 1) }))) return null;
  for (let i = isOutline ? 1 : 0; i < seeds.length; i++) {
    const before = shape ?? undefined;
    shape = await findRegion(reader, { recipe, of: "strokes", seeds: seeds.slice(0, i + 1), before });
    if (!shape) return null;
  }
  // What was found from one click or scribble only says little when it is quite another size here.
  return shape && !isReady && !isOutline && overlap(shape, placed) < ALIKE ? null : shape;
}

/** What two regions both cover of what they cover together, 0–1. */
function overlap(one: RegionShape, other: RegionShape): number {
  const [p, q] = [regionCells(one), regionCells(other)];
  let [both, either] = [0, 0];
  for (let y = 0; y < one.height; y++)
    for (let x = 0; x < one.width; x++) {
      const i = Math.min(other.width - 1, Math.floor(((x + 0.5) / one.width) * other.width));
      const j = Math.min(other.height - 1, Math.floor(((y + 0.5) / one.height) * other.height));
      const [a, b] = [p[y * one.width + x], q[j * other.width + i]];
      both += a & b;
      either += a | b;
    }
  return either === 0 ? 0 : both / either;
}

export const refitQuestions = {
  /** Moves and areas that were copied from another negative's print, fitted to this one. */
  refitted: refitted satisfies Question<RefitWish, Refitted>,
};
