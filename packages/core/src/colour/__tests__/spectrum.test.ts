import { describe, expect, test } from "@jest/globals";
import { seeded } from "../../kernels/__tests__/open-heap.ts";
import { invert3, transform3, type Matrix3 } from "../matrix.ts";
import { REC709_TO_REC2020 } from "../rgb-space.ts";
import {
  COLOUR_MATCHING,
  daylightSpectrum,
  integrate,
  planckSpectrum,
  reflectanceToXyz,
  spectrumOf,
} from "../spectrum.ts";
import { isReached, reflectanceToWorking, upsample } from "../upsample.ts";
import { D65, ILLUMINANT_A, xyzToChromaticity } from "../white.ts";

const PERFECT = spectrumOf(() => 1);

describe("tables", () => {
  test("equal energy is white: the three colour-matching functions have one area (CIE 15:2018)", () => {
    const areas = COLOUR_MATCHING.map((response) => 10 * integrate(response, PERFECT));
    for (const area of areas) expect(Math.abs(area - 106.86)).toBeLessThan(0.1);
  });
  test("the daylight series at D65's chromaticity gives D65, and its published power at some wavelengths", () => {
    const light = daylightSpectrum(D65);
    const [x, y] = xyzToChromaticity(reflectanceToXyz(PERFECT, light));
    expect(Math.abs(x - 0.3127)).toBeLessThan(1e-4);
    expect(Math.abs(y - 0.329)).toBeLessThan(1e-4);
    // CIE 15:2018, table T.1: D65 at 400, 450, 500, 560, 600, 700 nm.
    const published = [82.755, 117.008, 109.354, 100, 90.006, 71.609];
    [400, 450, 500, 560, 600, 700].forEach((nm, i) =>
      expect(Math.abs(light[(nm - 380) / 10] / published[i] - 1)).toBeLessThan(0.003),
    );
  });
  test("a black body of 2856 K is illuminant A", () => {
    const [x, y] = xyzToChromaticity(reflectanceToXyz(PERFECT, planckSpectrum(2856)));
    expect(Math.abs(x - ILLUMINANT_A[0])).toBeLessThan(2e-4);
    expect(Math.abs(y - ILLUMINANT_A[1])).toBeLessThan(2e-4);
  });
});

describe("smooth reflectances", () => {
  const random = seeded(41);
  const colours = Array.from({ length: 120 }, () => {
    const [r, g, b] = [random(), random(), random()].map((v) => 0.005 + 0.9 * v * v);
    return transform3(REC709_TO_REC2020, [r, g, b]);
  });
  test("come back as the colour they were made of and are positive, over the whole of Rec.709", () => {
    for (const colour of colours) {
      const found = upsample(colour);
      expect(isReached(found)).toBe(true);
      const back = reflectanceToWorking(found.reflectance);
      back.forEach((v, c) => expect(Math.abs(v - colour[c])).toBeLessThan(1e-4));
      expect(Math.min(...found.reflectance)).toBeGreaterThan(0);
    }
  });
  test("over nearly the whole of Rec.2020 too, and a start from a neighbour leads to the same one", () => {
    let worst = 0;
    for (const [r, g, b] of [[1, 0.01, 0.01], [0.01, 1, 0.01], [0.02, 0.02, 1], [1, 1, 0.02], [0.02, 1, 1], [1, 0.02, 1]] as const) {
      const cold = upsample([r, g, b]);
      const warm = upsample([r, g, b], upsample([0.8 * r + 0.1, 0.8 * g + 0.1, 0.8 * b + 0.1]).reflectance);
      worst = Math.max(worst, cold.error, warm.error);
      warm.reflectance.forEach((v, i) => expect(Math.abs(v / cold.reflectance[i] - 1)).toBeLessThan(0.01));
    }
    expect(worst).toBeLessThan(1e-4);
  }); // prettier-ignore
  test("they belong to a chromaticity: twice the colour is twice the spectrum", () => {
    const one = upsample([0.3, 0.1, 0.05]).reflectance;
    const two = upsample([0.6, 0.2, 0.1]).reflectance;
    one.forEach((v, i) => expect(two[i] / v).toBeCloseTo(2, 6));
  });
  test("neutrals are level, and no smooth spectrum of the same colour has a smaller log slope", () => {
    for (const value of upsample([0.18, 0.18, 0.18]).reflectance) expect(value).toBeCloseTo(0.18, 5);
    const { reflectance } = upsample([0.3, 0.12, 0.05]);
    const slope = (s: Float64Array) => s.slice(1).reduce((sum, v, i) => sum + Math.log(v / s[i]) ** 2, 0);
    // Metameric black: a wave, less what of it has colour, keeps the colour; it can only make the slope steeper.
    for (const nm of [420, 500, 580, 640]) {
      const wave = spectrumOf((at) => 0.004 * Math.exp(-(((at - nm) / 25) ** 2)));
      const colour = reflectanceToWorking(wave);
      const basis = [[1, 0, 0], [0, 1, 0], [0, 0, 1]].map((c) => upsample([c[0] + 0.3, c[1] + 0.3, c[2] + 0.3]).reflectance);
      const made = basis.map((b) => reflectanceToWorking(b));
      const matrix = [0, 1, 2].flatMap((row) => made.map((m) => m[row])) as unknown as Matrix3;
      const shares = transform3(invert3(matrix), colour);
      const other = reflectance.map((v, i) => v + wave[i] - basis.reduce((sum, b, k) => sum + shares[k] * b[i], 0));
      expect(reflectanceToWorking(other)[1]).toBeCloseTo(reflectanceToWorking(reflectance)[1], 6);
      expect(slope(other)).toBeGreaterThan(slope(reflectance));
    }
  }); // prettier-ignore
});
