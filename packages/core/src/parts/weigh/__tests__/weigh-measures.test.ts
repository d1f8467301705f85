import { describe, expect, test } from "@jest/globals";
import { seeded } from "../../../kernels/__tests__/open-heap.ts";
import { clippingCost } from "../clipping.ts";
import { edgeDamage, seenDamage } from "../edge-damage.ts";
import { innerPlaces, roughnessOf } from "../roughness.ts";
import { findSeam, VISIBLE_SEAM } from "../seams.ts";

const SIZE = 25;

/** A slanted edge between two colours with a soft passage, what `print` makes of it and what plain luminance does. */
function edge(
  left: readonly number[],
  right: readonly number[],
  print: (share: number, rgb: number[]) => number,
  noise = 0,
) {
  const random = seeded(3);
  const colour = [0, 1, 2].map(() => new Float32Array(SIZE * SIZE)) as [Float32Array, Float32Array, Float32Array];
  const [printed, plain] = [0, 1].map(() => new Float32Array(SIZE * SIZE));
  for (let i = 0; i < printed.length; i++) {
    const x = (i % SIZE) - 12 - 0.15 * (Math.floor(i / SIZE) - 12);
    const share = 1 / (1 + Math.exp(-x / 1.2));
    const rgb = left.map((v, c) => (v * (1 - share) + right[c] * share) * (1 + noise * (random() - 0.5)));
    rgb.forEach((v, c) => (colour[c][i] = v));
    printed[i] = print(share, rgb);
    plain[i] = 0.26 * rgb[0] + 0.68 * rgb[1] + 0.06 * rgb[2];
  }
  return { width: SIZE, height: SIZE, colour, print: printed, plain };
}
const RED = [0.3, 0.08, 0.05];
const BLUE = [0.1, 0.2, 0.45];

describe("edge damage", () => {
  test("none when the print is any linear weighing, noise or not", () => {
    for (const noise of [0, 0.05]) {
      const damage = edgeDamage(edge(RED, BLUE, (_, [r, g, b]) => 1.5 * r + 0.4 * g - 0.1 * b, noise))!;
      expect(damage.contour).toBeLessThan(1.5);
      expect(damage.stairPx).toBeLessThan(0.15);
    }
  });
  test("a line along the edge that is darker than both sides is told by how much", () => {
    const dip = (share: number) => 0.2 + 0.1 * share - 0.4 * share * (1 - share);
    const { contour, step } = edgeDamage(edge(RED, BLUE, dip))!;
    expect(step).toBeGreaterThan(6);
    // From L* 52 down to about 43.
    expect(contour).toBeGreaterThan(3);
    expect(contour).toBeLessThan(12);
    const bright = edgeDamage(edge(RED, BLUE, (share) => 0.2 + 0.1 * share + 0.6 * share * (1 - share)))!;
    expect(bright.contour).toBeGreaterThan(3);
  });
  test("weighing every pixel by its own colour draws a line where two moved families mix", () => {
    // Half way between the two it is neither red nor blue, and neither move reaches it.
    const own = (share: number, [r, g, b]: number[]) =>
      (0.26 * r + 0.68 * g + 0.06 * b) * 2 ** (-1.5 * Math.max(0, 1 - 2.5 * share) - 1.5 * Math.max(0, 2.5 * share - 1.5));
    expect(edgeDamage(edge(RED, BLUE, own))!.contour).toBeGreaterThan(4);
  }); // prettier-ignore
  test("where neither side is seen pure, what mixes is told by what it should be", () => {
    // All of the patch is a mixture, between the shares 0.2 and 0.8: its own ends are taken for its sides.
    const soft = (print: (share: number) => number) => {
      const share = (i: number) => 0.2 + (0.6 * (i % SIZE)) / (SIZE - 1);
      const rgb = [0, 1, 2].map((c) =>
        Float32Array.from({ length: SIZE * SIZE }, (_, i) => RED[c] * (1 - share(i)) + BLUE[c] * share(i)),
      ) as [Float32Array, Float32Array, Float32Array];
      const of = (light: (share: number) => number) => rgb[0].map((_, i) => light(share(i)));
      return { width: SIZE, height: SIZE, colour: rgb, print: of(print), plain: of((s) => 0.1 + 0.1 * s) };
    };
    const byLight = soft((share) => 0.3 - 0.2 * share).print;
    const off = edgeDamage({ ...soft((share) => 0.3 - 0.2 * share + 0.12 * share * (1 - share)), byLight })!;
    // Half way L* 55.1 against 51.8, which is 53.0 two pixels before.
    expect(off.mixing).toBeGreaterThan(1.8);
    expect(off.mixing).toBeLessThan(2.4);
    expect(seenDamage(off)).toBe("mixing");
    expect(edgeDamage({ ...soft((share) => 0.3 - 0.2 * share), byLight })!.mixing).toBe(0);
    // An edge that lies a pixel to one side is as good as it was.
    expect(edgeDamage({ ...soft((share) => 0.295 - 0.2 * share), byLight })!.mixing).toBeLessThan(0.5);
  });
  test("blocks along the edge are stair-steps", () => {
    const patch = edge(RED, BLUE, (_, [r, g, b]) => r + g + b);
    // Chroma of half the resolution: the grey of every fourth row is held for four rows.
    const blocky = patch.print.map((_, i) => patch.print[(Math.floor(i / SIZE) & ~3) * SIZE + (i % SIZE)]);
    const whole = edgeDamage({ ...patch, print: blocky })!;
    expect(whole.stairPx).toBeGreaterThan(edgeDamage(patch)!.stairPx);
  });
  test("where nothing meets there is nothing to tell", () => {
    expect(edgeDamage(edge(RED, RED, () => 0.2, 0.01))).toBeNull();
  });
});

