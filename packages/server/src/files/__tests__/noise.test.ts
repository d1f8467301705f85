import { beforeAll, describe, expect, test } from "@jest/globals";
import { drawChart, expose, HALDEN_ONE, PLAIN_EXPOSURE, shoot, type Scene } from "@yelm/camera";
import {
  balanceGains,
  captureGranularity,
  cameraToWorking,
  colourFloor,
  defaultRecipe,
  demosaicRows,
  easeWeights,
  familyPlace,
  greyLight,
  greyModel,
  luminanceNoise,
  measureNoise,
  measureSlantedEdge,
  newFamily,
  noisePrice,
  REC2020,
  REC709_TO_REC2020,
  scaleNoise,
  toneCurve,
  transform3,
  transpose3,
  type KernelHeap,
  type Vector3,
} from "@yelm/core";
import { openKernels } from "../kernels.ts";
import { developRaw } from "../linear-picture.ts";
import { unpackRaw } from "../raw.ts";

let heap: KernelHeap;
beforeAll(async () => {
  heap = await openKernels();
});

interface Picture {
  readonly planes: readonly Float32Array[];
  readonly width: number;
  readonly height: number;
}

/** The working picture of a DNG, full size: what the tiles of level 0 hold. */
async function develop(dng: Uint8Array) {
  const opened = await unpackRaw(dng);
  const { width, height } = opened.info;
  const planes = [0, 1, 2].map(() => new Float32Array(width * height));
  const info = await developRaw(heap, opened, ({ level, column, row }, halves) => {
    if (level > 0) return;
    const tileWidth = Math.min(512, width - 512 * column);
    const tileHeight = Math.min(512, height - 512 * row);
    const n = tileWidth * tileHeight;
    const mark = heap.mark();
    const from = heap.place(halves);
    const to = heap.allocate(4 * halves.length);
    heap.kernels.halfToFloat(from, to, halves.length);
    const floats = heap.floats(to, halves.length);
    // What lies beyond sensor white follows in a plane of its own.
    if (halves.length > 3 * n) for (let i = 0; i < 3 * n; i++) floats[i] += floats[3 * n + (i % n)];
    planes.forEach((plane, c) => {
      for (let y = 0; y < tileHeight; y++)
        plane.set(
          floats.subarray((c * tileHeight + y) * tileWidth, (c * tileHeight + y + 1) * tileWidth),
          (512 * row + y) * width + 512 * column,
        );
    });
    heap.release(mark);
  });
  return { info, width, height, planes };
}

/** The same without smoothing: demosaiced and through the camera's matrix only. */
async function demosaiced(dng: Uint8Array) {
  const opened = await unpackRaw(dng);
  if (!("mosaic" in opened)) throw new Error("Expected a mosaic.");
  const { width, height, neutral, calibrations, noise } = opened.info;
  const mark = heap.mark();
  const gains = balanceGains(neutral!);
  const at = demosaicRows(heap, opened.mosaic, gains, 0, height, "directional", scaleNoise(noise!, gains));
  const n = width * height;
  const matrix = heap.place(Float32Array.from(cameraToWorking(calibrations, neutral!)));
  heap.kernels.applyMatrix(at, at + 4 * n, at + 8 * n, n, matrix);
  const planes = [0, 1, 2].map((c) => heap.floats(at + 4 * n * c, n).slice());
  heap.release(mark);
  return { width, height, planes };
}

function weigh(planes: readonly Float32Array[], [r, g, b]: Vector3): Float32Array {
  return planes[0].map((value, i) => r * value + g * planes[1][i] + b * planes[2][i]);
}

function deviation(grey: Float32Array, width: number, border = 32): number {
  const height = grey.length / width;
  const kept = grey.filter((_, i) => {
    const x = i % width;
    const y = Math.floor(i / width);
    return x >= border && y >= border && x < width - border && y < height - border;
  });
  const mean = kept.reduce((sum, v) => sum + v, 0) / kept.length;
  return Math.sqrt(kept.reduce((sum, v) => sum + (v - mean) ** 2, 0) / kept.length);
}

/** A knife edge 5° off the vertical between two colours. */
function edgeBetween(left: Vector3, right: Vector3, size = 260): Scene {
  const { rgb } = drawChart("edge", size, size);
  const dark = rgb[0];
  const light = rgb[3 * (size - 1)];
  const out = rgb.map((v, i) => {
    const share = (v - dark) / (light - dark);
    return left[i % 3] * (1 - share) + right[i % 3] * share;
  });
  return { width: size, height: size, rgb: out };
}

