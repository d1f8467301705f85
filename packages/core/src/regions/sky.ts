import { median } from "../maths/median.ts";
import { reachedBehind } from "./behind.ts";
import { cutRegion, INSIDE, OUTSIDE } from "./find-region.ts";
import { horizonOf, type AboveHorizon } from "./horizon.ts";
import { byCells, type Part } from "./part.ts";
import { areaOf, neighbours, patchesOf, reached } from "./patch-graph.ts";
import { cellsOfPatches, patchesOfCells } from "./seeds.ts";
import { difference, FEATURES, superpixels, type PlanarPicture, type Superpixels } from "./superpixels.ts";

/** What is below this share of the height counts as ground when a sky is looked for. */
const GROUND_FROM = 0.6;
/** Texture (as a feature) of what is smooth as a sky, and of what may still be cloud. */
const SMOOTH = -0.225;
const CLOUDY = -0.19;
const EDGED = -0.13;
/**
 * What is blue in a sky: its blue-yellow feature by itself, and by how much it is bluer and lighter than the ground. In warm light nothing is
 * blue by itself, and what is so by the ground alone is a shadow where it is darker.
 */
const BLUE = { least: -0.05, bluer: 0.05, lighter: -Infinity } as const;
const BLUE_IN_WARM_LIGHT = { least: Infinity, bluer: 0.1, lighter: -0.03 } as const;
/** A sky that is not blue is lighter than the ground by so much, and yellower at most by so much; a stormy one over dark land may be warm itself. */
const PALE = { lighter: 0.1, yellower: 0.02 } as const;
const WARM = { lighter: 0.25, yellower: 0.15 } as const;
/** The light in which skies are looked for, one after the other. */
const DAYLIGHT = { blue: BLUE, pale: PALE } as const;
const LIGHTS = [DAYLIGHT, { blue: BLUE_IN_WARM_LIGHT, pale: PALE }, { blue: BLUE_IN_WARM_LIGHT, pale: WARM }] as const;
/** Red-green feature of what is green. */
const GREEN = -0.04;
/** A white that a blue sky goes over into low down is lighter than the sky by so much, and its step from patch to patch at most. */
const WHITE = { lighter: 0.02, step: 0.04 } as const;
/** The share of the height down to which the edge of a picture may be something else, such as the rest of a frame. */
const UPPERMOST = 0.012;
/** Least share of the upper edge and of the picture that a sky takes. */
const LEAST_EDGE = 0.15;
const LEAST_SHARE = 0.012;
/** Patches beside a sky, one after the other, that may hold some of it. */
const RINGS = 3;
/**
 * Most of a sky's border is a clear step of colour: the step at its softest quarter. Walls and tables are pale too, so of a pale sky more
 * is asked than of one that is blue for the share below at least.
 */
const CLEAR = { blue: 0.046, pale: 0.076 } as const;
const BLUE_SHARE = 0.2;
const SOFTEST = 0.25;
/** A sky that is blue for less than this share is lighter than anything but so much of its area; what is as light may be less so by this. */
const AS_LIGHT = { pale: 0.25, most: 0.35, less: 0.03 } as const;

/**
 * What is seen of a sky through something: its share of the picture at least, how much lower it may begin, and its step of colour from some
 * of so many patches of the sky that are nearest.
 */
const THROUGH = { share: 0.0004, lower: 0.06, step: 0.1, near: 40 } as const;

/** What reaches below this share of the height, by more than so much of it, is a wall or a table. */
const LOWEST = 0.88;
const MOST_LOW = 0.03;

/** A sky whose border is at least so many times as clear as is asked is one, and one below the least is none; between, others are asked. */
const SURE = { least: 0.5, most: 1.5 } as const;

/** A sky that may be one, the step of colour over its border, also over what is asked for, and its share of the picture. */
interface LikelySky extends Part {
  readonly step: number;
  readonly clear: number;
  readonly share: number;
}

/** What counts as blue, and whether clouds may be as warm as the sun makes them. */
interface SkyLight {
  readonly blue: { readonly least: number; readonly bluer: number; readonly lighter: number };
  readonly pale: { readonly lighter: number; readonly yellower: number };
  readonly glow: boolean;
}

