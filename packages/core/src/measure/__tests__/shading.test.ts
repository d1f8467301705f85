import { expect, test } from "@jest/globals";
import { stopsToLight } from "../../colour/stops.ts";
import { seeded } from "../../kernels/__tests__/open-heap.ts";
import { lightDirection, splashes } from "../shading.ts";

const SIZE = { width: 300, height: 200 };
const draw = (stops: (x: number, y: number) => number) =>
  Float32Array.from({ length: SIZE.width * SIZE.height }, (_, i) =>
    stopsToLight(stops((i % SIZE.width) + 0.5, Math.floor(i / SIZE.width) + 0.5)),
  );

test("light comes from where lit bodies grow lighter, whatever they stand before", () => {
  for (const angle of [-150, -60, 0, 45, 120]) {
    const random = seeded(angle + 200);
    const [ux, uy] = [Math.cos((angle * Math.PI) / 180), Math.sin((angle * Math.PI) / 180)];
    const balls = Array.from({ length: 4 }, (_, k) => ({ x: 45 + 70 * k, y: 60 + 80 * random(), r: 26 + 6 * random(), tone: 2 * random() - 2 })); // prettier-ignore
    const light = draw((x, y) => {
      const ball = balls.find((one) => Math.hypot(x - one.x, y - one.y) < one.r);
      if (!ball) return -2;
      return ball.tone + (1.2 * (ux * (x - ball.x) + uy * (y - ball.y))) / ball.r;
    });
    const found = lightDirection(light, SIZE);
    const away = Math.abs(((found.angleDegrees - angle + 540) % 360) - 180);
    expect([angle, away < 25]).toEqual([angle, true]);
  }
});

test("an evenly lit picture has no direction, and no splashes", () => {
  const random = seeded(5);
  const light = draw(() => -2 + 0.2 * (random() - 0.5));
  expect(lightDirection(light, SIZE).stops).toBeLessThan(0.1);
  expect(splashes(light, SIZE)).toEqual([]);
});

test("broad lights are found where they are, the brightest first, small ones left out", () => {
  const lamp = (x: number, y: number, cx: number, cy: number, rx: number, ry: number) =>
    Math.exp(-(((x - cx) / rx) ** 2) - ((y - cy) / ry) ** 2);
  const light = draw((x, y) => -4 + 3 * lamp(x, y, 80, 60, 40, 25) + 2 * lamp(x, y, 220, 140, 25, 40) + 4 * lamp(x, y, 250, 30, 2, 2)); // prettier-ignore
  const [first, second, ...others] = splashes(light, SIZE);
  expect(others).toEqual([]);
  expect([first.x * 300, first.y * 300].map(Math.round)).toEqual([expect.closeTo(80, -0.7), expect.closeTo(60, -0.7)]);
  expect([second.x * 300, second.y * 300].map(Math.round)).toEqual([expect.closeTo(220, -0.7), expect.closeTo(140, -0.7)]); // prettier-ignore
  expect(first.radiusX).toBeGreaterThan(first.radiusY);
  expect(Math.abs(Math.sin((first.angleDegrees * Math.PI) / 180))).toBeLessThan(0.2);
  expect(Math.abs(Math.cos((second.angleDegrees * Math.PI) / 180))).toBeLessThan(0.2);
});
