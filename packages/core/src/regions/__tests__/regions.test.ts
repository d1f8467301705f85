import { describe, expect, test } from "@jest/globals";
import { oklabToWorking } from "../../colour/oklab.ts";
import { seeded } from "../../kernels/__tests__/open-heap.ts";
import { decodeRuns, encodeRuns } from "../../shapes/runs.ts";
import { cutCells } from "../cell-cut.ts";
import { UNKNOWN } from "../find-region.ts";
import { leastCut } from "../least-cut.ts";
import { proposeRegions } from "../proposals.ts";
import { proposeSky } from "../sky.ts";
import { cellRefiner } from "../refine-cells.ts";
import {
  cellsBeyond,
  cellsOfPatches,
  correctedRegion,
  isPennedIn,
  knownCells,
  patchesOfCells,
  regionOfOutline,
  regionOfSeeds,
} from "../seeds.ts";
import { coloursOf, superpixels, type PlanarPicture } from "../superpixels.ts";

type Lab = readonly [number, number, number];
const SIZE = { width: 240, height: 160 };

/** A picture of OKLab colours with noise. */
function picture(colour: (x: number, y: number) => Lab, noise = 0.01, seed = 1): PlanarPicture {
  const random = seeded(seed);
  const planes = [0, 1, 2].map(() => new Float32Array(SIZE.width * SIZE.height));
  for (let i = 0; i < SIZE.width * SIZE.height; i++) {
    const [l, a, b] = colour(i % SIZE.width, Math.floor(i / SIZE.width));
    const rough = noise * (random() - 0.5);
    oklabToWorking([l + rough, a + rough / 3, b - rough / 3]).forEach((v, c) => (planes[c][i] = Math.max(0, v)));
  }
  return { ...SIZE, planes: planes as never };
}
const overlap = (cells: ArrayLike<number>, truth: (x: number, y: number) => boolean) => {
  let [both, either] = [0, 0];
  for (let i = 0; i < cells.length; i++) {
    const inside = truth(i % SIZE.width, Math.floor(i / SIZE.width));
    if (cells[i] && inside) both++;
    if (cells[i] || inside) either++;
  }
  return both / either;
};
const seed = (inside: boolean, ...points: [number, number][]) => ({ id: "s", inside, points });

describe("the least cut", () => {
  test("is as cheap as the cheapest of all cuts, on random graphs", () => {
    const random = seeded(21);
    for (let round = 0; round < 40; round++) {
      const count = 9;
      const pairs = Array.from({ length: 36 }, (_, k) => [Math.floor(k / 6), 3 + (k % 6)] as const).filter(([p, q]) => p < q && random() > 0.4); // prettier-ignore
      const graph = {
        count,
        toNear: Float64Array.from({ length: count }, () => 10 * random()),
        toFar: Float64Array.from({ length: count }, () => 10 * random()),
        from: pairs.map(([p]) => p),
        to: pairs.map(([, q]) => q),
        parting: pairs.map(() => 6 * random()),
      };
      const cost = (side: ArrayLike<number>) => {
        let sum = 0;
        for (let i = 0; i < count; i++) sum += side[i] ? graph.toNear[i] : graph.toFar[i];
        graph.parting.forEach((v, e) => (sum += side[graph.from[e]] !== side[graph.to[e]] ? v : 0));
        return sum;
      };
      let cheapest = Infinity;
      for (let bits = 0; bits < 1 << count; bits++)
        cheapest = Math.min(cheapest, cost(Array.from({ length: count }, (_, i) => (bits >> i) & 1)));
      expect(cost(leastCut(graph))).toBeCloseTo(cheapest, 6);
    }
  });
});

test("runs of cells come back as they were, whatever they are", () => {
  const random = seeded(8);
  for (const chance of [0, 0.02, 0.5, 1]) {
    const cells = Uint8Array.from({ length: 7000 }, () => (random() < chance ? 1 : 0));
    expect(decodeRuns(encodeRuns(cells), cells.length)).toEqual(cells);
  }
  // What is broken is cut off or left outside, never read beyond.
  expect(decodeRuns("____________", 10)).toEqual(new Uint8Array(10));
  expect([...decodeRuns("CE", 4)]).toEqual([0, 0, 1, 1]);
});