/**
 * A sky: smooth, at the upper edge, and bluer than the ground or clearly lighter than it; grown by its own colours as far as the
 * least cut. Null where there is none.
 */
export function proposeSky(picture: PlanarPicture, patches: Superpixels): Part | null {
  const sky = likelySky(horizonOf(picture), patches, { ...DAYLIGHT, glow: false });
  return sky && sky.clear >= 1 ? sky : null;
}

function likelySky(aboveHorizon: AboveHorizon, patches: Superpixels, { blue, pale, glow }: SkyLight): LikelySky | null {
  const { count, width, height, labels, features, ys, sizes } = patches;
  const of = (i: number, f: number) => features[FEATURES * i + f];
  const ground = [...sizes.keys()].filter((i) => ys[i] > GROUND_FROM * height);
  const groundLight = median(ground.map((i) => of(i, 0)));
  const groundBlue = median(ground.map((i) => of(i, 2)));
  const isBlue = (i: number) =>
    of(i, 2) < Math.min(blue.least, groundBlue - blue.bluer) && of(i, 0) > groundLight + blue.lighter;
  // No sky is green: that is a leaf near the lens.
  const isGreen = (i: number) => of(i, 1) < GREEN && of(i, 2) > 0;
  const isPale = (i: number) =>
    of(i, 0) > groundLight + pale.lighter && of(i, 2) < groundBlue + pale.yellower && !isGreen(i);
  const top = new Set<number>();
  let [blueEdge, paleEdge] = [0, 0];
  const uppermost = Math.round(UPPERMOST * height) * width;
  for (let x = 0; x < width; x++) {
    const i = labels[uppermost + x];
    top.add(i);
    if (of(i, 3) > SMOOTH) continue;
    if (isBlue(i)) blueEdge++;
    else if (isPale(i)) paleEdge++;
  }
  if (blueEdge + paleEdge < LEAST_EDGE * width) return null;
  const links = neighbours(patches);
  // The edge of a cloud is rough, and far lighter than the ground.
  const isCloud = (i: number) =>
    of(i, 3) < EDGED && of(i, 0) > groundLight + 2 * PALE.lighter && (glow ? !isGreen(i) : isPale(i));
  const possible = (i: number) => isCloud(i) || (of(i, 3) < CLOUDY && (isBlue(i) || isPale(i)));
  const above = (found: Uint8Array) => patchesOfCells(patches, aboveHorizon(cellsOfPatches(patches, found)));
  const from = [...top].filter((i) => of(i, 3) < SMOOTH && (isBlue(i) || isPale(i)));
  const like = reachedBehind(patches, links, from, possible);
  // Low down a blue sky goes over into white.
  const all = patchesOf(like);
  const light = median(all.map((i) => of(i, 0)));
  const isWhite = (i: number) => of(i, 3) < CLOUDY && of(i, 0) > light + WHITE.lighter && !isGreen(i);
  const goesOver = (i: number, before: number) => isWhite(i) && difference(patches, i, before) < WHITE.step;
  const guess = above(reached(links, all, (i, before) => like[i] === 1 || goesOver(i, before)));
  const known = new Uint8Array(count);
  const bottom = labels.subarray((height - 1) * width);
  for (const i of bottom) known[i] = OUTSIDE;
  // What is smooth and looks like a sky is one.
  guess.forEach((value, i) => {
    if (value && of(i, 3) < SMOOTH && ys[i] < GROUND_FROM * height) known[i] = INSIDE;
  });
  // What looks like it below the horizon is haze or water.
  like.forEach((value, i) => {
    if (value && !guess[i]) known[i] = OUTSIDE;
  });
  // Cloud is like nothing that was guessed.
  const cut = cutRegion(patches, known, guess, 0);
  // Twigs before the sky are rough; the gaps between them are found cell by cell afterwards.
  const clear = (i: number) => cut[i] === 1 && (of(i, 3) < CLOUDY || isCloud(i));
  const sky = reachedBehind(patches, links, [...top].filter(clear), clear);
  // What is smooth with sky all around is cloud; before a low sun also what is rough, and no stronger in colour.
  const colour = (i: number) => Math.hypot(of(i, 1), of(i, 2));
  const strongest = sizes.reduce((most, _, i) => (sky[i] ? Math.max(most, colour(i)) : most), 0);
  const open = reached(links, [...new Set(bottom)].filter((i) => !sky[i]), (i) => !sky[i]); // prettier-ignore
  for (let i = 0; i < count; i++)
    if (!sky[i] && !open[i] && (of(i, 3) < CLOUDY || (glow && colour(i) <= strongest))) sky[i] = 1;
  const through = seenThrough(patches, links, sky, (i) => cut[i] === 1 && of(i, 3) < CLOUDY);
  const inside = sky.map((value, i) => value | through[i]);
  // What is rough beside the sky may be twigs with sky between them.
  let rim = patchesOf(inside);
  const unsure = new Uint8Array(count);
  for (let ring = 0; ring < RINGS; ring++) {
    rim = rim.flatMap((i) => links[i]).filter((i) => !inside[i] && !unsure[i] && cut[i] === 1);
    for (const i of rim) unsure[i] = 1;
  }
  // Whether it is one is seen without what is seen of it through something.
  const found = judged(patches, { inside: sky, unsure }, isBlue);
  return found && { ...found, inside };
}

