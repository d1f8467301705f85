import { expect, test } from "@jest/globals";
import { placeLabels, type Label } from "../labels.tsx";

const label = (id: string, x: number, y: number, text = id): Label => ({ id, x, y, text, colour: "#fff" });
const PANE = { width: 800, height: 500 };
const overlap = (a: Label, b: Label) =>
  Math.abs(a.y - b.y) < 22 && Math.abs(a.x - b.x) < (14 + 7.5 * a.text.length + 14 + 7.5 * b.text.length) / 2;

test("labels at one place come to lie below each other; those apart stay where they are", () => {
  const placed = placeLabels(
    [label("sky", 400, 100), label("door", 402, 104), label("cloth", 398, 110), label("far", 100, 300)],
    PANE,
  );
  for (const a of placed)
    for (const b of placed) if (a !== b) expect([a.id, b.id, overlap(a, b)]).toEqual([a.id, b.id, false]);
  expect(placed.find(({ id }) => id === "far")).toMatchObject({ x: 100, y: 300 });
  expect(placed.find(({ id }) => id === "sky")).toMatchObject({ x: 400, y: 100 });
});

test("a label beyond the side is brought in, whole", () => {
  const [placed] = placeLabels([label("a long name", -50, -20)], PANE);
  expect(placed.x).toBeCloseTo((14 + 7.5 * 11) / 2);
  expect(placed.y).toBe(11);
});