/** The ends of what three weights of sum 1 can do. */
const EXTREMES: readonly Vector3[] = [
  [3, -2, 0], [3, 0, -2], [-2, 3, 0], [0, 3, -2], [-2, 0, 3], [0, -2, 3], [3, -1, -1], [-1, 3, -1], [-1, -1, 3],
]; // prettier-ignore

/** Weights under which colours lie far apart. */
const STRONG: readonly Vector3[] = [[3, -2, 0], [1, 0, 0], [-1, -1, 3]]; // prettier-ignore
const KNIFE = { iso: 100, blurPx: 0.5, camera: { ...HALDEN_ONE, hotPixels: 0 } };

function edgeUnder({ planes, width, height }: Picture, weights: Vector3) {
  return measureSlantedEdge(weigh(planes, weights), width, height);
}

describe("colour noise under strong weights", () => {
  test.each([
    [100, 0.18],
    [1600, 0.05],
    [6400, 0.18],
    [25600, 0.4],
  ])("ISO %d at light %d: at most 1.3 times the noise of neutral weights in flat areas", async (iso, level) => {
    const camera = { ...HALDEN_ONE, hotPixels: 0 };
    const { planes, width } = await develop(await shoot(drawChart("flat", 300, 260, level), { iso, camera }));
    const neutral = deviation(weigh(planes, REC2020.luminance), width);
    const ratios = EXTREMES.map((weights) => deviation(weigh(planes, weights), width) / neutral);
    expect(Math.max(...ratios)).toBeLessThan(1.3);
    expect(neutral).toBeGreaterThan(0);
  });

  test("flat things of strong colour are hardly noisier under extreme weights than their luminance", async () => {
    for (const colour of [
      [0.4, 0.05, 0.04],
      [0.05, 0.3, 0.05],
      [0.03, 0.06, 0.4],
      [0.08, 0.01, 0.01],
    ] as const) {
      const { planes, width } = await develop(
        await shoot(edgeBetween([...colour], [...colour]), { iso: 6400, camera: KNIFE.camera }),
      );
      const light = deviation(weigh(planes, REC2020.luminance), width);
      for (const weights of EXTREMES) expect(deviation(weigh(planes, weights), width) / light).toBeLessThan(1.2);
    }
  });

  test.each([
    ["grey and grey, ISO 100", [0.1, 0.1, 0.1], [0.4, 0.4, 0.4], 100, 0.97],
    ["grey and grey, ISO 400", [0.1, 0.1, 0.1], [0.4, 0.4, 0.4], 400, 0.97],
    ["red and green, ISO 100", [0.45, 0.09, 0.06], [0.09, 0.2, 0.06], 100, 0.97],
    ["red and blue, ISO 100", [0.3, 0.06, 0.05], [0.05, 0.1, 0.35], 100, 0.97],
    ["red and blue, ISO 1600", [0.3, 0.06, 0.05], [0.05, 0.1, 0.35], 1600, 0.94],
    ["red and blue, ISO 6400", [0.3, 0.06, 0.05], [0.05, 0.1, 0.35], 6400, 0.84],
  ] as const)(
    "the edge between %s, keeps its sharpness (MTF50) when colour is smoothed",
    async (_name, left, right, iso, least) => {
      const scene = edgeBetween(left, right);
      const pairs: (readonly [Picture, Picture])[] = [];
      for (const seed of iso > 100 ? [1, 2, 3] : [1]) {
        const dng = await shoot(scene, { ...KNIFE, iso, seed });
        pairs.push([await develop(dng), await demosaiced(dng)]);
      }
      for (const weights of STRONG) {
        const mean = (of: 0 | 1, what: "mtf50" | "overshoot") =>
          pairs.map((pair) => edgeUnder(pair[of], weights)[what]).reduce((p, q) => p + q, 0) / pairs.length;
        expect(mean(0, "mtf50") / mean(1, "mtf50")).toBeGreaterThan(least);
        expect(mean(0, "overshoot")).toBeLessThan(mean(1, "overshoot") + 0.02);
      }
    },
    60_000,
  );

  test.each([
    ["red and green", [0.45, 0.09, 0.06], [0.09, 0.2, 0.06], 0.85],
    ["red and blue", [0.3, 0.06, 0.05], [0.05, 0.1, 0.35], 0.85],
    ["violet and moss", [0.3, 0.12, 0.4], [0.15, 0.25, 0.06], 0.6],
    ["turquoise and rust", [0.06, 0.3, 0.3], [0.4, 0.15, 0.05], 0.85],
  ] as const)("the edge between %s is nearly as sharp as one between greys", async (_name, left, right, least) => {
    const [grey, coloured] = await Promise.all(
      [edgeBetween([0.1, 0.1, 0.1], [0.4, 0.4, 0.4]), edgeBetween(left, right)].map(async (scene) =>
        develop(await shoot(scene, KNIFE)),
      ),
    );
    const usual = edgeUnder(grey, [1, 0, 0]).mtf50;
    for (const weights of STRONG) {
      const { mtf50, overshoot } = edgeUnder(coloured, weights);
      expect(mtf50 / usual).toBeGreaterThan(least);
      expect(overshoot).toBeLessThan(0.08);
    }
  });
});

