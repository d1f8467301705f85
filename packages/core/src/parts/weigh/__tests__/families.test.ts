import { beforeAll, describe, expect, test } from "@jest/globals";
import { luminanceToLightness } from "../../../colour/lab.ts";
import { IDENTITY3, type Vector3 } from "../../../colour/matrix.ts";
import type { KernelHeap } from "../../../kernels/heap.ts";
import { openHeap, seeded } from "../../../kernels/__tests__/open-heap.ts";
import { defaultRecipe } from "../../../recipe/defaults.ts";
import type { Family } from "../schema.ts";
import type { Recipe } from "../../../recipe/schema.ts";
import { bakeLattice, planLattice } from "../colour-lattice.ts";
import { edgePlaces } from "../edge-places.ts";
import { addFamily, mergeFamilies, splitFamily } from "../family-changes.ts";
import { colourShare, familyPlace, familyToPlace, placeToFamily, placeToWorking } from "../family.ts";
import { membershipOf } from "../membership.ts";
import { nameColour, nameColours } from "../family-names.ts";
import type { Cluster } from "../cluster-colours.ts";
import { colourCells } from "../colour-cells.ts";
import { findFamilies, newFamily } from "../find-families.ts";
import { mostAgreed } from "../most-agreed.ts";
import { REC2020 } from "../../../colour/rgb-space.ts";
import { colourStops, greyLight, greyModel } from "../grey-model.ts";
import { mapFamilies, NEUTRAL_LABEL } from "../picture-colours.ts";

const SEED = 77;
const random = seeded(SEED);
const RED: Vector3 = [0.32, 0.09, 0.05];
const GREEN: Vector3 = [0.1, 0.18, 0.04];
const BLUE: Vector3 = [0.16, 0.26, 0.5];

const family = (id: string, colour: Vector3, stops = 0): Family => ({
  ...newFamily(id, id, familyPlace(colour)),
  stops,
});
const THREE = [family("red", RED, 1.2), family("green", GREEN, -0.7), family("blue", BLUE, -1.5)];
const weighOf = (change: Partial<Recipe["weigh"]>): Recipe["weigh"] => ({ ...defaultRecipe().weigh, ...change });
const randomColour = (): Vector3 => {
  const level = 2 ** (-8 * random());
  return [level * (0.06 + random()), level * (0.06 + random()), level * (0.06 + random())];
};

