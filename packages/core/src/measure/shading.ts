import { lightToStops } from "../colour/stops.ts";
import { boxMeans } from "../maths/box-means.ts";
import type { Size } from "../maths/rect.ts";

/** Where light comes from, as the shading says. */
export interface LightDirection {
  /** Towards the light, degrees clockwise from the right. */
  readonly angleDegrees: number;
  /** Difference between the lit side and the other one over the picture, stops. */
  readonly stops: number;
  /** How much the places agree, 0–1. */
  readonly agreement: number;
}

/** A broad light of the picture, as an ellipse in long edges. */
export interface Splash {
  readonly x: number;
  readonly y: number;
  readonly radiusX: number;
  readonly radiusY: number;
  readonly angleDegrees: number;
  /** How far it is above the picture's middle, stops. */
  readonly stops: number;
}

/** Light weaker than this, of sensor white, has no shading to read. */
const LEAST_LIGHT = 2 ** -9;
/** Half window of what counts as a plane, long edges, and passes of the box. */
const PLANE = 0.03;
const PASSES = 3;
/** Slopes beyond this, stops over a long edge, are edges of things, not shading. */
const STEEPEST = 14;

/** Scene stops smoothed to planes; width·height. */
export function planesOf(light: Float32Array, { width, height }: Size): Float32Array {
  let values = Float32Array.from(light, (v) => lightToStops(Math.max(LEAST_LIGHT, v)));
  const radius = Math.max(1, Math.round(PLANE * Math.max(width, height)));
  for (let pass = 0; pass < PASSES; pass++) values = boxMeans(values, width, height, radius);
  return values;
}

/**
 * Where the light comes from: the mean slope of the picture's planes, edges of things left out. A face, a vessel, a wall are lit from
 * the side to which they grow lighter.
 */
export function lightDirection(light: Float32Array, size: Size): LightDirection {
  const { width, height } = size;
  const planes = planesOf(light, size);
  const edge = Math.max(width, height);
  let [sumX, sumY, lengths, count] = [0, 0, 0, 0];
  for (let y = 1; y < height - 1; y++)
    for (let x = 1; x < width - 1; x++) {
      const i = y * width + x;
      const dx = ((planes[i + 1] - planes[i - 1]) / 2) * edge;
      const dy = ((planes[i + width] - planes[i - width]) / 2) * edge;
      const length = Math.hypot(dx, dy);
      if (length > STEEPEST) continue;
      [sumX, sumY, lengths, count] = [sumX + dx, sumY + dy, lengths + length, count + 1];
    }
  const [mx, my] = count > 0 ? [sumX / count, sumY / count] : [0, 0];
  return {
    angleDegrees: (Math.atan2(my, mx) * 180) / Math.PI,
    stops: Math.hypot(mx, my) * (Math.min(width, height) / edge),
    agreement: lengths > 0 ? Math.hypot(sumX, sumY) / lengths : 0,
  };
}

/** A light ends where it has fallen by so many stops from its top, and is broad from this share of the picture on. */
const FALLEN = 0.7;
const BROAD = 0.004;
const TOO_BROAD = 0.3;
const MOST_SPLASHES = 5;
/** A light has to stand this far above the picture's middle. */
const ABOVE = 0.5;

/** The picture's brightest broad lights, the brightest first: hills of its planes, each as the ellipse of its moments. */
export function splashes(light: Float32Array, size: Size): Splash[] {
  const { width, height } = size;
  const planes = planesOf(light, size);
  const middle = [...planes].sort((p, q) => p - q)[planes.length >> 1];
  const edge = Math.max(width, height);
  const taken = new Uint8Array(planes.length);
  const found: Splash[] = [];
  const order = Array.from(planes.keys()).sort((p, q) => planes[q] - planes[p]);
  for (const top of order) {
    if (found.length === MOST_SPLASHES || planes[top] < middle + ABOVE) break;
    if (taken[top]) continue;
    // The shoulder of a hill is none of its own.
    const isShoulder = [top - 1, top + 1, top - width, top + width].some((j) => taken[j] === 1);
    const hill = [top];
    const own = new Set(hill);
    for (const i of hill) {
      const x = i % width;
      for (const j of [x > 0 ? i - 1 : -1, x + 1 < width ? i + 1 : -1, i - width, i + width])
        if (j >= 0 && j < planes.length && !own.has(j) && !taken[j] && planes[j] > planes[top] - FALLEN) {
          own.add(j);
          hill.push(j);
        }
    }
    for (const i of hill) taken[i] = 1;
    const share = hill.length / planes.length;
    if (isShoulder || share < BROAD || share > TOO_BROAD) continue;
    found.push(ellipseOf(hill, width, edge, planes[top] - middle));
  }
  return found;
}

/** The ellipse with the moments of some pixels. */
function ellipseOf(pixels: readonly number[], width: number, edge: number, stops: number): Splash {
  const n = pixels.length;
  const mean = (value: (i: number) => number) => pixels.reduce((sum, i) => sum + value(i), 0) / n;
  const [cx, cy] = [mean((i) => i % width), mean((i) => Math.floor(i / width))];
  const xx = mean((i) => ((i % width) - cx) ** 2) + 1 / 12;
  const yy = mean((i) => (Math.floor(i / width) - cy) ** 2) + 1 / 12;
  const xy = mean((i) => ((i % width) - cx) * (Math.floor(i / width) - cy));
  const [half, root] = [(xx + yy) / 2, Math.hypot((xx - yy) / 2, xy)];
  // A uniform ellipse has a quarter of its squared half axis as variance.
  const radius = (variance: number) => (2 * Math.sqrt(Math.max(1e-6, variance))) / edge;
  return {
    x: (cx + 0.5) / edge,
    y: (cy + 0.5) / edge,
    radiusX: radius(half + root),
    radiusY: radius(half - root),
    angleDegrees: (Math.atan2(2 * xy, xx - yy) * 90) / Math.PI,
    stops,
  };
}

/** Agreement of the planes from which on they have a direction. */
export const LEAST_AGREEMENT = 0.12;
const SIDES = [
  "the right",
  "the lower right",
  "below",
  "the lower left",
  "the left",
  "the upper left",
  "above",
  "the upper right",
];

/** Where light comes from, in words. */
export function sideOfLight(angleDegrees: number): string {
  return SIDES[((Math.round(angleDegrees / 45) % 8) + 8) % 8];
}
