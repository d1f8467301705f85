import { reflectanceToWorking, upsample } from "../../colour/upsample.ts";
import type { Vector3 } from "../../colour/matrix.ts";
import { luminanceOf } from "../../colour/rgb-space.ts";
import { smoothstep } from "../../maths/smoothstep.ts";
import {
  daylightSpectrum,
  integrate,
  LONGEST_NM,
  planckSpectrum,
  SHORTEST_NM,
  spectrumOf,
  STEP_NM,
  type Spectrum,
} from "../../colour/spectrum.ts";
import { temperatureTintToWhite } from "../../colour/temperature.ts";
import { CHROMA_NODES, chromaNode, chromaStops } from "./chroma-grid.ts";
import type { FilmChoice, FilmLight, FilmName, FilterName } from "./schema.ts";

const rise = (nm: number, at: number, width: number) => 1 / (1 + Math.exp(-(nm - at) / width));
const fall = (nm: number, at: number, width: number) => 1 - rise(nm, at, width);
const bump = (nm: number, at: number, width: number) => Math.exp(-0.5 * ((nm - at) / width) ** 2);

/** Relative sensitivities to equal energy, made up for Yelm after what emulsions of each kind have in common. */
const FILMS: Record<Exclude<FilmName, "own">, (nm: number) => number> = {
  panchromatic: (nm) => rise(nm, 385, 9) * fall(nm, 652, 9) * (1 - 0.18 * bump(nm, 508, 24)),
  orthochromatic: (nm) => rise(nm, 385, 9) * fall(nm, 582, 8) * (1 - 0.22 * bump(nm, 503, 20)),
  "blue-sensitive": (nm) => rise(nm, 385, 9) * fall(nm, 492, 9),
  "extended red": (nm) => rise(nm, 385, 9) * fall(nm, 715, 9) * (0.8 + 0.2 * rise(nm, 620, 20)),
  "near infrared": (nm) => rise(nm, 385, 9) * fall(nm, 790, 14) * (0.4 + 0.6 * rise(nm, 655, 18)),
};

/** Transmissions, made up likewise. */
const FILTERS: Record<Exclude<FilterName, "own">, (nm: number) => number> = {
  none: () => 1,
  "light yellow": (nm) => 0.93 * rise(nm, 463, 11),
  "deep yellow": (nm) => 0.92 * rise(nm, 497, 9),
  orange: (nm) => 0.92 * rise(nm, 548, 8),
  red: (nm) => 0.9 * rise(nm, 594, 7),
  green: (nm) => 0.62 * bump(nm, 532, 32),
  blue: (nm) => 0.6 * bump(nm, 445, 33),
};

const KELVIN: Record<FilmLight, number> = { daylight: 5500, shade: 7500, tungsten: 2856 };

/** Relative power of a light. */
export function lightSpectrum(light: FilmLight): Spectrum {
  if (light === "tungsten") return planckSpectrum(KELVIN.tungsten);
  return daylightSpectrum(temperatureTintToWhite({ kelvin: KELVIN[light], tint: 0 }));
}

/** Relative sensitivity of the film chosen. */
export function filmSpectrum({ film, ownFilm }: FilmChoice): Spectrum {
  return film === "own" ? curveSpectrum(ownFilm?.points ?? []) : spectrumOf(FILMS[film]);
}

/** Transmission of the filter chosen. */
export function filterSpectrum({ filter, ownFilter }: FilmChoice): Spectrum {
  return filter === "own" ? curveSpectrum(ownFilter?.points ?? [], 1) : spectrumOf(FILTERS[filter]);
}

/** Straight lines between points (nm, value); the ends go on as they are. */
function curveSpectrum(points: readonly (readonly [number, number])[], empty = 0): Spectrum {
  if (points.length === 0) return spectrumOf(() => empty);
  return spectrumOf((nm) => {
    const after = points.findIndex(([at]) => at >= nm);
    if (after === -1) return points[points.length - 1][1];
    if (after === 0) return points[0][1];
    const [x0, y0] = points[after - 1];
    const [x1, y1] = points[after];
    return y0 + ((y1 - y0) * (nm - x0)) / (x1 - x0);
  });
}

/** Stops of exposure that the filter takes from this film in this light: log2 of its filter factor. */
export function filterFactorStops(choice: FilmChoice): number {
  const film = filmSpectrum(choice);
  const light = lightSpectrum(choice.light);
  return Math.log2(integrate(film, light) / integrate(film, light, filterSpectrum(choice)));
}

/** Light on the film from a surface, 1 for the perfect white: ∫ρ·I·T·S / ∫I·T·S. */
export function filmExposure(reflectance: Spectrum, choice: FilmChoice): number {
  const reached = filmWeights(choice);
  return integrate(reflectance, reached);
}