describe("memberships", () => {
  test.each([
    [0, "mixture"],
    [0.5, "mixture"],
    [1, "mixture"],
    [0.5, "nearness"],
  ] as const)("sum to 1, lie between 0 and 1, at softness %d by %s", (softness, passage) => {
    const membership = membershipOf({ families: THREE, softness, passage });
    const shares = new Float64Array(4);
    for (let i = 0; i < 2000; i++) {
      membership.at(familyPlace(randomColour()), shares);
      expect(shares.reduce((sum, v) => sum + v, 0)).toBeCloseTo(1, 9);
      expect(Math.min(...shares)).toBeGreaterThanOrEqual(0);
    }
  });
  test("neutrals belong to nobody and are not moved; black and negative colours too", () => {
    const model = greyModel(weighOf({ families: THREE }));
    for (const level of [0, 1e-6, 0.001, 0.18, 1, 4]) expect(colourStops(model, [level, level, level])).toBe(0);
    expect(colourStops(model, [-0.1, -0.2, -0.1])).toBe(0);
  });
  test("the middle of a family is its own, in light and in shade", () => {
    const membership = membershipOf({ families: THREE, softness: 0.5, passage: "mixture" });
    const shares = new Float64Array(4);
    [RED, GREEN, BLUE].forEach((colour, k) => {
      for (const light of [0.3, 1, 2]) {
        membership.at(familyPlace([colour[0] * light, colour[1] * light, colour[2] * light]), shares);
        expect(shares[k]).toBeGreaterThan(0.9);
      }
    });
  });
  test("a mixture of two families' lights, each in its own shade, gets what its parts get", () => {
    const luminance = ([r, g, b]: Vector3) =>
      REC2020.luminance[0] * r + REC2020.luminance[1] * g + REC2020.luminance[2] * b;
    const misses = (passage: "mixture" | "nearness") => {
      const model = greyModel(weighOf({ families: THREE, passage }));
      return [
        [RED, GREEN, 1.2, -0.7],
        [RED, BLUE, 1.2, -1.5],
        [GREEN, BLUE, -0.7, -1.5],
      ].flatMap(([first, second, up, down]) =>
        Array.from({ length: 60 }, (_, i) => {
          const share = (i + 0.5) / 60;
          const [light, other] = [share * 2 ** (random() - 0.5), (1 - share) * 2 ** (random() - 0.5)];
          const a = (first as Vector3).map((v) => v * light) as unknown as Vector3;
          const b = (second as Vector3).map((v) => v * other) as unknown as Vector3;
          const truth = luminance(a) * 2 ** (up as number) + luminance(b) * 2 ** (down as number);
          const mixed: Vector3 = [a[0] + b[0], a[1] + b[1], a[2] + b[2]];
          // Where the two make a grey it is nobody's.
          return colourShare(familyPlace(mixed)) < 1 ? 0 : Math.abs(Math.log2(greyLight(model, mixed) / truth));
        }),
      );
    };
    expect(Math.max(...misses("mixture"))).toBeLessThan(0.45);
    expect(Math.max(...misses("nearness"))).toBeGreaterThan(0.9);
  });
  test("they are smooth: a small change of colour is a small change of stops", () => {
    const model = greyModel(weighOf({ families: THREE, softness: 0.5, passage: "mixture" }));
    for (let i = 0; i < 3000; i++) {
      const colour = randomColour();
      const near = colour.map((v) => v * (1 + 0.004 * (random() - 0.5))) as unknown as Vector3;
      expect(Math.abs(colourStops(model, colour) - colourStops(model, near))).toBeLessThan(0.12);
    }
  });
  test("places and the recipe's terms are inverse", () => {
    for (let i = 0; i < 200; i++) {
      const place = familyPlace(randomColour());
      familyToPlace(placeToFamily(place)).forEach((v, c) => expect(v).toBeCloseTo(place[c], 9));
    }
  });
});

