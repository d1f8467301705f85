import { beforeAll, expect, test } from "@jest/globals";
import { IDENTITY3 } from "../../../colour/matrix.ts";
import { openHeap, seeded } from "../../../kernels/__tests__/open-heap.ts";
import type { KernelHeap } from "../../../kernels/heap.ts";
import { defaultRecipe } from "../../../recipe/defaults.ts";
import type { Recipe } from "../../../recipe/schema.ts";
import { channelValues } from "../../ground/facts.ts";
import { chromaNode } from "../chroma-grid.ts";
import { bakeLattice, planLattice } from "../colour-lattice.ts";
import { familyToPlace, placeToWorking } from "../family.ts";
import { familyShares, flooredFilmStops, greyModel } from "../grey-model.ts";

const { abs, floor: down, log2, max, min } = Math;

const LUMINANCE = [0.2627, 0.678, 0.0593] as const;
const FLOOR = 2 ** -11;
const [CHROMA, GREEN] = [37, 13];
const PRODUCTS = 10;
const PURE_STOPS = 0.02;
type Three = [number, number, number];
type Eleven = [...Three, ...Three, ...Three, number, number];
/** A capture's own channels, as its green is full before the others. */
const TO_CHANNELS = [0.9, 0.1, -0.05, 0.1, 1.1, 0.02, -0.1, 0.2, 0.8];

let heap: KernelHeap;
beforeAll(async () => {
  heap = await openHeap(0);
});

/** The kernels' rough logarithm, in plain code. */
function roughLog2(value: number): number {
  const exponent = down(log2(value));
  const x = value / 2 ** exponent - 1;
  return exponent + x + x * (1 - x) * (0.4199 - 0.162 * x);
}

/** Its inverse. */
function roughExp2(stops: number): number {
  let [low, high] = [2 ** (stops - 1), 2 ** (stops + 1)];
  for (let round = 0; round < 60; round++) {
    const middle = (low + high) / 2;
    if (roughLog2(middle) < stops) low = middle;
    else high = middle;
  }
  return low;
}

const family = (hueDegrees: number, saturation: number, lightness: number, reach = 1) => ({
  id: `f${hueDegrees}`, name: "f", hueDegrees, saturation, lightness, reach, stops: 1, pinned: false,
}); // prettier-ignore

test.each<[string, Partial<Recipe["weigh"]>, boolean]>([
  ["families", { families: [family(25, 0.3, 0.6), family(140, 0.2, 0.5, 0.7), family(250, 0.15, 0.7, 1.6)] }, false],
  ["crisp ones by nearness, balanced", { families: [family(25, 0.3, 0.6), family(40, 0.2, 0.3)], softness: 0, passage: "nearness" }, true],
  ["six on film, balanced", { by: "film", film: { ...defaultRecipe().weigh.film, filter: "red" }, softness: 0.8, families: [10, 70, 130, 190, 250, 310].map((hue) => family(hue, 0.2, 0.5)) }, true],
  ["one, twice the same", { families: [family(90, 0.2, 0.5), { ...family(90, 0.2, 0.5), id: "g" }] }, false],
  ["film alone", { by: "film", film: { ...defaultRecipe().weigh.film, filter: "orange" } }, false],
])("the table of %s holds the formula's shares at every node that is not about a middle, and at every middle", (_, change, isBalanced) => {
  const balance = isBalanced ? ([1.1, 0.05, -0.02, 0.03, 0.95, 0.02, 0.01, -0.04, 0.8] as const) : null;
  const model = greyModel({ ...defaultRecipe().weigh, ...change }, { balance });
  const byFamily = model.membership.count > 0;
  const lattice = planLattice(model, byFamily);
  const mark = heap.mark();
  const table = heap.floats(bakeLattice(heap, model, lattice), CHROMA * CHROMA * GREEN * lattice.nodeLength).slice();
  heap.release(mark);
  const lights = Array.from({ length: CHROMA }, (_, node) => {
    const bent = ((node - 18) / 18) * (4.5 / (1 + 0.45 * 4.5));
    return roughExp2(bent / (1 - 0.45 * abs(bent)));
  });
  const shares = new Float64Array(model.membership.count + 1);
  const middles = model.membership.weigh.families.map((one) => placeToWorking(familyToPlace(one)));
  const nodesOf = (ratios: readonly number[]) => ratios.map((ratio) => chromaNode(roughLog2(ratio)));
  const cells = middles.map(([r, g, b]) => nodesOf([r / g, b / g]));
  const isAbout = (i: number, j: number) => cells.some(([u, v]) => abs(u - i) < 1 && abs(v - j) < 1);
  middles.forEach(([r, g, b], m) => {
    const [level, [u, v]] = [8, cells[m]];
    const light = 2 ** (level - 11) / g;
    familyShares(model, [r * light, g * light, b * light], shares);
    const found = new Float64Array(shares.length);
    for (const i of [down(u), down(u) + 1])
      for (const j of [down(v), down(v) + 1])
        for (let k = 0; k < found.length; k++)
          found[k] += (1 - abs(u - i)) * (1 - abs(v - j)) * table[((i * CHROMA + j) * GREEN + level) * lattice.nodeLength + k]; // prettier-ignore
    const gain = found.reduce((sum, share) => sum + share, 0);
    shares.forEach((share, k) => expect(abs(found[k] / gain - share)).toBeLessThan(0.015));
  });
  let worst = 0;
  for (let n = 0; n < CHROMA * CHROMA * GREEN; n++) {
    const green = 2 ** ((n % GREEN) - 11);
    const [i, j] = [down(n / GREEN / CHROMA), down(n / GREEN) % CHROMA];
    if (isAbout(i, j)) continue;
    const colour = [green * lights[i], green, green * lights[j]] as const;
    familyShares(model, colour, shares);
    const gain = 2 ** flooredFilmStops(model, colour);
    for (let k = 0; k < shares.length; k++)
      worst = max(worst, abs(table[n * lattice.nodeLength + k] - gain * shares[k]) / gain);
    if (table[n * lattice.nodeLength + shares.length] !== 1) worst = Infinity;
  }
  expect(worst).toBeLessThan(2e-4);
}); // prettier-ignore