describe("a border cell by cell", () => {
  /** A leaf four cells wide and a knob, lit from one side, on a wall of nearly their lightness. */
  const isThing = (x: number, y: number) =>
    (x > 60 && x < 180 && Math.abs(y - 80 - 6 * Math.sin(x / 17)) < 2) || Math.hypot(x - 186, y - 74) < 9;
  const scene = picture((x, y) => (isThing(x, y) ? [0.4 + x / 800, -0.05, 0.06] : [0.5, 0.02, 0.01]), 0.06);
  const along = [70, 80, 90, 100, 110, 120, 130, 140, 150, 160, 170].map((x): [number, number] => [x / 240, (80 + 6 * Math.sin(x / 17)) / 240]); // prettier-ignore
  const none = new Uint8Array(SIZE.width * SIZE.height);

  test("ends a small thing where it ends, which patches are too large for", () => {
    const patches = superpixels(scene);
    const found = regionOfSeeds(patches, [seed(true, ...along)])!;
    const rough = cellsOfPatches(patches, found);
    const cells = cutCells(coloursOf(scene), scene, rough, none);
    expect(overlap(cells, isThing)).toBeGreaterThan(0.98);
    expect(overlap(rough, isThing)).toBeLessThan(0.95);
  });

  test("stays where it was given when no colours part it", () => {
    const even = picture((x) => [0.5 + x / 2000, 0.02, 0.01], 0.03);
    for (const radius of [6, 12, 40]) {
      const isGiven = (x: number, y: number) => Math.hypot(x - 120, y - 80) < radius;
      const given = Uint8Array.from(none, (_, i) => (isGiven(i % 240, Math.floor(i / 240)) ? 1 : 0));
      expect(overlap(cutCells(coloursOf(even), even, given, none), isGiven)).toBeGreaterThan(0.8);
    }
  });

  test("leaves what a hand has said, whatever the colours say", () => {
    const [x, y] = [120, Math.round(80 + 6 * Math.sin(120 / 17))];
    const near = Uint8Array.from(none, (_, i) => (isThing(i % 240, Math.floor(i / 240)) ? 1 : 0));
    const known = knownCells(SIZE, [seed(false, [(x + 0.5) / 240, (y + 0.5) / 240])]);
    expect(cutCells(coloursOf(scene), scene, near, known)[y * 240 + x]).toBe(0);
  });

  test("an outline's cells are those within it by the even-odd rule, also where it leaves the picture", () => {
    const random = seeded(4);
    const line = Array.from({ length: 9 }, (): [number, number] => [1.4 * random() - 0.2, random() - 0.1]);
    const beyond = cellsBeyond(SIZE, line);
    for (let k = 0; k < 500; k++) {
      const [i, j] = [Math.floor(240 * random()), Math.floor(160 * random())];
      const [x, y] = [(i + 0.5) / 240, (j + 0.5) / 240];
      const crossed = line.filter(([ax, ay], n) => {
        const [bx, by] = line[(n + 1) % line.length];
        return ay > y !== by > y && x < ax + ((y - ay) / (by - ay)) * (bx - ax);
      });
      expect(beyond[j * 240 + i] === UNKNOWN).toBe(crossed.length % 2 === 1);
    }
  });
});