describe("the lattice and its kernel", () => {
  let heap: KernelHeap;
  beforeAll(async () => {
    heap = await openHeap(0);
  });

  /** Weighs colours by what the kernel looks up for them: a cell of 4 × 4 pixels each. */
  function weighed(weigh: Recipe["weigh"], colours: readonly Vector3[]): Float32Array {
    const model = greyModel(weigh);
    const n = colours.length;
    const width = 4 * n;
    const mark = heap.mark();
    const lattice = planLattice(model);
    const { nodeLength, targets } = lattice;
    const table = bakeLattice(heap, model, lattice);
    const floats = heap.allocate(48 * width);
    const halves = heap.allocate(24 * width + 16);
    const planes = heap.floats(floats, 12 * width);
    for (let row = 0; row < 4; row++)
      for (let x = 0; x < width; x++)
        for (let c = 0; c < 3; c++) planes[(4 * c + row) * width + x] = colours[x >> 2][c];
    heap.kernels.halvesOfRect(floats, 12 * width, 12 * width, 1, halves);
    const colour = [halves, halves + 8 * width, halves + 16 * width] as const;
    const stride = width + 16;
    const [toRed, toBlue] = [0, 1].map(() => heap.allocate(24 * stride));
    heap.kernels.colourRatios(...colour, width, 4, toRed, toBlue, stride);
    // Cells are written by fours.
    const cells = (n + 3) & ~3;
    const out = heap.allocate(40 * targets * cells);
    const samples = heap.allocate(64 * cells);
    const luminance = REC2020.luminance;
    heap.kernels.gatherVotes(
      ...colour, width, 4, table, 4 * nodeLength, targets, model.floor, toRed, toBlue, stride,
      out, 4 * cells, heap.allocate(24 * cells), samples, cells, heap.place(Float32Array.from(IDENTITY3)), 0.025, ...luminance,
    ); // prettier-ignore
    const sums = heap.floats(out, 10 * targets * cells);
    const found = Float32Array.from(colours, (working, i) => {
      const votes = (target: number) => sums[(10 * target + 9) * cells + i];
      const gain =
        [...model.familyStops].reduce((sum, stops, k) => sum + 2 ** stops * votes(k), 0) / votes(targets - 1);
      return gain * model.weights.reduce((sum, weight, c) => sum + weight * working[c], 0);
    });
    heap.release(mark);
    return found;
  }

  const film = { ...defaultRecipe().weigh.film, filter: "red" as const };
  test.each([
    ["film", { by: "film", film }, 0.35, 0.15],
    ["families", { families: THREE }, 2.5, 0.9],
    ["crisp families", { families: THREE, softness: 0 }, 5, 2.5],
    ["film and families", { by: "film", film, families: THREE }, 2.5, 0.9],
  ] as const)("%s: the table gives the formula's grey", (_name, change, most, usual) => {
    const colours = Array.from({ length: 4000 }, randomColour);
    const weigh = weighOf(change);
    const model = greyModel(weigh);
    const found = weighed(weigh, colours);
    const errors = colours
      .map((colour, i) => Math.abs(luminanceToLightness(found[i]) - luminanceToLightness(greyLight(model, colour))))
      .sort((p, q) => p - q);
    expect(errors[Math.floor(0.99 * errors.length)]).toBeLessThan(usual);
    expect(errors[errors.length - 1]).toBeLessThan(most);
    // And it differs from plain weights, so the table was used.
    const plain = colours.filter(
      (colour, i) => Math.abs(greyLight(greyModel(weighOf({})), colour) / found[i] - 1) > 0.05,
    );
    expect(plain.length).toBeGreaterThan(500);
  });

  test("neutrals come out exactly as without families, and nothing odd comes of odd values", () => {
    const weigh = weighOf({ families: THREE });
    const found = weighed(weigh, [[0.5, 0.5, 0.5], [0, 0, 0], [-0.25, 0.5, 0.5], [100, 1e-5, 0], [0, 0, 60000]]); // prettier-ignore
    expect(found[0]).toBeCloseTo(0.5, 5);
    expect(found[1]).toBe(0);
    for (const value of found) expect(Number.isFinite(value)).toBe(true);
  });
});