/** Patches of colour with soft and hard borders, scatter, and something clipped: planes of half floats, as values. */
function scene(width: number, height: number): Float64Array[] {
  const random = seeded(7);
  const patches = Array.from({ length: 12 }, () => [0, 1, 2].map(() => 0.01 + 0.6 * random()));
  return [0, 1, 2].map((c) =>
    Float64Array.from({ length: width * height }, (_, i) => {
      const [x, y] = [i % width, down(i / width)];
      const [a, b] = [patches[down(x / 9) % 12], patches[(down(x / 9) + 1 + down(y / 13)) % 12]];
      const soft = min(1, max(0, ((x % 9) - 4) / 3));
      return x > width - 8 && y < 6 ? 0.97 : (a[c] * (1 - soft) + b[c] * soft) * (1 + 0.05 * random());
    }),
  );
}

test.each([
  [64, 16, 8],
  [150, 37, 5],
  [3, 2, 1],
])("votes of %d × %d pixels for %d targets are those of plain code", (width, height, targets) => {
  const mark = heap.mark();
  const nodeLength = (targets + 3) & ~3;
  const random = seeded(3);
  const table = Float32Array.from({ length: CHROMA * CHROMA * GREEN * nodeLength }, () => random());
  const floats = heap.allocate(12 * width * height + 16);
  const halves = heap.allocate(6 * width * height + 32);
  const source = scene(width, height);
  source.forEach((plane, c) => heap.floats(floats + 4 * c * width * height, width * height).set(plane));
  heap.kernels.halvesOfRect(floats, 3 * width * height, 3 * width * height, 1, halves);
  heap.kernels.halfToFloat(halves, floats, (3 * width * height + 3) & ~3);
  const [R, G, B] = [0, 1, 2].map((c) => heap.floats(floats + 4 * c * width * height, width * height).slice());
  const plane = 2 * width * height;
  const colour = [halves, halves + plane, halves + 2 * plane] as const;
  const ratioStride = width + 16;
  const [toRed, toBlue] = [0, 1].map(() => heap.allocate(4 * ratioStride * (height + 2)));
  heap.kernels.colourRatios(...colour, width, height, toRed, toBlue, ratioStride);
  const [columns, rows] = [(((width + 3) >> 2) + 3) & ~3, (height + 3) >> 2];
  const planeBytes = 4 * columns * rows;
  const out = heap.allocate(PRODUCTS * targets * planeBytes);
  const bright = heap.allocate(6 * planeBytes);
  heap.kernels.gatherVotes(
    ...colour, width, height, heap.place(table), 4 * nodeLength, targets, FLOOR, toRed, toBlue, ratioStride,
    out, planeBytes, bright, heap.allocate(64 * columns * rows), columns, heap.place(Float32Array.from(TO_CHANNELS)), PURE_STOPS, ...LUMINANCE,
  ); // prettier-ignore
  const found = heap.floats(out, (PRODUCTS * targets * planeBytes) / 4).slice();
  const foundBright = heap.floats(bright, (6 * planeBytes) / 4).slice();
  heap.release(mark);

  const at = (x: number, y: number) => min(height - 1, max(0, y)) * width + min(width - 1, max(0, x));
  const ratio = (C: Float32Array, i: number) => roughLog2(C[i] + 2 ** -8) - roughLog2(G[i] + 2 ** -8);
  const slope = (C: Float32Array, x: number, y: number) => {
    const v = (dx: number, dy: number) => ratio(C, at(x + dx, y + dy));
    const across = v(1, -1) + 2 * v(1, 0) + v(1, 1) - v(-1, -1) - 2 * v(-1, 0) - v(-1, 1);
    const along = v(-1, 1) + 2 * v(0, 1) + v(1, 1) - v(-1, -1) - 2 * v(0, -1) - v(1, -1);
    return (across ** 2 + along ** 2) / 64;
  };
  const expected = new Float64Array(found.length);
  const size = new Float64Array(found.length);
  const expectedBright = new Float64Array(foundBright.length);
  const fullest = (i: number) => max(...[TO_CHANNELS.slice(0, 3), TO_CHANNELS.slice(3, 6), TO_CHANNELS.slice(6), LUMINANCE].map(([r, g, b]) => r * R[i] + g * G[i] + b * B[i])); // prettier-ignore
  const ramp = (v: number, from: number, to: number) => min(1, max(0, (v - from) / (to - from)));
  for (let top = 0; top < height; top += 2)
    for (let left = 0; left < width; left += 2) {
      const sums = new Float64Array(PRODUCTS);
      for (let y = top; y < min(top + 2, height); y++)
        for (let x = left; x < min(left + 2, width); x++) {
          const i = at(x, y);
          const most = fullest(i);
          const full = ramp(most, 0.9, 1);
          const pure = 1 / (1 + (slope(R, x, y) + slope(B, x, y)) / PURE_STOPS ** 2);
          const light = LUMINANCE[0] * R[i] + LUMINANCE[1] * G[i] + LUMINANCE[2] * B[i] + 0.004;
          const vote = (1 - full) * pure ** 2 + 1e-4;
          const v = vote / light ** 2;
          const counts = vote * max(1e-6, most ** 8) * (1.0001 - ramp(most, 0.6, 0.95));
          [counts * R[i], counts * G[i], counts * B[i], counts, most ** 2, full * most ** 2].forEach(
            (value, k) => (expectedBright[(k * rows + (y >> 2)) * columns + (x >> 2)] += value),
          );
          [R[i] * R[i], R[i] * G[i], R[i] * B[i], G[i] * G[i], G[i] * B[i], B[i] * B[i], R[i], G[i], B[i], 1].forEach(
            (product, k) => (sums[k] += v * product),
          );
        }
      const [logR, logG, logB] = [6, 7, 8].map((k) => roughLog2(sums[k] / sums[9] + FLOOR));
      const bent = (stops: number) => min(35.9999, max(0, 18 + (12.1 * stops) / (1 + 0.45 * abs(stops))));
      const places = [bent(logR - logG), bent(logB - logG), min(11.9999, max(0, logG + 11))];
      for (let target = 0; target < targets; target++) {
        let gain = 0;
        for (let corner = 0; corner < 8; corner++) {
          const nodes = places.map((place, axis) => down(place) + ((corner >> axis) & 1));
          const weight = places.reduce((product, place, axis) => product * (1 - abs(place - nodes[axis])), 1);
          gain += weight * table[((nodes[0] * CHROMA + nodes[1]) * GREEN + nodes[2]) * nodeLength + target];
        }
        for (let k = 0; k < PRODUCTS; k++) {
          const to = ((target * PRODUCTS + k) * rows + (top >> 2)) * columns + (left >> 2);
          expected[to] += gain * sums[k];
          size[to] += sums[k];
        }
      }
    }
  const cells = Array.from(found, (_, i) => i).filter((i) => i % columns < (width + 3) >> 2);
  const worst = cells.reduce((most, i) => max(most, abs(found[i] - expected[i]) / size[i]), 0);
  expect(cells.some((i) => expected[i] > 0)).toBe(true);
  expect(worst).toBeLessThan(2e-3);
  for (let k = 0; k < 6; k++) {
    const [plane, expectedPlane] = [foundBright, expectedBright].map((all) => all.subarray((k * planeBytes) / 4, ((k + 1) * planeBytes) / 4)); // prettier-ignore
    const off = max(...plane.map((v, i) => (i % columns < (width + 3) >> 2 ? abs(v - expectedPlane[i]) : 0)));
    expect([k, off / max(...expectedPlane) < 2e-3]).toEqual([k, true]);
  }
});

