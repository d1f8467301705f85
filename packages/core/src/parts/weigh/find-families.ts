import type { Vector3 } from "../../colour/matrix.ts";
import type { Rect } from "../../maths/rect.ts";
import { clusterColours, type Cluster } from "./cluster-colours.ts";
import { FLOOR, type ColourCells } from "./colour-cells.ts";
import { colourShare, familyPlace, placeToFamily, placeToWorking } from "./family.ts";
import { mostAgreed } from "./most-agreed.ts";
import { nameColours } from "./family-names.ts";
import type { Family } from "./schema.ts";

/** How much a colour counts grows with its area to the power of this: a cut changes which colours are there less than how much there is of them. */
const AREA_COUNTS = 0.7;
/** A pure colour counts more than its area: twice at this saturation, five times at twice of it. */
const STRIKING = 0.13;
const AS_SHOT: Vector3 = [1, 1, 1];
/** A family whose own middle is coloured less than this is next to neutral: it would have hardly a pixel, and moving it would do next to nothing. */
const LEAST_COLOURED = 0.3;
/** Less than this of the picture has no say, so counted. */
const LEAST_WEIGHT = 2e-5;
/** Twelfths of a stop by which red, green and blue are shifted when a picture's colours are looked at again. */
const SHADES: readonly Vector3[] = [[0, 0, 0], [1, 0, -1], [-1, 0, 1], [0.5, 0, -0.5], [-0.5, 0, 0.5], [0, -0.5, 0], [0, 0.5, 0]]; // prettier-ignore
/** Parts of it that are looked at by themselves: edges, as shares of the picture's, and where they begin. */
const PARTS: readonly (readonly [edge: number, x: number, y: number])[] = [
  ...[[0, 0], [0.15, 0], [0, 0.15], [0.15, 0.15]].map(([x, y]) => [0.85, x, y] as const),
  ...[[0, 0], [0.3, 0], [0, 0.3], [0.3, 0.3], [0.15, 0.15]].map(([x, y]) => [0.7, x, y] as const),
]; // prettier-ignore

/**
 * Finds the families of a picture's colours. Where one family ends and the next begins is often a near thing, which a shade of white, noise
 * or a cut decides anew. The picture is therefore looked at in several shades of white and in several of its parts, each {@link clusterColours |
 * clustered} by itself; of those that see all of it, the one is taken that most of the others agree with. Pixels where colours mix have no
 * say. Deterministic. Neutrals are left out.
 * @returns at most 9 families, seldom more than 6, largest first; 1 or 2 of a picture of one hue, none when it has hardly any colour.
 */
export function findFamilies(colours: ColourCells): Family[] {
  const { gain, width, owners } = colours;
  const { points } = pointsOf(colours, AS_SHOT);
  if (points.length === 0) return [];
  const whole = { x: 0, y: 0, width, height: owners.length / width };
  const shades = SHADES.map((shade) => clustersSeen(colours, whole, shade.map((step) => 2 ** (step / 12)) as unknown as Vector3)); // prettier-ignore
  const parts = PARTS.map(([edge, x, y]) => {
    const of = (share: number, length: number) => Math.floor(share * length);
    const part = { x: of(x, width), y: of(y, whole.height), width: of(edge, width), height: of(edge, whole.height) };
    return clustersSeen(cellsOf(colours, part), part, AS_SHOT);
  });
  const isSome = (clusters: readonly Cluster[]) => clusters.length > 0;
  const clusters = mostAgreed(points, shades.filter(isSome), parts.filter(isSome)).sort((p, q) => q.weight - p.weight);
  // As shot again.
  const coloured = clusters.filter(({ place }) => colourShare(place) >= LEAST_COLOURED);
  const places = coloured.map(({ place: [a, b, l] }): Vector3 => [a, b, l / Math.cbrt(gain)]);
  const names = nameColours(places);
  return places.map((place, i) => newFamily(`f${i + 1}`, names[i], place));
}

/** Colours that have a say, in a shade of white, and of each cell which it is; -1 for those that are neutral or next to nothing. */
function pointsOf({ cells, gain }: ColourCells, shade: Vector3) {
  const points: Cluster[] = [];
  const pointOf = cells.map(({ working, x, y, pureShare }) => {
    const place = familyPlace(working.map((v, c) => Math.max(0, gain * shade[c] * v) + FLOOR) as unknown as Vector3);
    const striking = 1 + (Math.hypot(place[0], place[1]) / STRIKING) ** 2;
    const weight = pureShare * colourShare(place) * striking;
    return weight > LEAST_WEIGHT ? points.push({ place, x, y, weight }) - 1 : -1;
  });
  const sum = (power: number) => points.reduce((all, { weight }) => all + weight ** power, 0);
  const scale = sum(1) / sum(AREA_COUNTS);
  return { points: points.map((point) => ({ ...point, weight: scale * point.weight ** AREA_COUNTS })), pointOf };
}

/** The clusters of a part of a picture as they are seen in a shade of white, where they lie without it. */
function clustersSeen(colours: ColourCells, part: Rect, shade: Vector3): Cluster[] {
  const { points, pointOf } = pointsOf(colours, shade);
  const clusters = clusterColours(colours, part, points, pointOf);
  if (shade.every((step) => step === 1)) return clusters;
  return clusters.map((cluster) => ({
    ...cluster,
    place: familyPlace(placeToWorking(cluster.place).map((v, c) => Math.max(0, v) / shade[c]) as unknown as Vector3),
  }));
}

/** The cells of a picture as far as they lie in a part of it. */
function cellsOf(colours: ColourCells, { x: left, y: top, width, height }: Rect): ColourCells {
  const sums = colours.cells.map(() => new Float64Array(4));
  for (let y = 0; y < height; y++)
    for (let x = 0, i = (top + y) * colours.width + left; x < width; x++, i++) {
      const sum = sums[colours.owners[i]];
      sum[0] += x;
      sum[1] += y;
      sum[2]++;
      sum[3] += colours.pure[i];
    }
  const area = Math.max(1, width * height);
  const cells = colours.cells.map((cell, k) => {
    const [x, y, count, pure] = sums[k];
    const n = Math.max(1, count);
    return { ...cell, x: x / n / width, y: y / n / height, share: count / area, pureShare: pure / area };
  });
  return { ...colours, cells };
}

/** A fresh family about a place. */
export function newFamily(id: string, name: string, place: Vector3): Family {
  const { hueDegrees, saturation, lightness } = placeToFamily(place);
  const round = (value: number, digits: number) => Number(value.toFixed(digits));
  return {
    id,
    name,
    hueDegrees: round(hueDegrees, 1) % 360,
    saturation: Math.min(1, round(saturation, 4)),
    lightness: Math.min(2, round(lightness, 3)),
    reach: 1,
    stops: 0,
    pinned: false,
  };
}