test("a short scribble at the rim takes off what it lies on, not half of a thing that is even", () => {
  const isBowl = (x: number, y: number) => Math.hypot((x - 120) / 1.6, y - 80) < 50;
  const isRim = (x: number, y: number) => !isBowl(x, y) && Math.hypot((x - 120) / 1.6, y - 80) < 58;
  const scene = picture((x, y) => (isBowl(x, y) ? [0.7 + x / 1500, 0, 0.01] : isRim(x, y) ? [0.67 + x / 1500, 0, 0.01] : [0.35, 0.03, 0]), 0.02); // prettier-ignore
  const patches = superpixels(scene);
  const inside = patchesOfCells(patches, Uint8Array.from({ length: 240 * 160 }, (_, i) => (isBowl(i % 240, Math.floor(i / 240)) || isRim(i % 240, Math.floor(i / 240)) ? 1 : 0))); // prettier-ignore
  const scribbles = [seed(true, [100 / 240, 80 / 240], [140 / 240, 80 / 240]), seed(false, [32 / 240, 70 / 240], [32 / 240, 95 / 240])]; // prettier-ignore
  const after = cellsOfPatches(patches, correctedRegion(patches, inside, scribbles)!.inside);
  let [kept, all] = [0, 0];
  after.forEach((cell, i) => {
    if (!isBowl(i % 240, Math.floor(i / 240))) return;
    kept += cell;
    all++;
  });
  expect(kept / all).toBeGreaterThan(0.95);
  expect(after[80 * 240 + 32]).toBe(0);
});

