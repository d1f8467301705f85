import type { Toning, Toner } from "./schema.ts";
import { lightnessToLuminance, luminanceToLightness } from "../../colour/lab.ts";
import { transform3, type Vector3 } from "../../colour/matrix.ts";
import { oklabToXyz, xyzToOklab } from "../../colour/oklab.ts";
import { REC709 } from "../../colour/rgb-space.ts";
import { chromaticityToXyz, D65 } from "../../colour/white.ts";
import { smoothstep } from "../../maths/smoothstep.ts";

/** What a bath does. */
interface Bath {
  /** OKLab hue (degrees) and greatest chroma, chosen on screen to resemble a full bath. */
  readonly hueDegrees: number;
  readonly chroma: number;
  /** Which densities it takes first: +1 the lights, −1 the darks, 0 all alike. */
  readonly order: number;
  /** By what share density changes where the bath is done: selenium and iron blue deepen, bleaching baths lighten. */
  readonly density: number;
  /** Share of its colour that bare paper takes: it stains. */
  readonly stain: number;
}

const BATHS: Readonly<Record<Exclude<Toner, "none">, Bath>> = {
  sepia: { hueDegrees: 70, chroma: 0.075, order: 0.9, density: -0.12, stain: 0 },
  selenium: { hueDegrees: 345, chroma: 0.035, order: -0.9, density: 0.06, stain: 0 },
  gold: { hueDegrees: 262, chroma: 0.03, order: 0.5, density: 0.02, stain: 0 },
  copper: { hueDegrees: 42, chroma: 0.085, order: 0.2, density: -0.1, stain: 0 },
  blue: { hueDegrees: 255, chroma: 0.075, order: -0.3, density: 0.05, stain: 0 },
  coffee: { hueDegrees: 58, chroma: 0.045, order: 0, density: 0.02, stain: 0.35 },
  tea: { hueDegrees: 78, chroma: 0.04, order: 0.3, density: 0.01, stain: 0.5 },
};
/** Gold on what sepia has toned gives orange red instead of blue. */
const GOLD_ON_SEPIA = { hueDegrees: 45, chroma: 0.09 } as const;
/** Rate of a bath: after its full time this many times its e-fold is over for what it takes evenly. */
const RATE = 3.2;
const WHITE = chromaticityToXyz(D65);

/** True when a recipe's toning changes nothing. */
export function isNeutral({ on, toner, strength, second, secondStrength, darks, lights, paper }: Toning): boolean {
  const bathed = (toner !== "none" && strength > 0) || (second !== "none" && secondStrength > 0);
  return !on || (!bathed && darks.chroma === 0 && lights.chroma === 0 && paper.chroma === 0);
}

type Colour = readonly [a: number, b: number];

const colourOf = ({ hueDegrees, chroma }: { readonly hueDegrees: number; readonly chroma: number }): Colour => {
  const hue = (hueDegrees * Math.PI) / 180;
  return [chroma * Math.cos(hue), chroma * Math.sin(hue)];
};

/**
 * Print reflectance → linear Rec.709 of the toned print. Colours are laid on in OKLab by density: the baths where there is silver, in
 * their order; the tones of darks and lights; the tint of the paper. Luminance Y, and so L*, stays that of the untoned print unless
 * toners may change it; a tinted paper takes up the light of its tint. Colour that the screen cannot show is reduced at its hue, never the lightness.
 */
export function tonedColour(reflectance: number, toning: Toning): Vector3 {
  const grey: Vector3 = [reflectance, reflectance, reflectance];
  if (isNeutral(toning) || reflectance <= 0) return grey;
  const { colour, density } = toneOf(reflectance, toning);
  const wanted = Math.hypot(...colour);
  const y = paperLight(toning.paper) * (toning.keepLightness ? reflectance : reflectance ** (1 + density));
  if (wanted === 0) return [y, y, y];
  const [ua, ub] = [colour[0] / wanted, colour[1] / wanted];
  const at = (c: number) => atLuminance(y, c * ua, c * ub);
  const full = at(wanted);
  if (isShown(full)) return full;
  // The most chroma that the screen shows, found by halving: the colour changes as smoothly as the lightness does.
  let [shown, beyond] = [0, wanted];
  for (let i = 0; i < HALVINGS; i++) {
    const middle = (shown + beyond) / 2;
    if (isShown(at(middle))) shown = middle;
    else beyond = middle;
  }
  return shown > 0 ? at(shown) : [y, y, y];
}

let lastPaper: { readonly key: string; readonly light: number } | null = null;

/** Reflectance of bare tinted paper: the most that the screen shows in its colour, for a tint is light that is taken up. */
function paperLight(paper: Toning["paper"]): number {
  if (paper.chroma === 0) return 1;
  const key = `${paper.hueDegrees} ${paper.chroma}`;
  if (lastPaper?.key !== key) {
    const [a, b] = colourOf(paper);
    let [shown, beyond] = [0.5, 1];
    for (let i = 0; i < HALVINGS; i++) {
      const middle = (shown + beyond) / 2;
      if (isShown(atLuminance(middle, a, b))) shown = middle;
      else beyond = middle;
    }
    lastPaper = { key, light: shown };
  }
  return lastPaper.light;
}