test("families moved three stops apart at ISO 6400: the edge between them overshoots by no more than 2 %, and nothing blocks", async () => {
  const [left, right] = [[0.3, 0.06, 0.05], [0.05, 0.1, 0.35]] as const; // prettier-ignore
  const working = (rgb: Vector3) => transform3(REC709_TO_REC2020, rgb);
  const families = [left, right].map((rgb, i) => ({
    ...newFamily(`f${i}`, `family ${i}`, familyPlace(working(rgb))),
    stops: i === 0 ? 1.5 : -1.5,
  }));
  const camera = { ...HALDEN_ONE, hotPixels: 0 };
  const overshoots: number[] = [];
  for (const seed of [1, 2, 3]) {
    const { planes, width, height, info } = await develop(
      await shoot(edgeBetween(left, right), { iso: 6400, seed, blurPx: 0.5, camera }),
    );
    const model = greyModel({ ...defaultRecipe().weigh, families }, { floor: colourFloor(luminanceNoise(info)) });
    const grey = planes[0].map((value, i) => greyLight(model, [value, planes[1][i], planes[2][i]]));
    const plain = weigh(planes, REC2020.luminance);
    const kept = measureSlantedEdge(grey, width, height);
    // Under plain luminance the two are one grey; red light sees the same edge as the camera drew it.
    const drawn = measureSlantedEdge(weigh(planes, [1, 0, 0]), width, height);
    overshoots.push(kept.overshoot - Math.max(0, drawn.overshoot));
    // Flat sides: the noise of the grey is that of the luminance, moved by the same stops.
    const side = (values: Float32Array) => values.filter((_, i) => i % width < 70);
    const loud = deviation(side(grey), 70) / deviation(side(plain), 70) / 2 ** 1.5;
    expect(loud).toBeLessThan(1.3);
  }
  expect(overshoots.reduce((a, b) => a + b, 0) / 3).toBeLessThan(0.02);
});

describe("the price of weights", () => {
  test("is told within a tenth of what is measured, and easing keeps to its bound", async () => {
    const camera = { ...HALDEN_ONE, hotPixels: 0 };
    const { planes, width, info } = await develop(
      await shoot(drawChart("flat", 300, 260, 0.18), { iso: 6400, camera }),
    );
    const neutral = deviation(weigh(planes, REC2020.luminance), width);
    const model = luminanceNoise(info)!;
    expect(neutral / Math.sqrt(model.slope * 0.18 + model.offset)).toBeGreaterThan(0.9);
    expect(neutral / Math.sqrt(model.slope * 0.18 + model.offset)).toBeLessThan(1.1);
    for (const weights of EXTREMES) {
      const measured = deviation(weigh(planes, weights), width) / neutral;
      const { before, after } = noisePrice(info, weights)!;
      expect(Math.abs(after / measured - 1)).toBeLessThan(0.1);
      expect(before).toBeGreaterThan(after);
      const eased = easeWeights(info, weights, 1.03);
      expect(noisePrice(info, eased)!.after).toBeLessThanOrEqual(1.03 + 1e-6);
      expect(eased[0] + eased[1] + eased[2]).toBeCloseTo(weights[0] + weights[1] + weights[2], 6);
    }
  });
});

test("the capture's noise as granularity is what the print's density wavers by, in the unit of grain", async () => {
  const camera = { ...HALDEN_ONE, hotPixels: 0 };
  const { planes, width, info } = await develop(await shoot(drawChart("flat", 300, 260, 0.18), { iso: 3200, camera }));
  const grey = weigh(planes, REC2020.luminance);
  for (const grade of [2, 3]) {
    const curve = toneCurve({ ...defaultRecipe().shape, grade });
    const density = grey.map((light) => -Math.log10(curve(light)));
    // Deviation of a pixel, brought to the aperture as that of white noise is.
    const aperture = Math.sqrt((Math.PI / 4) * 48 ** 2);
    const measured = (1000 * deviation(density, width) * (56_000 / 300)) / aperture;
    expect(Math.abs(captureGranularity(info, "medium", curve)! / measured - 1)).toBeLessThan(0.1);
  }
  expect(captureGranularity({ ...info, noise: null }, "small", (light) => light)).toBeNull();
});

