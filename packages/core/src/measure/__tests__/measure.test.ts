import { expect, test } from "@jest/globals";
import { frameOf, wholeCrop } from "../../parts/ground/geometry.ts";
import { applyAffine, invertAffine } from "../../maths/affine.ts";
import { seeded } from "../../kernels/__tests__/open-heap.ts";
import { writeDirectories, writeTiff } from "../../encode/tiff-writer.ts";
import { defaultRecipe } from "../../recipe/defaults.ts";
import { stopsToLight } from "../../colour/stops.ts";
import { histograms, LADDER_STOPS } from "../histogram.ts";

test("histograms put each tone where it belongs, and count what clips", () => {
  const light = Float32Array.from([-20, -5, -5, 0, 3.99, 9], stopsToLight);
  const print = Float32Array.of(0, 0.18, 0.18, 1, 0.5, 0.00001);
  const found = histograms(light, print);
  const bin = (stops: number) => Math.floor((stops - LADDER_STOPS.lowest) * 8 + 1e-4);
  expect(found.scene[0]).toBeCloseTo(1 / 6, 6);
  expect(found.scene[bin(-5)]).toBeCloseTo(2 / 6, 6);
  expect(found.scene[bin(0)]).toBeCloseTo(1 / 6, 6);
  expect(found.scene.at(-1)).toBeCloseTo(2 / 6, 6);
  expect(found.print[39]).toBeCloseTo(2 / 6, 6);
  expect([found.black, found.white]).toEqual([2 / 6, 1 / 6]);
  expect(found.scene.reduce((a, b) => a + b)).toBeCloseTo(1, 6);
  expect(histograms(new Float32Array(0), new Float32Array(0)).scene.every((v) => v === 0)).toBe(true);
});

test("a frame never leaves the negative, at any slant, turn or ratio", () => {
  const random = seeded(12);
  const { ground } = defaultRecipe();
  for (let i = 0; i < 200; i++) {
    const negative = { width: 300 + Math.floor(3000 * random()), height: 300 + Math.floor(3000 * random()) };
    const angleDegrees = 90 * random() - 45;
    const quarterTurns = Math.floor(4 * random());
    const frame = frameOf(negative, { ...ground, angleDegrees, quarterTurns });
    for (const [x, y] of [
      [0, 0],
      [frame.width, 0],
      [0, frame.height],
      [frame.width, frame.height],
    ]) {
      const [nx, ny] = applyAffine(frame.toFlat, x, y);
      // Width and height are rounded to whole pixels, so a corner may lie half a pixel outside.
      expect([i, nx > -1 && ny > -1 && nx < negative.width + 1 && ny < negative.height + 1]).toEqual([i, true]);
      const back = applyAffine(invertAffine(frame.toFlat), nx, ny);
      expect(Math.hypot(back[0] - x, back[1] - y)).toBeLessThan(1e-6);
    }
    const { width, height } = wholeCrop(negative, { ...ground, angleDegrees, quarterTurns });
    const upright = quarterTurns % 2 ? negative.height / negative.width : negative.width / negative.height;
    expect(width / height).toBeCloseTo(upright, 6);
  }
});

test("a TIFF's directories can be written anywhere in a file, and point where they say", () => {
  const block = Uint8Array.of(1, 2, 3);
  const top = {
    fields: [
      { tag: 256, type: "long" as const, values: [7] },
      { tag: 258, type: "short" as const, values: [16, 16, 16] },
      { tag: 282, type: "rational" as const, values: [300] },
    ],
    children: [
      { tag: 34665, directory: { fields: [{ tag: 36867, type: "ascii" as const, values: [65, 66, 67, 68, 69, 0] }] } },
    ],
    data: { offsetTag: 273, lengthTag: 279, blocks: [block] },
  };
  for (const start of [8, 1000]) {
    const { bytes, directoryAt } = writeDirectories(top, start);
    const view = new DataView(bytes.buffer);
    const entries = new Map<number, { type: number; count: number; value: number }>();
    const at = directoryAt - start;
    for (let i = 0; i < view.getUint16(at, true); i++) {
      const e = at + 2 + 12 * i;
      entries.set(view.getUint16(e, true), {
        type: view.getUint16(e + 2, true),
        count: view.getUint32(e + 4, true),
        value: view.getUint32(e + 8, true),
      });
    }
    expect([...entries.keys()]).toEqual([256, 258, 273, 279, 282, 34665]);
    expect(entries.get(256)).toEqual({ type: 4, count: 1, value: 7 });
    expect(Array.from(new Uint16Array(bytes.slice(entries.get(258)!.value - start).buffer, 0, 3))).toEqual([
      16, 16, 16,
    ]);
    expect(Array.from(bytes.subarray(entries.get(273)!.value - start, entries.get(273)!.value - start + 3))).toEqual([
      1, 2, 3,
    ]);
    expect(
      view.getUint32(entries.get(282)!.value - start, true) / view.getUint32(entries.get(282)!.value - start + 4, true),
    ).toBe(300);
  }
  expect(Array.from(writeTiff(top).subarray(0, 4))).toEqual([0x49, 0x49, 42, 0]);
});
