import { beforeAll, describe, expect, test } from "@jest/globals";
import { openHeap, seeded } from "../../kernels/__tests__/open-heap.ts";
import type { KernelHeap } from "../../kernels/heap.ts";
import { applyAffine } from "../../maths/affine.ts";
import type { EllipseShape } from "../ellipse.ts";
import { rampDirection, type RampShape } from "../ramp.ts";
import type { MaskGrid } from "../shape.ts";
import {
  carryShape,
  drawMask,
  isDrawn,
  newShape,
  SHAPE_NAMES,
  shapeBounds,
  shapeWords,
  type MaskShape,
} from "../shapes.ts";

let heap: KernelHeap;
beforeAll(async () => {
  heap = await openHeap(0);
});

const WIDTH = 96;
const HEIGHT = 64;
/** The flat picture, one long edge wide, on the grid: turned a little, so that axes are nothing special. */
const GRID: MaskGrid = {
  width: WIDTH,
  height: HEIGHT,
  toFlat: { ax: 0.98 / WIDTH, bx: -0.2 / WIDTH, cx: 0.05, ay: 0.2 / WIDTH, by: 0.98 / WIDTH, cy: -0.02 },
};

function draw(shape: MaskShape): Float32Array {
  const mark = heap.mark();
  const out = heap.allocate(4 * WIDTH * HEIGHT);
  drawMask(heap, shape, GRID, out);
  const mask = heap.floats(out, WIDTH * HEIGHT).slice();
  heap.release(mark);
  return mask;
}

/** The mask as its formula says, pixel by pixel. */
function expectFormula(shape: MaskShape, formula: (x: number, y: number) => number): void {
  const mask = draw(shape);
  let worst = 0;
  for (let row = 0; row < HEIGHT; row++)
    for (let column = 0; column < WIDTH; column++) {
      const [x, y] = applyAffine(GRID.toFlat, column, row);
      worst = Math.max(worst, Math.abs(mask[row * WIDTH + column] - formula(x, y)));
    }
  expect(worst).toBeLessThan(2e-5);
}

const quintic = (t: number) => {
  const s = Math.min(1, Math.max(0, t));
  return s ** 3 * (s * (6 * s - 15) + 10);
};

describe("masks are what their formulas say", () => {
  test.each(["one", "two"] as const)("a ramp to %s side(s)", (sides) => {
    const shape: RampShape = { kind: "ramp", x: 0.45, y: 0.3, angleDegrees: 33, reach: 0.25, sides };
    const [ux, uy] = rampDirection(shape);
    expectFormula(shape, (x, y) => {
      const d = (ux * (x - shape.x) + uy * (y - shape.y)) / shape.reach;
      return quintic(1 - (sides === "two" ? Math.abs(d) : d));
    });
  });
  test("an ellipse, turned and with a hard middle", () => {
    const shape: EllipseShape = { ...(newShape("ellipse", 0.5, 0.3) as EllipseShape), angleDegrees: 20, softness: 0.6 };
    const angle = (shape.angleDegrees * Math.PI) / 180;
    expectFormula(shape, (x, y) => {
      const [dx, dy] = [x - shape.x, y - shape.y];
      const u = (dx * Math.cos(angle) + dy * Math.sin(angle)) / shape.radiusX;
      const v = (dy * Math.cos(angle) - dx * Math.sin(angle)) / shape.radiusY;
      return quintic((1 - Math.hypot(u, v)) / shape.softness);
    });
  });
  test("two dabs of a brush build up, an erasing one takes away", () => {
    const dab = {
      softness: 1,
      flow: 0.4,
      erase: false,
      radius: 0.2,
      points: [[0.4, 0.3, 1]] as [number, number, number][],
    };
    const shape: MaskShape = {
      kind: "brush",
      strokes: [{ ...dab, id: "a" }, { ...dab, id: "b", flow: 0.3 }, { ...dab, id: "c", flow: 0.5, erase: true }],
    }; // prettier-ignore
    expectFormula(shape, (x, y) => {
      const m = quintic(1 - Math.hypot(x - 0.4, y - 0.3) / 0.2);
      return (1 - (1 - 0.4 * m) * (1 - 0.3 * m)) * (1 - 0.5 * m);
    });
  });
});

describe("every kind of shape", () => {
  const random = seeded(7);
  const somewhere = (name: (typeof SHAPE_NAMES)[number]) => newShape(name, 0.3 + 0.4 * random(), 0.15 + 0.3 * random());

  test.each(SHAPE_NAMES)("%s: is 0 to the bit outside its bounds", (name) => {
    for (let i = 0; i < 12; i++) {
      const shape = somewhere(name);
      const { left, right, top, bottom } = shapeBounds(shape);
      const mask = draw(shape);
      mask.forEach((value, at) => {
        const [x, y] = applyAffine(GRID.toFlat, at % WIDTH, Math.floor(at / WIDTH));
        if (x < left - 1e-6 || x > right + 1e-6 || y < top - 1e-6 || y > bottom + 1e-6)
          if (value !== 0) expect([x, y, value]).toEqual([x, y, 0]);
      });
      expect(mask.some((value) => value > 0)).toBe(true);
    }
  });

  test.each(SHAPE_NAMES)(
    "%s: carried there and back it is what it was, moved it is the same mask elsewhere",
    (name) => {
      const shape = somewhere(name);
      const there = carryShape(shape, (x, y) => [x + 0.1, y - 0.05]);
      const back = carryShape(there, (x, y) => [x - 0.1, y + 0.05]);
      const first = draw(shape).slice();
      const farthest = draw(back).reduce((most, value, at) => Math.max(most, Math.abs(value - first[at])), 0);
      expect(farthest).toBeLessThan(5e-5);
      const [b, c] = [shapeBounds(shape), shapeBounds(there)];
      if (Number.isFinite(b.left)) expect(c.left).toBeCloseTo(b.left + 0.1, 6);
      if (Number.isFinite(b.top)) expect(c.top).toBeCloseTo(b.top - 0.05, 6);
    },
  );

  // A region's cells do not go beyond the negative.
  test.each(SHAPE_NAMES.filter((name) => name !== "region"))("%s: grows with what it lies on", (name) => {
    const shape = somewhere(name);
    const grown = shapeBounds(carryShape(shape, (x, y) => [2 * x, 2 * y]));
    const before = shapeBounds(shape);
    if (Number.isFinite(before.right - before.left))
      expect((grown.right - grown.left) / (before.right - before.left)).toBeCloseTo(2, 3);
  });

  test.each(SHAPE_NAMES)("%s: has words, and a fresh one is drawn", (name) => {
    expect(shapeWords(somewhere(name))).toContain(name === "joined" ? "ellipse" : name);
    expect(isDrawn(somewhere(name))).toBe(true);
  });
});
