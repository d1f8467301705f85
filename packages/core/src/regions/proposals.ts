import { cutRegion, OUTSIDE } from "./find-region.ts";
import { byCells, type Part } from "./part.ts";
import { areaOf, neighbours, reached } from "./patch-graph.ts";
import { patchesOfCells } from "./seeds.ts";
import { findSky } from "./sky.ts";
import { difference, FEATURES, type PlanarPicture, type Superpixels } from "./superpixels.ts";

/** A region that is offered without a stroke, by the cells of its picture. */
export interface RegionProposal extends Part {
  readonly of: "sky" | "subject" | "even";
}

/** Share of the picture's patches that stand out most from which a subject is grown, and what it takes of the picture. */
const STANDING_OUT = 0.6;
const SUBJECT_SHARE = { least: 0.01, most: 0.6 } as const;

/**
 * What stands out: what is farthest, over steps of colour, from the picture's edges (the idea of background by connection to the
 * border: Wei et al. 2012), nearer the middle sooner; grown by the least cut. Null where nothing does.
 * @param sky - patches that are no subject.
 */
function proposeSubject(patches: Superpixels, sky?: Uint8Array): Part | null {
  const { count, width, height, labels, xs, ys } = patches;
  const known = new Uint8Array(count);
  const border = new Set<number>();
  for (let x = 0; x < width; x++) border.add(labels[x]).add(labels[(height - 1) * width + x]);
  for (let y = 0; y < height; y++) border.add(labels[y * width]).add(labels[y * width + width - 1]);
  sky?.forEach((value, i) => value && border.add(i));
  const away = distances(patches, [...border]);
  const standing = away.map((d, i) => {
    const [u, v] = [xs[i] / width - 0.5, ys[i] / height - 0.5];
    return d * Math.exp(-3 * (u * u + v * v));
  });
  const most = Math.max(...[...standing].sort((p, q) => p - q).slice(0, Math.ceil(0.98 * count)));
  const guess = Uint8Array.from(standing, (d) => (d > STANDING_OUT * most ? 1 : 0));
  for (const i of border) known[i] = OUTSIDE;
  const found = largest(patches, cutRegion(patches, known, guess));
  const share = areaOf(patches, (i) => found[i] === 1) / (width * height);
  if (share < SUBJECT_SHARE.least || share > SUBJECT_SHARE.most) return null;
  return { inside: found, unsure: new Uint8Array(count) };
}

/** Steps of colour that even ground has from patch to patch at most, its texture, and its least share of the picture. */
const EVEN_STEP = 0.035;
const EVEN_TEXTURE = -0.215;
const EVEN_SHARE = 0.04;
const MOST_EVEN = 3;

/** Large areas of even tone and colour, the largest first. */
function proposeEven(patches: Superpixels): Part[] {
  const { count, width, height, features, from, to, sizes } = patches;
  const owner = Int32Array.from({ length: count }, (_, i) => i);
  const find = (i: number): number => {
    while (owner[i] !== i) i = owner[i] = owner[owner[i]];
    return i;
  };
  const isSmooth = (i: number) => features[FEATURES * i + 3] < EVEN_TEXTURE;
  from.forEach((p, e) => {
    if (isSmooth(p) && isSmooth(to[e]) && difference(patches, p, to[e]) < EVEN_STEP) owner[find(p)] = find(to[e]);
  });
  const areas = new Map<number, number>();
  for (let i = 0; i < count; i++) areas.set(find(i), (areas.get(find(i)) ?? 0) + sizes[i]);
  return [...areas]
    .filter(([, area]) => area > EVEN_SHARE * width * height)
    .sort(([, p], [, q]) => q - p)
    .slice(0, MOST_EVEN)
    .map(([root]) => ({
      inside: Uint8Array.from({ length: count }, (_, i) => (find(i) === root ? 1 : 0)),
      unsure: new Uint8Array(count),
    }));
}

/**
 * Regions of a picture that stand ready: a sky where there is one, what stands out, and large even areas beside these.
 * @param patches - the picture's first cut.
 */
export function proposeRegions(picture: PlanarPicture, patches: Superpixels): RegionProposal[] {
  const sky = findSky(picture, patches);
  const { sizes } = patches;
  const overlap = (a: Uint8Array, b: Uint8Array) => {
    let [both, own] = [0, 0];
    sizes.forEach((size, i) => {
      if (a[i]) own += size;
      if (a[i] && b[i]) both += size;
    });
    return both / own;
  };
  const skyPatches = sky && patchesOfCells(patches, sky.inside);
  const subject = proposeSubject(patches, skyPatches ?? undefined);
  const taken = [skyPatches, subject?.inside].filter((one) => one != null);
  const even = proposeEven(patches).filter(({ inside }) => taken.every((one) => overlap(inside, one) < 0.5));
  return [
    ...(sky ? [{ of: "sky" as const, ...sky }] : []),
    ...(subject ? [{ of: "subject" as const, ...byCells(patches, subject) }] : []),
    ...even.map((one) => ({ of: "even" as const, ...byCells(patches, one) })),
  ];
}

/** The least sum of steps of colour from any of some patches to each (Dijkstra 1959). */
function distances(patches: Superpixels, sources: readonly number[]): Float64Array {
  const { count, from, to } = patches;
  const links: (readonly [number, number])[][] = Array.from({ length: count }, () => []);
  from.forEach((p, e) => {
    const step = difference(patches, p, to[e]);
    links[p].push([to[e], step]);
    links[to[e]].push([p, step]);
  });
  const least = new Float64Array(count).fill(Infinity);
  const done = new Uint8Array(count);
  for (const i of sources) least[i] = 0;
  for (;;) {
    let next = -1;
    for (let i = 0; i < count; i++)
      if (!done[i] && least[i] < Infinity && (next < 0 || least[i] < least[next])) next = i;
    if (next < 0) return least.map((d) => (d === Infinity ? 0 : d));
    done[next] = 1;
    for (const [other, step] of links[next]) least[other] = Math.min(least[other], least[next] + step);
  }
}

/** The connected part of a region that is largest, with those at least half as large. */
function largest(patches: Superpixels, inside: Uint8Array): Uint8Array {
  const links = neighbours(patches);
  const seen = new Uint8Array(inside.length);
  const parts: { readonly part: Uint8Array; readonly area: number }[] = [];
  inside.forEach((value, i) => {
    if (!value || seen[i]) return;
    const part = reached(links, [i], (j) => inside[j] === 1);
    let area = 0;
    part.forEach((v, j) => {
      if (v) [seen[j], area] = [1, area + patches.sizes[j]];
    });
    parts.push({ part, area });
  });
  const most = Math.max(0, ...parts.map(({ area }) => area));
  const out = new Uint8Array(inside.length);
  for (const { part, area } of parts) if (2 * area >= most) part.forEach((v, i) => (out[i] |= v));
  return out;
}