test("votes are smoothed as by two passes of plain sums, nothing beyond the picture, and lie by fours among others", () => {
  const [count, width, height, taps, total, first] = [37, 21, 9, 7, 45, 5];
  const stride = (width + 3) & ~3;
  const mark = heap.mark();
  const random = seeded(5);
  const weights = Float32Array.from({ length: taps }, () => random());
  const planes = Float32Array.from({ length: count * stride * height }, () => random());
  const out = heap.allocate(4 * total * stride * height);
  heap.floats(out, total * stride * height).fill(-1);
  const [ofPlanes, ofWeights] = [planes, weights].map((values) => heap.place(values));
  for (const [top, bottom] of [[0, 4], [4, height]]) // prettier-ignore
    heap.kernels.smoothVotes(
      ofPlanes, 4 * stride * height, count, stride, width, height, top, bottom, ofWeights, taps,
      out, first, total, heap.allocate(4 * (stride + taps + 19 + count * stride)),
    ); // prettier-ignore
  const found = heap.floats(out, total * stride * height).slice();
  heap.release(mark);
  const reach = taps >> 1;
  let worst = 0;
  for (let k = 0; k < total; k++)
    for (let y = 0; y < height; y++)
      for (let x = 0; x < width; x++) {
        const value = found[(y * stride + (x & ~3)) * total + 4 * k + (x & 3)];
        let sum = 0;
        for (let j = -reach; j <= reach; j++)
          for (let i = -reach; i <= reach; i++)
            if (x + i >= 0 && x + i < width && y + j >= 0 && y + j < height)
              sum += weights[reach + j] * weights[reach + i] * planes[((k - first) * height + y + j) * stride + x + i];
        const expected = k < first || k >= first + count ? -1 : sum;
        worst = max(worst, abs(value - expected));
      }
  expect(worst).toBeLessThan(1e-5);
});