describe("finding families", () => {
  /** Stripes of colours with light and shade on them, and a little scatter. */
  function stripes(colours: readonly Vector3[], width = 200, height = 120, scatter = 0.03) {
    const noise = seeded(5);
    const planes = [0, 1, 2].map(() => new Float32Array(width * height)) as [Float32Array, Float32Array, Float32Array];
    const truth = new Uint8Array(width * height);
    for (let i = 0; i < width * height; i++) {
      const stripe = Math.floor(((i % width) / width) * colours.length);
      const light = 0.5 + 1.2 * (Math.floor(i / width) / height);
      truth[i] = stripe;
      colours[stripe].forEach((v, c) => (planes[c][i] = v * light * (1 + scatter * (noise() - 0.5))));
    }
    return { planes, width, height, truth };
  }
  const SIX: Vector3[] = [RED, GREEN, BLUE, [0.2, 0.2, 0.2], [0.5, 0.36, 0.06], [0.2, 0.08, 0.3]];

  test("each material is a family of its own through light and shade, neutrals apart, shares true", () => {
    const picture = stripes(SIX);
    const cells = colourCells(picture);
    const families = findFamilies(cells);
    expect(families.length).toBe(5);
    const map = mapFamilies({ families, softness: 0.5, passage: "mixture" }, picture, cells);
    const owners = SIX.map((_, stripe) => {
      const counts = new Map<number, number>();
      picture.truth.forEach((owner, i) => {
        if (owner === stripe) counts.set(map.labels[i], (counts.get(map.labels[i]) ?? 0) + 1);
      });
      const [label, count] = [...counts].sort((p, q) => q[1] - p[1])[0];
      expect(count).toBeGreaterThan(0.92 * (picture.truth.length / 6));
      return label;
    });
    expect(new Set(owners).size).toBe(6);
    expect(owners[3]).toBe(NEUTRAL_LABEL);
    for (const { share } of map.facts) expect(Math.abs(share - 1 / 6)).toBeLessThan(0.015);
    // Each touches the stripe beside it and no other, over the picture's height.
    const expected = SIX.slice(1).map((_, i) =>
      [owners[i], owners[i + 1]].map((l) => (l === NEUTRAL_LABEL ? 5 : l)).sort(),
    );
    expect(map.boundaries.map(({ first, second }) => [first, second].sort()).sort()).toEqual(expected.sort());
    for (const { length } of map.boundaries) expect(Math.abs(length - 120 / 200)).toBeLessThan(0.35);
  });

  test("places on edges lie where groups meet that were moved apart, the farthest first", () => {
    const picture = stripes(SIX);
    const cells = colourCells(picture);
    const map = mapFamilies({ families: findFamilies(cells), softness: 0.5, passage: "mixture" }, picture, cells);
    const moved = map.facts.map((_, k) => 3 * k * k);
    const places = edgePlaces(map, moved, 3);
    expect(places).toHaveLength(3);
    expect(new Set(places.map(({ first, second }) => `${first} ${second}`)).size).toBe(3);
    const apart = places.map(({ first, second }) => Math.abs(moved[first] - moved[second]));
    expect(apart).toEqual([...apart].sort((p, q) => q - p));
    for (const { x } of places) expect(Math.abs(x * 6 - Math.round(x * 6))).toBeLessThan((6 * 4) / picture.width);
    expect(edgePlaces(map, map.facts.map(() => 5), 3)).toEqual([]); // prettier-ignore
    expect(edgePlaces(map, moved, 99).length).toBeGreaterThan(map.boundaries.length);
  });

  test("is the same twice, at another exposure nearly so, and of a grey picture nothing", () => {
    const cells = colourCells(stripes(SIX));
    expect(findFamilies(cells)).toEqual(findFamilies(cells));
    const brighter = findFamilies(colourCells(stripes(SIX.map((c) => c.map((v) => 1.3 * v) as unknown as Vector3))));
    const before = findFamilies(cells);
    expect(brighter.length).toBe(before.length);
    for (const [i, one] of before.entries()) {
      expect(Math.abs(brighter[i].hueDegrees - one.hueDegrees)).toBeLessThan(0.5);
      expect(brighter[i].lightness / one.lightness).toBeCloseTo(Math.cbrt(1.3), 2);
    }
    expect(findFamilies(colourCells(stripes([[0.3, 0.3, 0.3]])))).toEqual([]);
    // Next to grey is grey: such a family would have hardly a pixel. Fog has one.
    const tinted = (saturation: number) =>
      [100, 280].map((hueDegrees) => placeToWorking(familyToPlace({ hueDegrees, saturation, lightness: 0.6 })));
    expect(findFamilies(colourCells(stripes(tinted(0.02))))).toEqual([]);
    expect(findFamilies(colourCells(stripes(tinted(0.04))))).not.toEqual([]);
    expect(
      findFamilies({ cells: [], gain: 1, owners: new Uint16Array(0), pure: new Float32Array(0), width: 0 }),
    ).toEqual([]);
  });

  /** A picture of 240 × 160 with a light of its own at each place. */
  function painted(at: (x: number, y: number) => Vector3) {
    const [width, height] = [240, 160];
    const planes = [0, 1, 2].map(() => new Float32Array(width * height)) as [Float32Array, Float32Array, Float32Array];
    for (let i = 0; i < width * height; i++) at(i % width, Math.floor(i / width)).forEach((v, c) => (planes[c][i] = v));
    return { planes, width, height };
  }
  const lit = (colour: Vector3, light: number): Vector3 => [colour[0] * light, colour[1] * light, colour[2] * light];
  const mixed = (p: Vector3, q: Vector3, t: number): Vector3 => [
    p[0] + t * (q[0] - p[0]),
    p[1] + t * (q[1] - p[1]),
    p[2] + t * (q[2] - p[2]),
  ];
  const [LIT, SHADED]: Vector3[] = [[0.14, 0.34, 0.03], [0.035, 0.1, 0.012]]; // prettier-ignore

  test("light and shade are one thing, what is duller in shade, too, where it is woven into it; beside each other they are two", () => {
    const found = (at: (x: number, y: number) => boolean, other: Vector3) =>
      findFamilies(colourCells(painted((x, y) => (at(x, y) ? LIT : other)))).length;
    const blades = (x: number, y: number) => Math.floor((x + 0.2 * y) / 9) % 2 > 0;
    const halves = (x: number) => x < 120;
    const dull: Vector3 = [0.03, 0.065, 0.02];
    expect([found(blades, SHADED), found(halves, SHADED)]).toEqual([1, 1]);
    expect([found(blades, dull), found(halves, dull)]).toEqual([1, 2]);
  });

  test("the passage between two things out of focus is none of its own, and a slow one no edge between them", () => {
    const passage = (wide: number) => {
      const picture = painted((x, y) => mixed(lit(RED, 1 + 0.1 * Math.sin(y / 9)), BLUE, Math.min(1, Math.max(0, (x - 120) / wide + 0.5)))); // prettier-ignore
      const cells = colourCells(picture);
      const families = findFamilies(cells);
      return { families, map: mapFamilies({ families, softness: 0.5, passage: "mixture" }, picture, cells) };
    };
    expect(passage(14).families).toHaveLength(2);
    const [sharp, slow] = [1, 220].map((wide) => passage(wide).map.boundaries.reduce((sum, { length }) => sum + length, 0)); // prettier-ignore
    expect(sharp).toBeGreaterThan(0.5);
    expect(slow).toBeLessThan(0.1);
  });

  test("of several ways to divide colours the one that most of all agree with is taken, and of candidates only", () => {
    const at = (hue: number, weight = 1): Cluster => ({ place: [0.1 * Math.cos(hue), 0.1 * Math.sin(hue), 0.5], x: 0.5, y: 0.5, weight }); // prettier-ignore
    const points = Array.from({ length: 60 }, (_, i) => at(i / 10));
    const [halves, thirds, otherThirds] = [[1.5, 4.5], [1, 3, 5], [1.1, 3.1, 5.1]].map((hues) => hues.map((hue) => at(hue))); // prettier-ignore
    expect(mostAgreed(points, [halves, thirds, otherThirds], [])).toEqual(thirds);
    expect(mostAgreed(points, [halves, thirds], [[at(1.4), at(4.4)], [at(1.6), at(4.6)]])).toEqual(halves); // prettier-ignore
    expect(mostAgreed(points, [thirds], [halves, [...halves]])).toEqual(thirds);
    // What is heavier has more of a say.
    const heavy = points.map((point, i) => ({ ...point, weight: i < 20 ? 50 : 1 }));
    const [splitLeft, splitRight] = [
      [0.5, 1.5, 4],
      [1, 3, 5],
    ].map((hues) => hues.map((hue) => at(hue)));
    expect(mostAgreed(heavy, [splitRight, splitLeft], [[at(1), at(4)]])).toEqual(splitRight);
    expect(mostAgreed(points, [splitRight, splitLeft], [[at(0.6), at(1.6), at(4)]])).toEqual(splitLeft);
  });

  test("never more than nine, however many colours", () => {
    const many = Array.from({ length: 24 }, (_, i): Vector3 => {
      const angle = (i / 24) * 2 * Math.PI;
      return [0.2 + 0.15 * Math.cos(angle), 0.2 + 0.12 * Math.cos(angle + 2.1), 0.2 + 0.15 * Math.cos(angle + 4.2)];
    });
    const found = findFamilies(colourCells(stripes(many)));
    expect(found.length).toBeGreaterThanOrEqual(3);
    expect(found.length).toBeLessThanOrEqual(9);
  });
});