describe("seams", () => {
  const [width, height] = [120, 80];
  const flat = (value: number) => new Float32Array(width * height).fill(value);
  const mixed = (softnessPx: number) =>
    Float32Array.from({ length: width * height }, (_, i) => {
      const share = 1 / (1 + Math.exp(-((i % width) - 60) / softnessPx));
      return 0.2 * (1 - share) + 0.4 * share;
    });
  test("a hard edge on something smooth is found where it is", () => {
    const seam = findSeam({ width, height, base: flat(0.2), own: flat(0.4), mixed: mixed(0.8) })!;
    expect(seam.stopsPerPercent).toBeGreaterThan(VISIBLE_SEAM);
    expect(Math.abs(seam.x - 0.5)).toBeLessThan(0.03);
  });
  test("a soft passage is not seen, nor is what lies in texture", () => {
    const soft = findSeam({ width, height, base: flat(0.2), own: flat(0.4), mixed: mixed(14) });
    expect(soft!.stopsPerPercent).toBeLessThan(VISIBLE_SEAM);
    const texture = Float32Array.from({ length: width * height }, (_, i) => 0.2 * (1 + 0.5 * Math.sin(i * 1.7)));
    const other = mixed(0.8);
    expect(findSeam({ width, height, base: texture, own: texture.map((v) => 2 * v), mixed: texture.map((v, i) => v * (other[i] / 0.2)) })?.stopsPerPercent ?? 0).toBeLessThan(VISIBLE_SEAM); // prettier-ignore
    expect(findSeam({ width, height, base: flat(0.2), own: flat(0.2), mixed: flat(0.2) })).toBeNull();
  });
});

test("clipping counts what the weights push over the ends, and whose it is", () => {
  const labels = Uint8Array.from([0, 0, 1, 1, 1, 255]);
  const plain = Float32Array.from([0.2, 0.2, 0.2, 0.2, 0.0001, 0.99]);
  const print = Float32Array.from([0.2, 1, 0.0001, 0.0005, 0.0001, 0.99]);
  expect(clippingCost(print, plain, labels)).toEqual({ black: 2 / 6, white: 1 / 6, family: 1 });
  expect(clippingCost(plain, plain, labels)).toEqual({ black: 0, white: 0, family: null });
});

describe("roughness inside a colour", () => {
  const random = seeded(11);
  const [texture, noise] = [0, 1].map(() => Float32Array.from({ length: SIZE * SIZE }, () => random() - 0.5));
  const reflectance = (lightness: number) => ((lightness + 16) / 116) ** 3;
  const printed = (of: (i: number) => number) => Float32Array.from(texture, (_, i) => reflectance(of(i)));
  const plain = printed((i) => 50 + 9 * texture[i]);
  test("texture that was there, stronger, darker and on a slope, is none", () => {
    const slope = (i: number) => (i % SIZE) / 4 - Math.floor(i / SIZE) / 6;
    expect(
      roughnessOf(
        printed((i) => 38 + 16 * texture[i] + slope(i)),
        plain,
        SIZE,
      ),
    ).toBeLessThan(0.01);
  });
  test("what was not there is told by its deviation", () => {
    const rough = roughnessOf(
      printed((i) => 45 + 12 * texture[i] + 8 * noise[i]),
      plain,
      SIZE,
    );
    expect(rough).toBeGreaterThan((0.93 * 8) / Math.sqrt(12));
    expect(rough).toBeLessThan((1.07 * 8) / Math.sqrt(12));
  });
  test("is looked for well inside groups, neutrals last, all over the picture", () => {
    const [width, height, reach] = [120, 80, 4];
    const labels = Uint8Array.from({ length: width * height }, (_, i) =>
      i % width < 60 ? 0 : i % width < 66 ? 1 : 255,
    );
    const places = innerPlaces({ width, height, labels, facts: [{}, {}, {}] as never, boundaries: [] }, reach);
    expect(places.length).toBeGreaterThan(9);
    for (const { x, group } of places) {
      expect(group).toBe(x < 0.5 ? 0 : 2);
      expect(Math.min(Math.abs(x * width - 60), Math.abs(x * width - 66))).toBeGreaterThan(reach - 1.1);
    }
  });
});
