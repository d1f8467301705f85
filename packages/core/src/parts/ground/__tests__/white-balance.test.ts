import { describe, expect, test } from "@jest/globals";
import { transform3, type Vector3 } from "../../../colour/matrix.ts";
import { mixKelvin, temperatureTintToWhite, whiteToTemperatureTint } from "../../../colour/temperature.ts";
import { correlatedTemperature, D50, D65, ILLUMINANT_A, type Chromaticity } from "../../../colour/white.ts";
import { seeded } from "../../../kernels/__tests__/open-heap.ts";
import { defaultRecipe } from "../../../recipe/defaults.ts";
import { asShotWhite, balancedLight, balanceMatrix, lightThatMakesNeutral, LIGHTS } from "../white-balance.ts";

const set = (kelvin: number, tint = 0, follow = 1) => ({ mode: "set" as const, kelvin, tint, follow });

describe("temperature and tint", () => {
  test("standard illuminants lie where the standards say", () => {
    for (const [white, kelvin] of [
      [D65, 6504],
      [D50, 5003],
      [ILLUMINANT_A, 2856],
    ] as [Chromaticity, number][]) {
      const found = whiteToTemperatureTint(white);
      expect(Math.abs(found.kelvin / kelvin - 1)).toBeLessThan(0.006);
      expect(Math.abs(found.tint)).toBeLessThan(1.5);
    }
  });
  test("go there and back over the whole range, through the change from black body to daylight", () => {
    const random = seeded(6);
    for (let i = 0; i < 300; i++) {
      const kelvin = 1e6 / (55 + random() * 490);
      const tint = 60 * random() - 30;
      const back = whiteToTemperatureTint(temperatureTintToWhite({ kelvin, tint }));
      expect([i, Math.abs(back.kelvin / kelvin - 1) < 0.02, Math.abs(back.tint - tint) < 0.6]).toEqual([i, true, true]);
    }
  });
  test("agree with McCamy's formula on the locus, and rise without a jump", () => {
    let last: Chromaticity = temperatureTintToWhite({ kelvin: 2000, tint: 0 });
    for (let kelvin = 2010; kelvin < 12000; kelvin += 10) {
      const white = temperatureTintToWhite({ kelvin, tint: 0 });
      expect(Math.hypot(white[0] - last[0], white[1] - last[1])).toBeLessThan(0.002);
      expect(white[0]).toBeLessThan(last[0]);
      last = white;
      if (kelvin > 2800 && kelvin < 8000)
        expect(Math.abs(correlatedTemperature(white) / kelvin - 1)).toBeLessThan(0.02);
    }
  });
  test("mixing is even in reciprocal temperature", () => {
    expect(mixKelvin(2500, 10000, 0.5)).toBeCloseTo(4000, 6);
    expect([mixKelvin(3000, 6000, 0), mixKelvin(3000, 6000, 1)]).toEqual([
      expect.closeTo(3000, 6),
      expect.closeTo(6000, 6),
    ]);
  });
});

describe("white balance", () => {
  const lamp = temperatureTintToWhite({ kelvin: 3000, tint: 4 });
  test("as shot changes nothing; the light as shot, set by hand, neither", () => {
    expect(balanceMatrix(defaultRecipe().ground.whiteBalance, lamp)).toBeNull();
    const { kelvin, tint } = whiteToTemperatureTint(lamp);
    balanceMatrix(set(kelvin, tint), lamp)!.forEach((v, i) => expect(v).toBeCloseTo(i % 4 === 0 ? 1 : 0, 3));
  });
  test("whatever is picked becomes neutral, and keeps its luminance", () => {
    const random = seeded(19);
    for (let i = 0; i < 100; i++) {
      const asShot = temperatureTintToWhite({ kelvin: 2800 + 5000 * random(), tint: 10 * random() - 5 });
      const spot: Vector3 = [0.3 + 0.12 * random(), 0.3, 0.3 + 0.2 * (random() - 0.5)];
      const light = lightThatMakesNeutral(spot, asShot);
      if (!light || light.kelvin < 1850 || light.kelvin > 19500) continue;
      const balanced = transform3(balanceMatrix(set(light.kelvin, light.tint), asShot)!, spot);
      const spread = Math.max(...balanced) / Math.min(...balanced);
      expect([i, spread < 1.01]).toEqual([i, true]);
    }
  });
  test("easing keeps the tint and goes part of the way in temperature", () => {
    const shot = whiteToTemperatureTint(lamp);
    for (const follow of [0, 0.4, 1]) {
      const light = balancedLight(set(9000, -7, follow), lamp);
      expect(light).toEqual({ kelvin: expect.closeTo(mixKelvin(shot.kelvin, 9000, follow), 6), tint: -7 });
    }
  });
  test("a lower temperature set makes the picture bluer", () => {
    const grey: Vector3 = [0.2, 0.2, 0.2];
    const [warm, cool] = [LIGHTS.find(([name]) => name === "lamp")!, LIGHTS.find(([name]) => name === "shade")!].map(
      ([, light]) => transform3(balanceMatrix(set(light.kelvin), D65)!, grey),
    );
    expect(warm[2] / warm[0]).toBeGreaterThan(1.5);
    expect(cool[2] / cool[0]).toBeLessThan(0.95);
  });
  test("black and impossible colours are no neutral; a file that is not raw was balanced for D65", () => {
    expect(lightThatMakesNeutral([0, 0, 0], D65)).toBeNull();
    expect(lightThatMakesNeutral([0.02, 0.6, 0.02], D65)).toBeNull();
    expect(asShotWhite({ calibrations: [], neutral: null })).toBe(D65);
  });
});