describe("changing families", () => {
  const samples = [
    { working: RED, weight: 0.3 },
    { working: [0.36, 0.1, 0.055] as Vector3, weight: 0.2 },
    { working: [0.3, 0.16, 0.05] as Vector3, weight: 0.3 },
    { working: [0.28, 0.17, 0.05] as Vector3, weight: 0.2 },
  ];
  test("split parts it between its colours and keeps its stops; one colour cannot be split", () => {
    const split = splitFamily(THREE, "red", samples);
    expect(split).toHaveLength(4);
    expect(split.slice(0, 2).map(({ stops }) => stops)).toEqual([1.2, 1.2]);
    expect(new Set(split.map(({ id }) => id)).size).toBe(4);
    const hues = split.slice(0, 2).map(({ hueDegrees }) => hueDegrees);
    expect(Math.abs(hues[0] - hues[1])).toBeGreaterThan(10);
    expect(splitFamily(THREE, "red", samples.slice(0, 1))).toEqual(THREE);
    expect(splitFamily(THREE, "nobody", samples)).toEqual(THREE);
  });
  test("merge weighs by share; with itself or a stranger it changes nothing", () => {
    const merged = mergeFamilies(THREE, { id: "red", share: 0.3 }, { id: "green", share: 0.1 });
    expect(merged.map(({ id }) => id)).toEqual(["red", "blue"]);
    expect(merged[0].stops).toBeCloseTo(0.75 * 1.2 - 0.25 * 0.7, 1);
    expect(mergeFamilies(THREE, { id: "red", share: 1 }, { id: "red", share: 1 })).toEqual(THREE);
    expect(mergeFamilies(THREE, { id: "red", share: 1 }, { id: "nobody", share: 1 })).toEqual(THREE);
  });
  test("a picked colour is a family about it", () => {
    const added = addFamily(THREE, [0.5, 0.36, 0.06]);
    expect(added).toHaveLength(4);
    const membership = membershipOf({ families: added, softness: 0.5, passage: "mixture" });
    const shares = new Float64Array(5);
    membership.at(familyPlace([0.5, 0.36, 0.06]), shares);
    expect(shares[3]).toBeGreaterThan(0.95);
  });
  test("names say the colour, and no two are the same", () => {
    expect(nameColour(familyPlace(BLUE))).toMatch(/blue/);
    expect(nameColour(familyPlace([0.5, 0.12, 0.05]))).toMatch(/red|terracotta/);
    const names = nameColours(
      [RED, [0.16, 0.045, 0.025], [0.64, 0.18, 0.1], GREEN].map((c) => familyPlace(c as Vector3)),
    );
    expect(new Set(names).size).toBe(4);
  });
  test("however many are alike, their names are words, each its own", () => {
    for (let count = 2; count <= 13; count++) {
      const alike = Array.from({ length: count }, (_, i) => familyPlace([0.3 + 0.012 * i, 0.2 + 0.008 * i, 0.1]));
      const names = nameColours(alike);
      expect(new Set(names).size).toBe(count);
      for (const name of names) expect(name).not.toMatch(/\d/);
    }
  });
});