/** OKLab a, b of all that tones a reflectance together, and by what share its density changes. */
export function toneOf(reflectance: number, toning: Toning): { readonly colour: Colour; readonly density: number } {
  const t = luminanceToLightness(Math.min(1, reflectance)) / 100;
  let [a, b, density] = [0, 0, 0];
  const add = ([ca, cb]: Colour, share: number) => {
    a += ca * share;
    b += cb * share;
  };
  const { toner, second, strength, secondStrength, balance, byDensity } = toning;
  const inBath = byDensity || second !== "none";
  if (toner !== "none" && !inBath) {
    const uptake = strength * silverOf(t) * ends(t, balance);
    add(colourOf(BATHS[toner]), uptake);
    density += BATHS[toner].density * uptake;
  }
  if (inBath) {
    const first = toner === "none" ? null : BATHS[toner];
    const done = first ? taken(t, strength, first.order) * ends(t, balance) : 0;
    if (first) {
      add(colourOf(first), done * Math.max(silverOf(t), first.stain));
      density += first.density * done;
    }
    if (second !== "none") {
      const bath = BATHS[second];
      const share = taken(t, secondStrength, bath.order);
      if (second === "gold" && toner === "sepia") {
        // What sepia has toned turns from its colour to orange red.
        const [from, into] = [colourOf(BATHS.sepia), colourOf(GOLD_ON_SEPIA)];
        add([into[0] - from[0], into[1] - from[1]], done * share * silverOf(t));
      }
      add(colourOf(bath), (1 - done) * share * Math.max(silverOf(t), bath.stain));
      density += bath.density * (1 - done) * share;
    }
  }
  const middle = 0.5 + 0.5 * toning.between;
  const reach = 0.08 + 0.6 * toning.overlap;
  const light = smoothstep(t, middle - reach, middle + reach);
  // Neither bare paper nor the deepest black takes a tone of its own.
  const body = Math.min(1, 4 * Math.sqrt(t) * (1 - t));
  add(colourOf(toning.darks), (1 - light) * body);
  add(colourOf(toning.lights), light * body);
  add(colourOf(toning.paper), t);
  return { colour: [a, b], density };
}

/** Share of the silver of a lightness that a bath has turned after a time, 0–1. */
function taken(t: number, time: number, order: number): number {
  const eager = order >= 0 ? 1 - order + 2 * order * t : 1 + order - 2 * order * (1 - t);
  return 1 - Math.exp(-RATE * time * eager);
}

/** Words for how strong a tone is, by its mean chroma. */
export type ToneWord = "none" | "subtle" | "clear" | "strong";

/** How strong a print's tone is: mean and greatest chroma over its tones, given as shares by lightness, dark to light. */
export function toneStrength(
  toning: Toning,
  shares: ArrayLike<number>,
): { readonly mean: number; readonly most: number; readonly word: ToneWord } {
  let [sum, weight, most] = [0, 0, 0];
  if (!isNeutral(toning))
    for (let i = 0; i < shares.length; i++) {
      const y = lightnessToLuminance((100 * (i + 0.5)) / shares.length);
      const rgb = tonedColour(y, toning);
      const [, a, b] = xyzToOklab(transform3(REC709.toXyz, rgb));
      const chroma = Math.hypot(a, b);
      sum += shares[i] * chroma;
      weight += shares[i];
      if (shares[i] > 0) most = Math.max(most, chroma);
    }
  const mean = weight > 0 ? sum / weight : 0;
  return { mean, most, word: mean < 5e-4 ? "none" : mean < 0.014 ? "subtle" : mean < 0.035 ? "clear" : "strong" };
}

const HALVINGS = 20;
const isShown = (rgb: Vector3) => Math.min(...rgb) >= 0 && Math.max(...rgb) <= 1;

/** How much silver a lightness has that can turn, 0–1. */
function silverOf(t: number): number {
  return Math.min(1, 4 * Math.sqrt(t) * (1 - t) * 0.65);
}

/** Share that a balance leaves to a lightness. */
function ends(t: number, balance: number): number {
  const darks = balance > 0 ? 1 - balance + balance * smoothstep(t, 0, 1) : 1;
  const lights = balance < 0 ? 1 + balance - balance * (1 - smoothstep(t, 0, 1)) : 1;
  return darks * lights;
}

/** The colour of given OKLab a, b whose luminance is Y, found by Newton's method on OKLab L. */
function atLuminance(y: number, a: number, b: number): Vector3 {
  let lightness = xyzToOklab([WHITE[0] * y, y, WHITE[2] * y])[0];
  for (let i = 0; i < 4; i++) {
    const here = oklabToXyz([lightness, a, b])[1];
    const there = oklabToXyz([lightness + 1e-4, a, b])[1];
    lightness += ((y - here) * 1e-4) / (there - here);
  }
  return transform3(REC709.fromXyz, oklabToXyz([lightness, a, b]));
}