function filmWeights(choice: FilmChoice): Spectrum {
  const light = lightSpectrum(choice.light);
  const film = filmSpectrum(choice);
  const filter = filterSpectrum(choice);
  const product = film.map((s, i) => s * filter[i] * light[i]);
  // A filter that leaves a film nothing gives a black picture, not none.
  const sum = Math.max(
    1e-12,
    product.reduce((total, v) => total + v, 0),
  );
  return product.map((v) => v / sum);
}

/** Where leaves begin to be bright in the near infrared, and how bright, times their luminance. */
const LEAF_EDGE = { nm: 700, widthNm: 9, brightness: 4 } as const;
/** Green over blue, and green over red, from which a surface begins to look like a leaf, and where it fully does. */
const LEAF_LOOK = { overBlue: [1.4, 2.2], overRed: [1, 1.12] } as const;
/** Share of what a film sees that lies beyond what colour tells, from which the guess counts, and counts fully. */
const GUESSED_FROM = { nm: 730, share: [0.15, 0.4] } as const;

/** Film response: stops against plain luminance for each node of the chroma grid, red slowest, CHROMA_NODES² values. */
export type FilmResponse = Float32Array;

/**
 * What a film sees of every chromaticity, in stops against its luminance: the chromaticity's smoothest reflectance
 * (Burns 2020) in the light chosen, through the filter, on the film. Neutrals are 0.
 *
 * Colour says nothing of what lies beyond red. For a film that sees mainly there a guess stands in: what looks like leaves is
 * bright like leaves. A film that sees a little of it takes every colour as its red goes on, since paint of a leaf's colour
 * is as likely as a leaf.
 */
export function bakeFilm(choice: FilmChoice): FilmResponse {
  const weights = filmWeights(choice);
  const guess = leafGuess(weights);
  const surfaces = (chromaSurfaces ??= fitSurfaces());
  return Float32Array.from(surfaces, ({ plain, leaf }) => {
    const seen = integrate(plain, weights);
    const seenAsLeaf = guess > 0 && leaf ? integrate(leaf, weights) : seen;
    return Math.log2(Math.max(seen + guess * (seenAsLeaf - seen), 1e-5));
  });
}

/** How much the guess counts on a film: 0 for one that sees next to nothing beyond what colour tells, 1 for infrared. */
function leafGuess(weights: Spectrum): number {
  const beyond = weights.reduce((sum, v, i) => sum + (SHORTEST_NM + STEP_NM * i >= GUESSED_FROM.nm ? v : 0), 0);
  return smoothstep(beyond, ...GUESSED_FROM.share);
}

/** Whether a choice's greys rest on a guess of what lies beyond red (“mainly”), on red going on as it is (“a little”), or on colour. */
export function beyondRed(choice: FilmChoice): "none" | "a little" | "mainly" {
  const weights = filmWeights(choice);
  if (leafGuess(weights) > 0) return "mainly";
  const seen = weights.reduce((sum, v, i) => sum + (SHORTEST_NM + STEP_NM * i >= RED_ENDS_NM ? v : 0), 0);
  return seen > 0.05 ? "a little" : "none";
}

/** From here on the eye hardly sees, and colour hardly tells. */
const RED_ENDS_NM = 690;

/** A reflectance of luminance 1, and what it is if it is a leaf; null where it does not look like one. */
interface Surface {
  readonly plain: Spectrum;
  readonly leaf: Spectrum | null;
}

let chromaSurfaces: Surface[] | undefined;

function fitSurfaces(): Surface[] {
  const spectra: Spectrum[] = [];
  // From the middle outwards, each from its neighbour's, which takes half the rounds.
  const outwards = [...Array(CHROMA_NODES).keys()].sort((p, q) => Math.abs(p - MIDDLE) - Math.abs(q - MIDDLE));
  for (const i of outwards)
    for (const j of outwards) {
      const before = spectra[j === MIDDLE ? nearer(i) * CHROMA_NODES + j : i * CHROMA_NODES + nearer(j)];
      spectra[i * CHROMA_NODES + j] = upsample([2 ** chromaStops(i), 1, 2 ** chromaStops(j)], before).reflectance;
    }
  return spectra.map(surfaceOf);
}

const MIDDLE = (CHROMA_NODES - 1) / 2;

function nearer(node: number): number {
  return node - Math.sign(node - MIDDLE);
}

function surfaceOf(reflectance: Spectrum): Surface {
  const luminance = luminanceOf(reflectanceToWorking(reflectance));
  const plain = reflectance.map((value) => value / luminance);
  return { plain, leaf: withLeafEdge(plain) };
}