test.each([1, 0.5, 0])(
  "what fills a channel grows no darker with more light, as far as what is bright is known (%d)",
  (known) => {
    const mark = heap.mark();
    // Earth that is about to fill red, at the stops of its own; what is as yellow as its lights is darkened by 0.9 stop.
    const bright = [0.9, 0.33, 0.02];
    const [earth, straw] = [bright, [1, 0.72, 0.02]];
    const light = ([r, g, b]: readonly number[]) => LUMINANCE[0] * r + LUMINANCE[1] * g + LUMINANCE[2] * b;
    const [one, other] = [light(earth), 2 ** -0.9 * light(straw)];
    const slope = earth[0] * straw[1] - earth[1] * straw[0];
    const line = [(one * straw[1] - other * earth[1]) / slope, (other * earth[0] - one * straw[0]) / slope, 0, 0];
    const planes = [...line, 2 ** -0.9, 1, ...bright, 1, known].map((v) => heap.place(new Float32Array(16).fill(v)));
    const width = 20;
    const colours = Array.from({ length: width }, (_, i) => bright.map((v) => min(1, v * (1 + 0.05 * i))));
    const halves = [0, 1, 2].map((c) => {
      const out = heap.allocate(2 * width + 16);
      heap.kernels.halvesOfRect(heap.place(Float32Array.from(colours, (colour) => colour[c])), width, width, 1, out);
      return out;
    });
    const out = heap.allocate(4 * width + 16);
    heap.kernels.weighByField(
    ...(halves as Three), width, 1, out, width, ...(planes as Eleven), 4, 4, 4, heap.allocate(352 * (width / 4)),
    0, 0, 0.1, ...LUMINANCE, 2 ** -0.9, 1, heap.place(channelValues(IDENTITY3)),
  ); // prettier-ignore
    const found = [...heap.floats(out, width)];
    heap.release(mark);
    const falls = found.slice(1).map((v, i) => found[i] / v);
    // By the line alone what is clipped grows darker the more light it has.
    if (known === 0) expect(max(...falls)).toBeGreaterThan(1.01);
    else expect(max(...falls)).toBeLessThan(1.002);
  },
);