/**
 * Parts that look like a sky and are cut off from it, such as between columns or under an arch: no darker, like some of it in colour, with a
 * clear border, and beginning hardly lower than it ends; what is mirrored in water is darker.
 */
function seenThrough(
  patches: Superpixels,
  links: readonly number[][],
  sky: Uint8Array,
  isLike: (i: number) => boolean,
): Uint8Array {
  const { width, height, features, xs, ys, sizes } = patches;
  const inSky = patchesOf(sky);
  const light = (i: number) => features[FEATURES * i];
  const usual = median(inSky.map(light));
  const ends = Math.max(...inSky.map((i) => ys[i])) + THROUGH.lower * height;
  const isUnlike = (i: number) => {
    const away = (j: number) => (xs[i] - xs[j]) ** 2 + (ys[i] - ys[j]) ** 2;
    const near = inSky.toSorted((p, q) => away(p) - away(q)).slice(0, THROUGH.near);
    return near.every((j) => difference(patches, i, j) > THROUGH.step);
  };
  const seen = Uint8Array.from(sky);
  const out = new Uint8Array(sky.length);
  for (const i of sizes.keys()) {
    if (seen[i] || !isLike(i)) continue;
    const inside = reached(links, [i], (j) => !seen[j] && isLike(j));
    const part = patchesOf(inside);
    for (const j of part) seen[j] = 1;
    if (areaOf(patches, (j) => inside[j] === 1) < THROUGH.share * width * height) continue;
    if (Math.min(...part.map((j) => ys[j])) > ends || median(part.map(light)) < usual) continue;
    if (2 * part.filter(isUnlike).length > part.length || borderStep(patches, inside, sky) < CLEAR.blue) continue;
    for (const j of part) out[j] = 1;
  }
  return out;
}

/** How likely what was found is a sky; null when it cannot be one. */
function judged(patches: Superpixels, sky: Part, isBlue: (i: number) => boolean): LikelySky | null {
  const { width, height, ys, features } = patches;
  const { inside, unsure } = sky;
  const isSky = (i: number) => inside[i] === 1;
  const area = areaOf(patches, isSky);
  if (area < LEAST_SHARE * width * height) return null;
  const low = areaOf(patches, (i) => isSky(i) && ys[i] > LOWEST * height);
  if (low > MOST_LOW * (1 - LOWEST) * width * height) return null;
  // Hardly anything is as light as an overcast sky; of white boards there are more.
  const light = (i: number) => features[FEATURES * i];
  const usual = median(patchesOf(inside).map(light));
  const isSmooth = (i: number) => features[FEATURES * i + 3] < CLOUDY;
  const others = areaOf(patches, (i) => !isSky(i) && !unsure[i] && isSmooth(i) && light(i) > usual - AS_LIGHT.less);
  const blue = areaOf(patches, (i) => isSky(i) && isBlue(i)) / area;
  if (blue < AS_LIGHT.pale && others > AS_LIGHT.most * area) return null;
  const step = borderStep(patches, inside, unsure);
  const asked = blue > BLUE_SHARE ? CLEAR.blue : CLEAR.pale;
  return { ...sky, step, clear: step / asked, share: area / (width * height) };
}

