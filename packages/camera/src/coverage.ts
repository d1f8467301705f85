import type { Vector3 } from "@yelm/core";
import { blur } from "./blur.ts";
import { createRandom } from "./random.ts";
import type { Scene } from "./scene.ts";

const { abs, ceil, cos, exp, floor, hypot, max, min, PI, sin, sqrt } = Math;

export const COVERAGE_KINDS = ["edge", "stalks", "hair", "leaves", "twigs", "petals"] as const;
export type CoverageKind = (typeof COVERAGE_KINDS)[number];

/** One material before another, of known coverage: truth for pixels in which colours mix. */
export interface CoverageScene extends Scene {
  /** Share of the material in front at each pixel, 0–1. */
  readonly coverage: Float32Array;
  /** Light of the two materials at each pixel, as if each covered it wholly; interleaved like the scene's. */
  readonly front: Float32Array;
  readonly back: Float32Array;
}

export interface CoverageOptions {
  readonly kind: CoverageKind;
  readonly width: number;
  readonly height: number;
  /** Linear Rec.709 of the material in front and of the one behind. */
  readonly front: Vector3;
  readonly back: Vector3;
  /** How far out of focus the front is, standard deviation in pixels. */
  readonly defocusPx: number;
  readonly seed: number;
}

/** Deviation of shading within a material, natural logarithm. */
const SHADING = 0.12;
/** Deviation of each channel by itself. */
const TINT = 0.02;

/** Draws stalks of 1–12 px, hair of 0.5–1.6 px, leaves, twigs, translucent petals or one edge before an even ground. */
export function drawCoverage({ kind, width, height, front, back, defocusPx, seed }: CoverageOptions): CoverageScene {
  const random = createRandom(seed);
  const sharp = new Float32Array(width * height);
  drawShapes(kind, sharp, width, height, random);
  const coverage = blur(sharp, width, 1, defocusPx);
  const [a, b] = [front, back].map((colour) => blur(material(colour, width, height, random), width, 3, defocusPx));
  const rgb = a.map((light, i) => {
    const share = coverage[floor(i / 3)];
    return share * light + (1 - share) * b[i];
  });
  return { width, height, rgb, coverage, front: a, back: b };
}

interface Shape {
  /** How far off its outline a place is, pixels; negative inside. */
  readonly distance: (x: number, y: number) => number;
  /** A circle within which all of it lies; everywhere unless stated. */
  readonly cx?: number;
  readonly cy?: number;
  readonly radius?: number;
}

function drawShapes(kind: CoverageKind, out: Float32Array, width: number, height: number, random: () => number): void {
  const between = (from: number, to: number) => from + (to - from) * random();
  /** Covers what lies less than 0 away, antialiased over a pixel; a shape that lies within a circle is looked for there only. */
  const cover = ({ distance, cx = 0, cy = 0, radius = Infinity }: Shape, opacity = 1) => {
    for (let y = max(0, floor(cy - radius)); y < min(height, cy + radius); y++)
      for (let x = max(0, floor(cx - radius)); x < min(width, cx + radius); x++) {
        const share = opacity * min(1, max(0, 0.5 - distance(x + 0.5, y + 0.5)));
        const i = y * width + x;
        out[i] += share * (1 - out[i]);
      }
  };
  const bent = (from: number, to: number, lean: number): Shape => {
    const [half, angle, place, bend] = [between(from, to) / 2, between(-lean, lean), between(0, width), between(-2, 2)];
    const [c, s] = [cos(angle), sin(angle)];
    const distance = (x: number, y: number) => {
      const across = (x - place) * c + (y - height / 2) * s;
      const along = ((y - height / 2) * c - (x - place) * s) / height;
      return abs(across - 12 * bend * along * along) - half;
    };
    return { distance };
  };
  const leaf = (long: readonly [number, number], slim: readonly [number, number]): Shape => {
    const [a, b, angle, cx, cy] = [between(...long), between(...slim), between(0, PI), between(0, width), between(0, height)]; // prettier-ignore
    const [c, s] = [cos(angle), sin(angle)];
    const distance = (x: number, y: number) => {
      const u = ((x - cx) * c + (y - cy) * s) / a;
      const v = ((y - cy) * c - (x - cx) * s) / b;
      return (hypot(u, v) - 1) * b;
    };
    return { distance, cx, cy, radius: max(a, b) * (1 + 0.5 / b) + 1 };
  };
  const many = ceil((width * height) / 6000);
  if (kind === "edge") {
    const angle = between(0, 2 * PI);
    const [c, s] = [cos(angle), sin(angle)];
    cover({ distance: (x, y) => (x - width / 2) * c + (y - height / 2) * s + 4 * sin((x + y) / 19) });
  } else if (kind === "stalks") for (let i = 0; i < width / 18; i++) cover(bent(1, 12, 0.5));
  else if (kind === "hair") for (let i = 0; i < width / 10; i++) cover(bent(0.5, 1.6, 0.4));
  else if (kind === "twigs") for (let i = 0; i < width / 12; i++) cover(bent(0.8, 4, 1.4));
  else if (kind === "leaves") for (let i = 0; i < 2 * many; i++) cover(leaf([5, 26], [3, 9]));
  else for (let i = 0; i < many; i++) cover(leaf([10, 30], [8, 20]), between(0.5, 0.9));
}

/** A material of one colour with light and shade of several sizes. */
function material(colour: Vector3, width: number, height: number, random: () => number): Float32Array {
  const fields = [SHADING, TINT, TINT, TINT].map((deviation) => {
    const [fine, middle, coarse] = [2, 6, 24].map((size) => valueNoise(size, width, random));
    return (x: number, y: number) => (deviation * (fine(x, y) + middle(x, y) + coarse(x, y))) / sqrt(3);
  });
  const out = new Float32Array(3 * width * height);
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) {
      const shade = fields[0](x, y);
      for (let c = 0; c < 3; c++) out[3 * (y * width + x) + c] = colour[c] * exp(shade + fields[1 + c](x, y));
    }
  return out;
}

const eased = (t: number) => t * t * (3 - 2 * t);

/** Smooth noise of deviation about 1 whose bumps are `size` pixels wide. */
function valueNoise(size: number, width: number, random: () => number): (x: number, y: number) => number {
  const columns = ceil(width / size) + 2;
  const nodes: number[] = [];
  const at = (i: number, j: number) => {
    while (nodes.length <= j * columns + i) nodes.push(3 * (random() - 0.5));
    return nodes[j * columns + i];
  };
  return (x, y) => {
    const i = floor(x / size);
    const j = floor(y / size);
    const u = eased(x / size - i);
    const v = eased(y / size - j);
    return (1 - v) * ((1 - u) * at(i, j) + u * at(i + 1, j)) + v * ((1 - u) * at(i, j + 1) + u * at(i + 1, j + 1));
  };
}