describe("the noise model", () => {
  test("measured from a picture without a profile, it is the camera's own within 25 %", async () => {
    const iso = 1600;
    const camera = { ...HALDEN_ONE, hotPixels: 0 };
    const scene = drawChart("wedge", 900, 600);
    const frame = expose(scene, camera, { ...PLAIN_EXPOSURE, iso });
    const stated = (await unpackRaw(await shoot(drawChart("flat", 64, 64), { iso, camera }))).info.noise!;
    const measured = measureNoise({
      data: frame.data, stride: frame.width, left: 0, top: 0, width: frame.width, height: frame.height,
      phase: { redX: 0, redY: 0 }, black: [512, 512, 512, 512], white: frame.white,
    })!; // prettier-ignore
    for (const channel of [0, 1, 2])
      for (const light of [0.02, 0.1, 0.5]) {
        const found = measured.slope[channel] * light + measured.offset[channel];
        const truth = stated.slope[channel] * light + stated.offset[channel];
        expect(Math.abs(found / truth - 1)).toBeLessThan(0.25);
      }
  });
});

describe("sites that are stuck", () => {
  test("are mended, and points of light that the lens drew stay", async () => {
    const noisy = { iso: 400, seed: 5 };
    const scene = drawChart("flat", 240, 200, 0.1);
    // Three small lights, as wide as a lens makes them.
    for (const [x, y] of [[60, 50], [121, 90], [180, 151]])
      for (let v = -3; v <= 3; v++)
        for (let u = -3; u <= 3; u++)
          for (let c = 0; c < 3; c++) scene.rgb[3 * ((y + v) * 240 + x + u) + c] += 0.8 * Math.exp(-(u * u + v * v) / 1.6);
    const clean = await develop(await shoot(scene, { ...noisy, camera: { ...HALDEN_ONE, hotPixels: 0 } }));
    const stuck = await develop(await shoot(scene, { ...noisy, camera: { ...HALDEN_ONE, hotPixels: 4e-4 } }));
    const [a, b] = [clean, stuck].map(({ planes }) => weigh(planes, REC2020.luminance));
    const noise = deviation(a.filter((_, i) => Math.floor(i / 240) < 40), 240, 4);
    const bright = b.filter((v, i) => {
      const [x, y] = [i % 240, Math.floor(i / 240)];
      const light = [[60, 50], [121, 90], [180, 151]].some(([lx, ly]) => Math.hypot(x - lx, y - ly) < 6);
      return !light && v > 0.1 + 8 * noise;
    });
    expect(bright.length).toBe(0);
    for (const [x, y] of [[60, 50], [121, 90], [180, 151]]) expect(b[y * 240 + x]).toBeGreaterThan(0.7);
  }); // prettier-ignore
});

test("a highlight in which channels saturate one after the other stays neutral, and what is measured beyond white is kept", async () => {
  const scene = drawChart("flat", 640, 64, 1);
  // A ramp from 0.5 to 4 times sensor white.
  scene.rgb.forEach((_, i) => (scene.rgb[i] = 0.5 * 2 ** ((3 * (Math.floor(i / 3) % 640)) / 640)));
  const { planes, info } = await develop(await shoot(scene, { noise: false }));
  expect(info.headroomStops).toBeGreaterThan(0.5);
  expect(info.clipped!.every((share) => share > 0.2)).toBe(true);
  const row = 32 * 640;
  let most = 0;
  for (let x = 8; x < 632; x++) {
    const [r, g, b] = planes.map((plane) => plane[row + x]);
    const top = Math.max(r, g, b);
    most = Math.max(most, top);
    expect((top - Math.min(r, g, b)) / top).toBeLessThan(0.04);
    // The wrong weights would show a pink highlight as a dip.
    if (x > 20) expect(2 * g - b).toBeGreaterThan(0.93 * (2 * planes[1][row + x - 12] - planes[2][row + x - 12]));
  }
  expect(Math.log2(most)).toBeGreaterThan(info.headroomStops - 0.1);
});

test("the luminance of camera colours is the luminance of working colours", () => {
  const matrix = cameraToWorking([{ xyzToCamera: HALDEN_ONE.xyzToCamera, temperatureK: 6504 }], [0.6, 1, 0.7]);
  const weights = transform3(transpose3(matrix), REC2020.luminance);
  expect(weights[0] + weights[1] + weights[2]).toBeCloseTo(1, 6);
});
