import type { Family } from "../parts/weigh/schema.ts";
import { printZone, stopsToLight } from "../colour/stops.ts";
import { fitPoints, type PointsFit, type StopsBelow } from "../parts/shape/openings.ts";
import { toneCurve } from "../parts/shape/tone-curve.ts";
import type { Shape } from "../parts/shape/schema.ts";
import { COPIED_PARTS, copyParts } from "../recipe/copied-parts.ts";
import type { Recipe } from "../recipe/schema.ts";

/** A manner that can be kept and laid on any picture. */
export interface Look {
  readonly id: string;
  readonly name: string;
  /** What it is for, in a line. */
  readonly note: string;
  /** Ids of the parts of a print that it takes along. */
  readonly parts: readonly string[];
  /** Where those parts stand. */
  readonly recipe: Recipe;
  /** Where the light of the picture that it was made on lay; null leaves the points as they are said. */
  readonly fit: PointsFit | null;
}

/** Parts that belong to one capture, or to one picture, and no look takes along unless it is asked to. */
export const NOT_IN_LOOKS: readonly string[] = [
  "exposure", "white", "lens", "calm", "clean", "crop", "areas", "spots", "moves", "contours", "mount",
]; // prettier-ignore
/** Parts that a look takes along unless it is said otherwise. */
export const USUAL_LOOK_PARTS: readonly string[] = COPIED_PARTS.map(({ id }) => id).filter(
  (id) => !NOT_IN_LOOKS.includes(id),
);

/** Zones by which a look moves a picture's middle at most from where it lies by itself. */
const MOST_ZONES = 2.5;

/** What a look finds in a picture. */
export interface LookedAt {
  /** The picture's own colour families. */
  readonly families: readonly Family[];
  /** The picture's light under a recipe's weighing and contrast in space. */
  readonly light: (recipe: Recipe) => Promise<StopsBelow>;
}

/** A print that a look was laid on. */
export interface Looked {
  readonly recipe: Recipe;
  /** What was fitted to the picture, in words. */
  readonly adapted: readonly string[];
}

/** Families farther apart than this are two colours. */
const ALIKE = 0.25;

/**
 * Lays a look on a print: its parts are taken over; families are met by their colour, not by their name; the points by the picture's own
 * light. What it does not take along stays.
 */
export async function applyLook(look: Look, print: Recipe, picture: LookedAt): Promise<Looked> {
  const adapted: string[] = [];
  let recipe = copyParts(look.recipe, print, look.parts);
  if (look.parts.includes("conversion")) {
    const found = print.weigh.families.length > 0 ? print.weigh.families : picture.families;
    const { families, words } = metFamilies(look.recipe.weigh.families, found, print.weigh.families.length > 0);
    recipe = { ...recipe, weigh: { ...recipe.weigh, families } };
    adapted.push(...words);
  }
  if (look.fit && look.parts.includes("points")) {
    const below = await picture.light(recipe);
    const { middle } = look.fit;
    // A night is not made a high key: that would show nothing but its noise.
    const plain = fitPoints(recipe.shape, below, { ...look.fit, middle: null });
    const own = printZone(toneCurve({ ...plain, midPoint: 0 })(stopsToLight(below(0.5))));
    const wanted = middle === null ? null : Math.min(own + MOST_ZONES, Math.max(own - MOST_ZONES, middle));
    recipe = { ...recipe, shape: fitPoints(recipe.shape, below, { ...look.fit, middle: wanted }) };
    adapted.push("points by this picture’s light");
    if (wanted !== middle) adapted.push("its middle kept nearer to the picture’s own");
  }
  return { recipe, adapted };
}

/** How far apart the middles of two families lie: hue and saturation, and lightness for half. */
function between(p: Family, q: Family): number {
  const place = ({ hueDegrees, saturation, lightness }: Family) => {
    const hue = (hueDegrees * Math.PI) / 180;
    return [saturation * Math.cos(hue), saturation * Math.sin(hue), lightness / 2];
  };
  const [a, b] = [place(p), place(q)];
  return Math.hypot(a[0] - b[0], a[1] - b[1], a[2] - b[2]);
}

/** The picture's families with the stops of those of a look that are nearest in colour. */
function metFamilies(
  theirs: readonly Family[],
  found: readonly Family[],
  areOwn: boolean,
): { readonly families: Family[]; readonly words: string[] } {
  const moved = theirs.filter(({ stops }) => stops !== 0);
  if (moved.length === 0)
    return { families: areOwn ? found.map((family) => ({ ...family, stops: 0 })) : [], words: [] };
  const words: string[] = [];
  const families = found.map((family) => {
    const near = theirs
      .map((other) => ({ other, distance: between(family, other) }))
      .sort((p, q) => p.distance - q.distance)[0];
    const stops = near.distance < ALIKE ? near.other.stops : 0;
    if (stops !== 0) words.push(`${near.other.name} met ${family.name}`);
    return { ...family, stops };
  });
  return { families, words };
}

/** Where a print's light lies on its scale: what a look made of it will fit to other pictures. */
export function fitOf(shape: Shape, below: StopsBelow): PointsFit {
  const curve = toneCurve(shape);
  const reflectance = (share: number) => curve(stopsToLight(below(share)));
  /** The share of the picture that prints no lighter than black, or no darker than white. */
  const beyond = (isBeyond: (share: number) => boolean, from: 0 | 1): number => {
    let inside = 0.5;
    let outside: number = from;
    if (!isBeyond(from)) return 0;
    for (let i = 0; i < 24; i++) {
      const middle = (inside + outside) / 2;
      if (isBeyond(middle)) outside = middle;
      else inside = middle;
    }
    return Math.min(0.3, Math.abs(outside - from));
  };
  return {
    beyond: [
      beyond((share) => reflectance(share) <= NEAR_BLACK, 0),
      beyond((share) => reflectance(share) >= NEAR_WHITE, 1),
    ],
    middle: Math.round(10 * printZone(reflectance(0.5))) / 10,
  };
}

/** Reflectances that are as good as the deepest black and as bare paper. */
const NEAR_BLACK = 0.0005;
const NEAR_WHITE = 0.9995;
