import type { Vector3 } from "../../colour/matrix.ts";
import { placeToFamily } from "./family.ts";

/** Hues round the circle by where each ends, OKLab degrees, with what a dark, a pale and a pale one of little colour are called. */
const HUES: readonly (readonly [end: number, name: string, dark: string, pale: string, faint?: string])[] = [
  [12, "rose", "wine", "pink"],
  [26, "crimson", "wine", "pink"],
  [44, "warm red", "rust", "coral"],
  [62, "terracotta", "brown", "apricot"],
  [80, "amber", "umber", "sand"],
  [97, "gold", "bronze", "straw"],
  [115, "olive", "dark olive", "lemon", "cream"],
  [132, "leaf green", "moss", "pale green"],
  [160, "green", "fir green", "mint"],
  [195, "sea green", "deep teal", "pale teal"],
  [232, "teal blue", "petrol", "ice blue"],
  [262, "sky blue", "slate blue", "pale blue"],
  [288, "blue", "indigo", "pale indigo"],
  [318, "violet", "dark violet", "lilac"],
  [346, "purple", "plum", "mauve"],
  [360, "rose", "wine", "pink"],
];
const DARK = 0.46;
const PALE = 0.74;
const MUTED = 0.1;

/** A word or two for a place's colour, such as "warm red". */
export function nameColour(place: Vector3): string {
  const { hueDegrees, saturation, lightness } = placeToFamily(place);
  const [, name, dark, pale, faint = pale] = HUES.find(([end]) => hueDegrees < end) ?? HUES[0];
  if (lightness < DARK) return saturation < MUTED ? `greyish ${dark}` : dark;
  if (lightness > PALE) return saturation < MUTED ? faint : pale;
  return saturation < MUTED ? `greyish ${name}` : name;
}

/** From light to dark; as many as are alike are taken from the middle outwards. */
const RANKS: Readonly<Record<number, readonly string[]>> = {
  2: ["lighter", "darker"],
  3: ["lighter", "middle", "darker"],
  4: ["lightest", "lighter", "darker", "darkest"],
  5: ["lightest", "lighter", "middle", "darker", "darkest"],
};
const MOST_RANKS = 5;
/** Put before these where more are alike: by how much colour they have. */
const CHROMAS = ["vivid", "soft", "faint"] as const;

/** Names for several places, told apart by lightness where several would be called the same, and then by how much colour they have. */
export function nameColours(places: readonly Vector3[]): string[] {
  const names = places.map(nameColour);
  const out = [...names];
  for (const name of new Set(names)) {
    const alike = names.flatMap((other, i) => (other === name ? [i] : []));
    if (alike.length === 1) continue;
    const groups = Math.ceil(alike.length / MOST_RANKS);
    const byColour = [...alike].sort((a, b) => chromaOf(places[b]) - chromaOf(places[a]));
    const each = Math.ceil(alike.length / groups);
    for (let group = 0; group < groups; group++) {
      const members = byColour.slice(group * each, (group + 1) * each).sort((a, b) => places[b][2] - places[a][2]);
      const chroma = groups > 1 ? `${CHROMAS[group]} ` : "";
      members.forEach((i, rank) => {
        const word = members.length > 1 ? `${RANKS[members.length][rank]} ` : "";
        out[i] = `${chroma}${word}${name}`;
      });
    }
  }
  return out;
}

const chromaOf = ([a, b]: Vector3) => Math.hypot(a, b);

/** What a family may show; a hint, never a decision. */
export type FamilyHint = "skin" | "leaves" | "sky" | "earth";

/**
 * What a family of this colour and place in the picture often is.
 * @param heightShare - mean height of its pixels, 0 top to 1 bottom.
 */
export function hintOf(place: Vector3, heightShare: number): FamilyHint | null {
  const { hueDegrees: hue, saturation, lightness } = placeToFamily(place);
  if (hue > 215 && hue < 278 && heightShare < 0.42 && lightness > 0.4) return "sky";
  if (hue > 100 && hue < 150 && saturation > 0.1) return "leaves";
  if (hue > 30 && hue < 60 && saturation > 0.06 && saturation < 0.15 && lightness > 0.55) return "skin";
  if (hue > 40 && hue < 95 && lightness < 0.55) return "earth";
  return null;
}