/** The step of colour over a region's border at its softest quarter. */
function borderStep(patches: Superpixels, inside: Uint8Array, unsure: Uint8Array): number {
  const { from, to, lengths } = patches;
  const steps: (readonly [number, number])[] = [];
  let whole = 0;
  from.forEach((p, e) => {
    if ((inside[p] | unsure[p]) === (inside[to[e]] | unsure[to[e]])) return;
    steps.push([difference(patches, p, to[e]), lengths[e]]);
    whole += lengths[e];
  });
  let passed = 0;
  for (const [step, length] of steps.sort(([p], [q]) => p - q)) {
    passed += length;
    if (passed >= SOFTEST * whole) return step;
  }
  return 0;
}

/** Shares of a patch by which the cuts of a picture lie aside in which a sky that is not clear is looked for once more. */
const ASIDE = [
  [0.33, 0.4],
  [-0.4, 0.33],
] as const;

/** A sky with the glow of a low sun is larger than without it, and its border is as clear, and clearer than is asked. */
const GLOW = { clear: 1.2, larger: 1.15, asClear: 0.95 } as const;

/**
 * The sky of a picture, by cells. A single cut into patches may miss a soft border by one patch that happens to reach over it: when a
 * border is not clear, two more cuts are asked, and most of them have to agree; where they differ it is not sure.
 */
function agreedSky(
  aboveHorizon: AboveHorizon,
  patches: Superpixels,
  cutsAside: () => readonly Superpixels[],
  colours: Omit<SkyLight, "glow">,
): Part | null {
  const plain = likelySky(aboveHorizon, patches, { ...colours, glow: false });
  if (!plain) return null;
  const glowing = likelySky(aboveHorizon, patches, { ...colours, glow: true });
  const glow =
    glowing !== null &&
    glowing.clear >= GLOW.clear &&
    glowing.share >= GLOW.larger * plain.share &&
    glowing.step >= GLOW.asClear * plain.step;
  const first = glow ? glowing : plain;
  if (first.clear < SURE.least) return null;
  if (first.clear >= SURE.most) return byCells(patches, first);
  const cuts = [patches, ...cutsAside()];
  const skies = cuts.flatMap((cut, i) => {
    const sky = i === 0 ? first : likelySky(aboveHorizon, cut, { ...colours, glow });
    return sky && sky.clear >= 1 ? [byCells(cut, sky)] : [];
  });
  if (2 * skies.length <= cuts.length) return null;
  const cells = skies[0].inside.length;
  const [inside, unsure] = [new Uint8Array(cells), new Uint8Array(cells)];
  for (let i = 0; i < cells; i++) {
    let [votes, doubts] = [0, 0];
    for (const sky of skies) {
      votes += sky.inside[i];
      doubts += sky.unsure[i];
    }
    inside[i] = 2 * votes > skies.length ? 1 : 0;
    unsure[i] = doubts > 0 || (votes > 0 && votes < skies.length) ? 1 : 0;
  }
  return { inside, unsure };
}

/** The sky of a picture, by cells; where nothing is blue by itself, in warm light, at last warm itself. Null where there is none. */
export function findSky(picture: PlanarPicture, patches: Superpixels): Part | null {
  const aboveHorizon = horizonOf(picture);
  let aside: readonly Superpixels[] | null = null;
  const cutsAside = () => (aside ??= ASIDE.map((shift) => superpixels(picture, shift)));
  for (const colours of LIGHTS) {
    const sky = agreedSky(aboveHorizon, patches, cutsAside, colours);
    if (sky) return sky;
  }
  return null;
}
