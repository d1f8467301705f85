import type { Vector3 } from "../../colour/matrix.ts";
import { levelGain } from "../../maths/level-gain.ts";
import { smooth3 } from "../../maths/smooth3.ts";
import { familyPlace } from "./family.ts";

/** Pixels of many alike colours, taken together. */
export interface ColourCell {
  /** Mean linear working colour as shot. */
  readonly working: Vector3;
  /** Where it lies among families, as {@link familyPlace} gives it with the floor added. */
  readonly place: Vector3;
  /** Share of the picture, 0–1. */
  readonly share: number;
  /** The same without pixels at the edges of things, where colours mix. */
  readonly pureShare: number;
  /** Mean place in the picture, 0–1 from the left and from the top. */
  readonly x: number;
  readonly y: number;
}

/** A picture of linear working colour as shot. */
export interface ColourPicture {
  readonly planes: readonly [Float32Array, Float32Array, Float32Array];
  readonly width: number;
  readonly height: number;
}

/** What is darker than this share of sensor white hardly has a colour. */
export const FLOOR = 2 ** -9;
/** Edge of a cell along a/L, b/L and L. */
const CELL = { colour: 0.025, lightness: 0.07 } as const;

/**
 * The light that nearly all of a picture lies below is brought to this of white while its colours are told apart, so that families do not
 * hang on how it was exposed.
 */
const LEVEL = 0.3;
const LEVELLED = 0.9;

/** A picture's colours, taken together. */
export interface ColourCells {
  readonly cells: readonly ColourCell[];
  /** What brings the picture's light to a level of its own. */
  readonly gain: number;
  /** The cell of each pixel. */
  readonly owners: Uint16Array;
  /** How far each pixel shows one colour and no mixture, 0–1. */
  readonly pure: Float32Array;
  readonly width: number;
}

/** Change of a/L and b/L from pixel to pixel at which a pixel's colour counts half: there colours mix. */
const EDGE = 0.02;

/** How far each pixel shows one colour and no mixture, 0–1. */
function purity(places: Float32Array, width: number): Float32Array {
  const pixels = places.length / 2;
  const height = pixels / width;
  return Float32Array.from({ length: pixels }, (_, i) => {
    const x = i % width;
    const y = (i - x) / width;
    const left = i - (x > 0 ? 1 : 0);
    const right = i + (x < width - 1 ? 1 : 0);
    const above = i - (y > 0 ? width : 0);
    const below = i + (y < height - 1 ? width : 0);
    let squared = 0;
    for (let c = 0; c < 2; c++)
      squared +=
        (places[2 * right + c] - places[2 * left + c]) ** 2 + (places[2 * below + c] - places[2 * above + c]) ** 2;
    return 1 / (1 + squared / (2 * EDGE) ** 2);
  });
}

/**
 * Counts a picture's colours into cells.
 * @param floor - light added to each channel before its colour is judged, so that what is nearly black has none.
 */
export function colourCells({ planes, width, height }: ColourPicture, floor = FLOOR): ColourCells {
  // Over a few pixels: noise and texture are no colours of their own.
  const [red, green, blue] = planes.map((plane) => smooth3(plane, width, height));
  const gain = levelGain(green, LEVELLED, LEVEL);
  const placeOf = (r: number, g: number, b: number) =>
    familyPlace([Math.max(0, r) + floor, Math.max(0, g) + floor, Math.max(0, b) + floor]);
  const indices = new Map<number, number>();
  const sums: Float64Array[] = [];
  const places = new Float32Array(2 * red.length);
  const owners = Uint16Array.from(red, (_, i) => {
    const [a, b, l] = placeOf(gain * red[i], gain * green[i], gain * blue[i]);
    places[2 * i] = a;
    places[2 * i + 1] = b;
    const key =
      (Math.round(a / CELL.colour) + 128) * 65536 +
      (Math.round(b / CELL.colour) + 128) * 256 +
      Math.min(255, Math.round(l / CELL.lightness));
    let index = indices.get(key);
    if (index === undefined) {
      indices.set(key, (index = sums.length));
      sums.push(new Float64Array(7));
    }
    const sum = sums[index];
    sum[0] += red[i];
    sum[1] += green[i];
    sum[2] += blue[i];
    sum[3] += (i % width) / width;
    sum[4] += Math.floor(i / width) / height;
    sum[5]++;
    return index;
  });
  const pure = purity(places, width);
  owners.forEach((cell, i) => (sums[cell][6] += pure[i]));
  const cells = sums.map(([r, g, b, x, y, n, pures]) => ({
    working: [r / n, g / n, b / n] as const,
    place: placeOf(r / n, g / n, b / n),
    share: n / red.length,
    pureShare: pures / red.length,
    x: x / n,
    y: y / n,
  }));
  return { cells, gain, owners, pure, width };
}