describe("regions", () => {
  // A red ball and a green one before brown; the red one has a shaded side.
  const isRed = (x: number, y: number) => Math.hypot(x - 80, y - 80) < 38;
  const isGreen = (x: number, y: number) => Math.hypot(x - 170, y - 90) < 30;
  const balls = picture((x, y) =>
    isRed(x, y) ? [0.35 + 0.002 * (x - 40), 0.15, 0.07] : isGreen(x, y) ? [0.5, -0.09, 0.07] : [0.45, 0.03, 0.06],
  );
  const patches = superpixels(balls);

  test("a click finds what it is on", () => {
    for (const [x, y, truth] of [
      [70, 75, isRed],
      [165, 95, isGreen],
    ] as const) {
      const found = regionOfSeeds(patches, [seed(true, [x / 240, y / 240])])!;
      expect(overlap(cellRefiner(balls)(cellsOfPatches(patches, found)), truth)).toBeGreaterThan(0.95);
    }
  });
  test("a scribble that corrects a region takes or adds what it lies on, and leaves the rest as it was", () => {
    const cells = (inside: Uint8Array) => cellRefiner(balls)(cellsOfPatches(patches, inside));
    const first = seed(true, [70 / 240, 75 / 240]);
    const red = regionOfSeeds(patches, [first])!;
    const onGreen = seed(true, [160 / 240, 90 / 240], [180 / 240, 90 / 240]);
    const both = correctedRegion(patches, red, [first, onGreen])!;
    expect(overlap(cells(both.inside), (x, y) => isRed(x, y) || isGreen(x, y))).toBeGreaterThan(0.95);
    const offGreen = seed(false, [165 / 240, 85 / 240], [175 / 240, 95 / 240]);
    const again = correctedRegion(patches, both.inside, [first, offGreen])!;
    expect(overlap(cells(again.inside), isRed)).toBeGreaterThan(0.95);
    // On what is right already it does nothing; a part of one even thing that is taken is a part, and what a scribble holds stays.
    const ground = correctedRegion(patches, red, [first, seed(false, [125 / 240, 20 / 240], [125 / 240, 140 / 240])])!;
    expect(ground.inside).toEqual(red);
    const shade = correctedRegion(patches, red, [first, seed(false, [108 / 240, 60 / 240], [108 / 240, 100 / 240])])!;
    const left = [...cells(shade.inside)].filter((cell) => cell === 1).length;
    const before = [...cells(red)].filter((cell) => cell === 1).length;
    expect(left / before).toBeLessThan(0.95);
    expect(left / before).toBeGreaterThan(0.3);
    expect(cells(shade.inside)[75 * 240 + 70]).toBe(1);
  });
  test("scribbles on both sides say what belongs, an outline bounds it", () => {
    const both = regionOfSeeds(patches, [
      seed(true, [60 / 240, 80 / 240], [100 / 240, 80 / 240]),
      seed(true, [170 / 240, 90 / 240]),
      seed(false, [125 / 240, 20 / 240], [125 / 240, 140 / 240]),
    ])!;
    const truth = (x: number, y: number) => isRed(x, y) || isGreen(x, y);
    expect(overlap(cellRefiner(balls)(cellsOfPatches(patches, both)), truth)).toBeGreaterThan(0.95);
    const around: [number, number][] = [[0.13, 0.14], [0.53, 0.14], [0.53, 0.53], [0.13, 0.53]]; // prettier-ignore
    const outlined = regionOfOutline(patches, around)!;
    expect(overlap(cellRefiner(balls)(cellsOfPatches(patches, outlined)), isRed)).toBeGreaterThan(0.95);
    expect(regionOfSeeds(patches, [seed(true, [3, 3])])).toBeNull();
  });
  test("drawn around from outside, a thing of several colours is found whole from a scribble on one of them", () => {
    // A jar of a pale and a dark half on a ground between the two.
    const isJar = (x: number, y: number) => x > 90 && x < 150 && y > 40 && y < 120;
    const jar = picture((x, y) => (!isJar(x, y) ? [0.5, 0.05, 0.05] : x < 118 ? [0.75, 0, -0.06] : [0.25, 0, -0.08]));
    const jarPatches = superpixels(jar);
    const within = seed(true, [100 / 240, 60 / 240], [100 / 240, 100 / 240]);
    const corners: [number, number][] = [[80, 30], [160, 30], [160, 130], [80, 130], [80, 30]]; // prettier-ignore
    const around = seed(false, ...corners.map(([x, y]): [number, number] => [x / 240, y / 240]));
    const found = (...seeds: ReturnType<typeof seed>[]) =>
      overlap(cellRefiner(jar)(cellsOfPatches(jarPatches, regionOfSeeds(jarPatches, seeds)!)), isJar);
    expect(found(within)).toBeLessThan(0.6);
    expect(found(within, around)).toBeGreaterThan(0.95);
    expect(isPennedIn(jarPatches, [within])).toBe(false);
    expect(isPennedIn(jarPatches, [within, seed(false, [20 / 240, 30 / 240], [20 / 240, 130 / 240])])).toBe(false);
    expect(isPennedIn(jarPatches, [within, around])).toBe(true);
    // Cut off by the frame, it is drawn around as far as the frame goes, however little of the negative that is.
    const upTo = seed(false, [80 / 240, 100 / 240], [80 / 240, 30 / 240], [160 / 240, 30 / 240], [160 / 240, 100 / 240]); // prettier-ignore
    const isFramed = (patch: number) => jarPatches.ys[patch] < 96;
    expect(isPennedIn(jarPatches, [within, upTo])).toBe(false);
    expect(isPennedIn(jarPatches, [within, upTo], isFramed)).toBe(true);
    const aside = seed(false, [40 / 240, 20 / 240], [40 / 240, 60 / 240]);
    expect(isPennedIn(jarPatches, [within, aside], (patch) => isFramed(patch) && jarPatches.xs[patch] < 160)).toBe(
      false,
    );
  });
  test("a long scribble finds a thing of many colours as large as it says; a short one stays on what it is on", () => {
    // Petals of light and dark on a ground as rough.
    const isFlower = (x: number, y: number) => Math.hypot(x - 120, y - 80) < 50;
    const flower = picture((x, y) => {
      const petals = Math.tanh(4 * Math.sin(x / 7) * Math.sin(y / 6));
      return isFlower(x, y) ? [0.55 + 0.12 * petals, 0.1 + 0.03 * petals, 0.08] : [0.5 + 0.12 * petals, -0.03, 0.02];
    });
    const own = superpixels(flower);
    const found = (...points: [number, number][]) => cellsOfPatches(own, regionOfSeeds(own, [seed(true, ...points)])!);
    expect(overlap(found([85 / 240, 80 / 240], [155 / 240, 80 / 240]), isFlower)).toBeGreaterThan(0.85);
    expect(overlap(found([118 / 240, 80 / 240], [122 / 240, 80 / 240]), isFlower)).toBeLessThan(0.3);
  });
  test("a sky is offered where there is one: blue, or pale with cloud, over ground; walls, tables and leaves are none", () => {
    const ground = (x: number, y: number) => y > 90 + 14 * Math.sin(x / 17);
    const earth = (x: number, y: number): Lab => [0.4 + 0.05 * Math.sin(x * 1.7) * Math.sin(y * 1.3), 0.02, 0.06];
    const blue = picture((x, y) => (ground(x, y) ? earth(x, y) : [0.6 + 0.001 * y, -0.03, -0.07]));
    const pale = picture((x, y) => (ground(x, y) ? earth(x, y) : [0.85 + 0.03 * Math.sin(x / 30), 0, 0.01]));
    for (const scene of [blue, pale]) {
      const own = superpixels(scene);
      const found = proposeSky(scene, own)!;
      const cells = cellRefiner(scene)(cellsOfPatches(own, found.inside), cellsOfPatches(own, found.unsure));
      expect(overlap(cells, (x, y) => !ground(x, y))).toBeGreaterThan(0.95);
      expect(proposeRegions(scene, own)[0].of).toBe("sky");
    }
    const wall = picture((x, y) => [0.45 + 0.001 * x, 0.02, 0.03 + (y > 100 ? 0.05 : 0)]);
    const white = picture((x) => [0.8 - 0.001 * x, -0.005, -0.02]);
    // A leaf near the lens, lit, before its own shade.
    const leaf = picture((x, y) => (ground(x, y) ? [0.3, -0.07, 0.07] : [0.62, -0.1, 0.065]));
    expect([wall, white, leaf].map((scene) => proposeSky(scene, superpixels(scene)))).toEqual([null, null, null]);
  });
  test("in warm light a sky is bluer than the ground only, and about a low sun warmer; a shadow is none", () => {
    const ground = (x: number, y: number) => y > 90 + 14 * Math.sin(x / 17);
    const field = (x: number, y: number): Lab => [0.6 + 0.05 * Math.sin(x * 1.7) * Math.sin(y * 1.3), 0.02, 0.14];
    const skyOf = (scene: PlanarPicture) => proposeRegions(scene, superpixels(scene)).find(({ of }) => of === "sky");
    const warm = picture((x, y) => (ground(x, y) ? field(x, y) : [0.63 + 0.0003 * y, 0.01, 0.01]));
    const shadow = picture((x, y) => (ground(x, y) ? field(x, y) : [0.35, 0.01, 0.01]));
    expect(overlap(skyOf(warm)?.inside ?? [], (x, y) => !ground(x, y))).toBeGreaterThan(0.95);
    expect(skyOf(shadow)).toBeUndefined();
    const evening = picture((x, y) => {
      if (ground(x, y)) return [0.35 + 0.05 * Math.sin(x * 1.7) * Math.sin(y * 1.3), 0, 0.02];
      const low = Math.min(1, Math.max(0, (y - 25 - 8 * Math.sin(x / 25)) / 30));
      return [0.5 + 0.35 * low, -0.03 + 0.06 * low, -0.07 + 0.16 * low];
    });
    expect(overlap(skyOf(evening)?.inside ?? [], (x, y) => !ground(x, y))).toBeGreaterThan(0.95);
  });
  test("hills in haze, and water under them as light as the sky, are not sky; cloud is", () => {
    const hills = (x: number) => 80 + 6 * Math.sin(x / 23) + (x > 150 && x < 160 ? 3 : 0);
    const scene = picture((x, y) => {
      const cloud = Math.max(0, Math.sin(x / 21 + y / 9) * Math.sin(y / 13));
      if (y < hills(x)) return [0.72 + 0.0008 * y + 0.12 * cloud, -0.02 + 0.02 * cloud, -0.06 + 0.055 * cloud];
      if (y < 112) return [0.72 + 0.0012 * (y - 80), -0.02, -0.055];
      if (y < 122) return [0.785, -0.02, -0.06];
      return [0.35 + 0.06 * Math.sin(x * 1.7) * Math.sin(y * 1.3), -0.02, 0.05];
    });
    const own = superpixels(scene);
    const sky = proposeRegions(scene, own).find(({ of }) => of === "sky");
    expect(overlap(sky?.inside ?? [], (x, y) => y < hills(x))).toBeGreaterThan(0.9);
  });
  test("a sky that goes over into mist is found wherever patches happen to lie", () => {
    const horizon = 88;
    const misty = (shift: number, seed: number) =>
      picture(
        (x, y) => {
          const into = 1 / (1 + Math.exp(-(y - horizon - 5 * Math.sin((x + shift) / 19)) / 2.5));
          const far = Math.max(0, Math.min(1, (y - horizon) / 60));
          const ground = 0.68 - 0.3 * far + 0.02 * (1 + far) * Math.sin((x + shift) * 1.7) * Math.sin(y * 1.3);
          return [0.86 + (ground - 0.86) * into, 0.01 * into, 0.005 + 0.03 * into];
        },
        0.012,
        seed,
      );
    const tried = Array.from({ length: 10 }, (_, k) => misty(3 * k, k + 1));
    const alone = tried.filter((scene) => proposeSky(scene, superpixels(scene)) !== null).length;
    const found = tried.map((scene) => proposeRegions(scene, superpixels(scene)).find(({ of }) => of === "sky"));
    // One cut alone misses it in some.
    expect(alone).toBeLessThan(tried.length);
    for (const one of found) expect(overlap(one?.inside ?? [], (_, y) => y < horizon)).toBeGreaterThan(0.94);
  });
  test("a sky goes on behind cables, and over into white, as far as land; white boards are none", () => {
    const skyOf = (scene: PlanarPicture) => proposeRegions(scene, superpixels(scene)).find(({ of }) => of === "sky");
    const horizon = 130;
    const away = (x: number, y: number) => Math.min(Math.abs(y - 20 - 0.4 * x), Math.abs(y - 110 + 0.4 * x));
    const crossed = picture((x, y) => {
      if (y >= horizon) return [0.62 + 0.03 * Math.sin(x * 1.7) * Math.sin(y * 1.3), 0, 0.05];
      if (away(x, y) < 1.5) return [0.35, 0, 0];
      if (y < 2) return [0.4, 0.1, -0.1];
      const low = Math.max(0, (y - 60) / 70);
      return [0.6 + 0.0008 * y + 0.14 * low, -0.02, -0.07 + 0.07 * low];
    });
    const sky = skyOf(crossed);
    const seen = sky?.inside.map((value, i) => value | sky.unsure[i]) ?? [];
    expect(overlap(seen, (x, y) => y > 1 && y < horizon && away(x, y) >= 1.5)).toBeGreaterThan(0.94);
    // A lit strip above a ledge, and under it boards that are lit more.
    const boards = picture((x, y) =>
      (y > 30 && y < 60) || y > 110
        ? [0.35 + 0.05 * Math.sin(x * 1.7) * Math.sin(y * 1.3), 0, 0.02]
        : [y < 60 ? 0.8 : 0.88, 0, 0.005],
    );
    expect(skyOf(boards)).toBeUndefined();
  });
  test("sky between columns is sky; its mirror in water, and snow on a wall, are none", () => {
    const skyAt = (y: number): Lab => [0.62 + 0.0014 * y, -0.03, -0.08 + 0.0003 * y];
    const isSky = (x: number, y: number) =>
      y < 38 || (x > 200 && y < 84) || (x < 180 && x % 60 > 20 && x % 60 < 46 && y > 58 && y < 98);
    const isSnow = (x: number, y: number) => Math.hypot(x - 63, y - 78) < 11;
    const scene = picture((x, y) => {
      if (isSky(x, y)) return skyAt(y);
      if (isSnow(x, y)) return [0.92, 0, 0.005];
      if (y > 138) return [0.56, -0.03, -0.07];
      return [0.42 + 0.05 * Math.sin(x * 1.7) * Math.sin(y * 1.3), 0.03, 0.06];
    });
    const sky = proposeRegions(scene, superpixels(scene)).find(({ of }) => of === "sky");
    expect(overlap(sky?.inside ?? [], isSky)).toBeGreaterThan(0.94);
    expect(sky!.inside.some((value, i) => value && isSnow(i % SIZE.width, Math.floor(i / SIZE.width)))).toBe(false);
  });
});