function withLeafEdge(surface: Spectrum): Spectrum | null {
  const at = (nm: number) => surface[(nm - SHORTEST_NM) / STEP_NM];
  const leaf =
    smoothstep(at(550) / at(450), ...LEAF_LOOK.overBlue) * smoothstep(at(550) / at(670), ...LEAF_LOOK.overRed);
  if (leaf === 0) return null;
  return surface.map((value, i) => {
    const edge = leaf * rise(SHORTEST_NM + STEP_NM * i, LEAF_EDGE.nm, LEAF_EDGE.widthNm);
    return value + edge * Math.max(0, LEAF_EDGE.brightness - value);
  });
}

/** The stops of a film response at a chromaticity, bilinear; beyond the grid its edge. */
export function filmStops(response: FilmResponse, [red, green, blue]: Vector3): number {
  const x = chromaNode(Math.log2(red / green));
  const y = chromaNode(Math.log2(blue / green));
  const i = Math.floor(x);
  const j = Math.floor(y);
  const row = (k: number) => {
    const at = k * CHROMA_NODES + j;
    return response[at] + (y - j) * (response[at + 1] - response[at]);
  };
  return row(i) + (x - i) * (row(i + 1) - row(i));
}

/** Points of a film's or filter's curve, wavelength in nm rising and a value of 0 or more. */
export type SpectralPoints = [number, number][];

export const MOST_SPECTRAL_POINTS = 128;

/**
 * Reads a film's sensitivity or a filter's transmission from text: one line a point, wavelength in nm and value, parted by
 * comma, semicolon, tab or space; a decimal comma is understood where semicolons or tabs part. A first line of words is skipped.
 * Values are scaled to at most 1 for a film; a filter's may be percent.
 * @throws {RangeError} which says the line and what was expected.
 */
export function parseSpectralCsv(text: string, kind: "film" | "filter"): SpectralPoints {
  const points: SpectralPoints = [];
  const lines = text.replace(/^\uFEFF/, "").split(/\r\n|\n|\r/);
  lines.forEach((line, index) => {
    const trimmed = line.trim();
    if (trimmed === "" || trimmed.startsWith("#")) return;
    const numbers = splitFields(trimmed).map(Number);
    if (points.length === 0 && numbers.some(Number.isNaN) && index < 3) return;
    if (numbers.length < 2 || numbers.slice(0, 2).some((n) => !Number.isFinite(n)))
      throw new RangeError(`Expected “wavelength, value” on line ${index + 1} but received “${trimmed.slice(0, 40)}”.`);
    points.push([numbers[0], numbers[1]]);
  });
  if (points.length < 2)
    throw new RangeError(`Expected at least two lines of “wavelength, value” but received ${points.length}.`);
  points.sort(([a], [b]) => a - b);
  const [first, last] = [points[0][0], points[points.length - 1][0]];
  if (last < SHORTEST_NM || first > LONGEST_NM || first < 100 || last > 3000)
    throw new RangeError(
      `Expected wavelengths in nm about ${SHORTEST_NM} to ${LONGEST_NM} but received ${first} to ${last}.`,
    );
  points.forEach(([nm, value], i) => {
    if (value < 0) throw new RangeError(`Expected values of 0 or more but received ${value} at ${nm} nm.`);
    if (i > 0 && nm === points[i - 1][0])
      throw new RangeError(`Expected each wavelength once but received ${nm} nm twice.`);
  });
  const highest = Math.max(...points.map(([, value]) => value));
  if (!(highest > 0)) throw new RangeError("Expected a value above 0 but received only zeros.");
  if (kind === "filter" && highest > 100)
    throw new RangeError(`Expected transmissions up to 1 or 100 % but received ${highest}.`);
  const scale = kind === "film" ? 1 / highest : highest > 1 ? 0.01 : 1;
  return thin(points).map(([nm, value]) => [nm, Number((value * scale).toPrecision(6))]);
}

function splitFields(line: string): string[] {
  if (/[;\t]/.test(line)) return line.split(/[;\t]/).map((field) => field.trim().replace(",", "."));
  return line.split(line.includes(",") ? "," : /\s+/).map((field) => field.trim());
}

/** Fine tables are thinned to what the recipe holds; samples are 10 nm apart anyway. */
function thin(points: SpectralPoints): SpectralPoints {
  if (points.length <= MOST_SPECTRAL_POINTS) return points;
  const step = (points.length - 1) / (MOST_SPECTRAL_POINTS - 1);
  return Array.from({ length: MOST_SPECTRAL_POINTS }, (_, i) => points[Math.round(i * step)]);
}
