import { describe, expect, test } from "@jest/globals";
import { lightnessToLuminance, luminanceToLightness } from "../../../colour/lab.ts";
import { transform3 } from "../../../colour/matrix.ts";
import { xyzToOklab } from "../../../colour/oklab.ts";
import { REC709 } from "../../../colour/rgb-space.ts";
import { seeded } from "../../../kernels/__tests__/open-heap.ts";
import { defaultRecipe } from "../../../recipe/defaults.ts";
import { TONERS, type Toning } from "../schema.ts";
import { isNeutral, tonedColour, toneOf, toneStrength } from "../toning.ts";

const NONE = defaultRecipe().finish.toning;
const toned = (change: Partial<Toning>): Toning => ({ ...NONE, ...change });
const at = (lightness: number, toning: Toning) => {
  const rgb = tonedColour(lightnessToLuminance(lightness), toning);
  const xyz = transform3(REC709.toXyz, rgb);
  const [, a, b] = xyzToOklab(xyz);
  return {
    rgb,
    lightness: luminanceToLightness(xyz[1]),
    a,
    b,
    chroma: Math.hypot(a, b),
    hue: (Math.atan2(b, a) * 180) / Math.PI,
  };
};

/** Any toning whose lightness is to be kept. */
function anyToning(random: () => number): Toning {
  const pick = <T>(from: readonly T[]) => from[Math.floor(random() * from.length)];
  return toned({
    toner: pick(TONERS), strength: random(), balance: 2 * random() - 1, byDensity: random() > 0.5,
    second: pick(TONERS), secondStrength: random(), between: 2 * random() - 1, overlap: random(),
    darks: { hueDegrees: 360 * random(), chroma: 0.12 * random() }, lights: { hueDegrees: 360 * random(), chroma: 0.12 * random() },
  }); // prettier-ignore
}

describe("toning", () => {
  test("keeps lightness to within 0.5 L*, stays in what the screen shows, and keeps its hue at the border", () => {
    const random = seeded(31);
    for (let round = 0; round < 120; round++) {
      const toning = anyToning(random);
      for (const lightness of [1, 8, 30, 55, 80, 97, 99.6]) {
        const { rgb, ...shown } = at(lightness, toning);
        expect(Math.abs(shown.lightness - lightness)).toBeLessThan(0.5);
        expect(Math.min(...rgb)).toBeGreaterThanOrEqual(-1e-9);
        expect(Math.max(...rgb)).toBeLessThanOrEqual(1 + 1e-9);
        const [a, b] = toneOf(lightnessToLuminance(lightness), toning).colour;
        // What is cut off is chroma alone.
        if (shown.chroma > 2e-3 && Math.hypot(a, b) > 1e-3) {
          const away = Math.abs(((shown.hue - (Math.atan2(b, a) * 180) / Math.PI + 540) % 360) - 180);
          expect(away).toBeLessThan(1.5);
        }
      }
    }
  });
  test("is nothing while it is off, or nothing of it is said", () => {
    expect([NONE, toned({ toner: "sepia", on: false }), toned({ toner: "sepia", strength: 0 })].map(isNeutral)).toEqual([true, true, true]); // prettier-ignore
    expect(tonedColour(0.2, toned({ toner: "sepia", on: false }))).toEqual([0.2, 0.2, 0.2]);
  });
  test("darks and lights take their own tones, apart from each other where they do not overlap", () => {
    const two = toned({
      darks: { hueDegrees: 255, chroma: 0.05 },
      lights: { hueDegrees: 70, chroma: 0.05 },
      overlap: 0,
    });
    expect([at(20, two).b < -0.02, at(80, two).b > 0.02]).toEqual([true, true]);
    const shifted = toned({ ...two, between: 0.9 });
    expect(at(80, shifted).b).toBeLessThan(0);
  });
});

describe("baths", () => {
  const bath = (toner: Toning["toner"], second: Toning["second"], first = 0.3, then = 0.8) => toned({ toner, second, strength: first, secondStrength: then, byDensity: true }); // prettier-ignore
  test("sepia takes the lights first, selenium the darks", () => {
    const share = (toning: Toning, lightness: number) => at(lightness, toning).chroma / at(lightness, toned({ toner: toning.toner, strength: 1 })).chroma; // prettier-ignore
    expect(share(bath("sepia", "none"), 75)).toBeGreaterThan(1.5 * share(bath("sepia", "none"), 25));
    expect(share(bath("selenium", "none"), 25)).toBeGreaterThan(1.5 * share(bath("selenium", "none"), 75));
  });
  test("their order matters: the second finds only the silver that the first has left", () => {
    const sepiaFirst = bath("sepia", "selenium", 1, 1);
    const seleniumFirst = bath("selenium", "sepia", 1, 1);
    // Lights after sepia stay sepia; darks after selenium stay selenium.
    expect(at(75, sepiaFirst).b).toBeGreaterThan(at(75, seleniumFirst).b);
    expect(at(20, seleniumFirst).b).toBeLessThan(at(20, sepiaFirst).b);
    const left = 1 - (1 - Math.exp(-3.2 * (1 - 0.9 + 2 * 0.9 * 0.75)));
    const { colour: alone } = toneOf(lightnessToLuminance(75), bath("none", "copper", 0, 1));
    const { colour: after } = toneOf(lightnessToLuminance(75), bath("sepia", "copper", 1, 1));
    const { colour: sepia } = toneOf(lightnessToLuminance(75), bath("sepia", "none", 1, 1));
    expect(after[0] - sepia[0]).toBeCloseTo(alone[0] * left, 5);
  });
  test("gold is blue on silver and orange red on what sepia has toned", () => {
    expect(at(60, bath("none", "gold")).b).toBeLessThan(0);
    const orange = at(75, bath("sepia", "gold", 1, 1));
    expect(orange.b).toBeGreaterThan(0.02);
    expect(orange.a).toBeGreaterThan(at(75, bath("sepia", "none", 1)).a + 0.01);
  });
  test("they deepen or bleach only when they are asked to; tinted paper takes up light", () => {
    const deep = toned({ toner: "selenium", strength: 1, byDensity: true, keepLightness: false });
    expect(at(10, deep).lightness).toBeLessThan(9.2);
    expect(at(10, toned({ ...deep, keepLightness: true })).lightness).toBeCloseTo(10, 1);
    const bleached = toned({ toner: "sepia", strength: 1, byDensity: true, keepLightness: false });
    expect(at(60, bleached).lightness).toBeGreaterThan(62);
    const paper = at(100, toned({ paper: { hueDegrees: 85, chroma: 0.03 } }));
    expect(paper.chroma).toBeCloseTo(0.03, 2);
    expect(paper.lightness).toBeLessThan(100);
  });
});

test("strength is told in words that rise with it", () => {
  const even = new Array<number>(40).fill(1);
  const told = [0, 0.15, 0.45, 1].map((strength) => toneStrength(toned({ toner: "sepia", strength }), even));
  expect(told.map(({ word }) => word)).toEqual(["none", "subtle", "clear", "strong"]);
  expect(told[3].most).toBeGreaterThan(told[3].mean);
});
