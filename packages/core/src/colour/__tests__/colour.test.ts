import { describe, expect, test } from "@jest/globals";
import { adaptWhite } from "../adaptation.ts";
import { iccProfile } from "../icc.ts";
import { lightnessToLuminance, luminanceToLightness } from "../lab.ts";
import { invert3, multiply3, transform3, type Vector3 } from "../matrix.ts";
import { oklabToXyz, workingToOklab, xyzToOklab } from "../oklab.ts";
import { REC2020, REC2020_TO_REC709, REC709 } from "../rgb-space.ts";
import { GAMMA22_TRANSFER, LIGHTNESS_TRANSFER, SRGB_TRANSFER } from "../transfer.ts";
import { chromaticityToXyz, correlatedTemperature, D50, D65, ILLUMINANT_A } from "../white.ts";

const close = (actual: readonly number[], expected: readonly number[], digits: number) =>
  actual.forEach((value, i) => expect(value).toBeCloseTo(expected[i], digits));

describe("RGB spaces", () => {
  test("Rec.709 to XYZ is the published matrix (IEC 61966-2-1)", () => {
    close(REC709.toXyz, [0.4124, 0.3576, 0.1805, 0.2126, 0.7152, 0.0722, 0.0193, 0.1192, 0.9505], 3);
  });
  test("Rec.2020 luminance is that of BT.2020", () => {
    close(REC2020.luminance, [0.2627, 0.678, 0.0593], 4);
  });
  test("Rec.2020 to Rec.709 is that of BT.2087", () => {
    close(REC2020_TO_REC709, [1.6605, -0.5876, -0.0728, -0.1246, 1.1329, -0.0083, -0.0182, -0.1006, 1.1187], 3);
  });
  test("a matrix times its inverse is the identity", () => {
    close(multiply3(REC2020.toXyz, invert3(REC2020.toXyz)), [1, 0, 0, 0, 1, 0, 0, 0, 1], 12);
    expect(() => invert3([1, 2, 3, 2, 4, 6, 0, 0, 1])).toThrow(RangeError);
  });
});

test("Bradford from D65 to D50 is the published matrix", () => {
  close(adaptWhite(D65, D50), [1.0478, 0.0229, -0.0501, 0.0295, 0.9905, -0.0171, -0.0092, 0.0151, 0.7517], 3);
});

test("correlated temperatures of standard illuminants", () => {
  expect(correlatedTemperature(D65)).toBeCloseTo(6504, -1.7);
  expect(correlatedTemperature(D50)).toBeCloseTo(5003, -1.7);
  expect(correlatedTemperature(ILLUMINANT_A)).toBeCloseTo(2856, -1.7);
});

describe("OKLab", () => {
  test.each([
    [
      [0.95, 1, 1.089],
      [1, 0, 0],
    ],
    [
      [1, 0, 0],
      [0.45, 1.236, -0.019],
    ],
    [
      [0, 1, 0],
      [0.922, -0.671, 0.263],
    ],
    [
      [0, 0, 1],
      [0.153, -1.415, -0.449],
    ],
  ] as [Vector3, Vector3][])("XYZ %j is the published %j (Ottosson 2020)", (xyz, lab) => {
    close(xyzToOklab(xyz), lab, 2.5);
  });
  test("goes there and back", () => {
    for (const xyz of [
      [0.2, 0.3, 0.1],
      [0.9, 0.95, 1],
      [0.01, 0.01, 0.02],
    ] as Vector3[])
      close(oklabToXyz(xyzToOklab(xyz)), xyz, 9);
  });
  test("neutrals have no chroma", () => {
    const [, a, b] = workingToOklab([0.18, 0.18, 0.18]);
    expect(Math.hypot(a, b)).toBeLessThan(1e-4);
  });
});

test("L* of middle grey, ends, and both branches there and back", () => {
  expect(luminanceToLightness(0.18)).toBeCloseTo(49.496, 3);
  expect(luminanceToLightness(1)).toBe(100);
  expect(luminanceToLightness(-0.2)).toBe(0);
  for (const y of [0, 1e-4, 0.008, 0.00886, 0.01, 0.5, 1])
    expect(lightnessToLuminance(luminanceToLightness(y))).toBeCloseTo(y, 12);
});

test("transfers are inverse on 0–1 and hit published values", () => {
  for (const { encode, decode } of [SRGB_TRANSFER, GAMMA22_TRANSFER, LIGHTNESS_TRANSFER])
    for (let v = 0; v <= 1; v += 1 / 64) expect(decode(encode(v))).toBeCloseTo(v, 6);
  expect(255 * SRGB_TRANSFER.encode(0.18)).toBeCloseTo(117.6, 0);
  expect(SRGB_TRANSFER.encode(0.5)).toBeCloseTo(0.7354, 4);
});

test("a profile is whole: size, signature, tags inside, white adapted", () => {
  for (const model of ["grey", "rgb"] as const) {
    const icc = iccProfile({ description: "test", transfer: SRGB_TRANSFER, model });
    const view = new DataView(icc.buffer);
    const text = (at: number) => String.fromCharCode(...icc.subarray(at, at + 4));
    expect(view.getUint32(0)).toBe(icc.length);
    expect([text(12), text(16), text(36)]).toEqual(["mntr", model === "grey" ? "GRAY" : "RGB ", "acsp"]);
    const tags = new Map<string, number>();
    for (let i = 0; i < view.getUint32(128); i++) {
      const at = 132 + 12 * i;
      tags.set(text(at), view.getUint32(at + 4));
      expect(view.getUint32(at + 4) + view.getUint32(at + 8)).toBeLessThanOrEqual(icc.length);
    }
    const curve = tags.get(model === "grey" ? "kTRC" : "rTRC")!;
    const entries = view.getUint32(curve + 8);
    const middle = view.getUint16(curve + 12 + 2 * Math.round((entries - 1) * SRGB_TRANSFER.encode(0.18)));
    expect(middle / 65535).toBeCloseTo(0.18, 2);
    if (model === "rgb") {
      const column = (name: string) => [0, 1, 2].map((i) => view.getInt32(tags.get(name)! + 8 + 4 * i) / 65536);
      const white = ["rXYZ", "gXYZ", "bXYZ"].map(column).reduce((a, b) => a.map((v, i) => v + b[i]));
      close(white, [0.9642, 1, 0.8249], 3);
    }
  }
});

test("white of a space is its white point", () => {
  close(transform3(REC2020.toXyz, [1, 1, 1]), chromaticityToXyz(D65), 9);
});
