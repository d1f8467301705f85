import { describe, expect, test } from "@jest/globals";
import { defaultRecipe, plainMove, newShape, type Recipe } from "@yelm/core";
import { patchBetween, patched } from "../patch.ts";

/** A small generator of plain data, the same for the same seed. */
function plain(next: () => number, depth = 3): unknown {
  const kind = Math.floor(next() * (depth > 0 ? 6 : 4));
  if (kind === 0) return next();
  if (kind === 1) return null;
  if (kind === 2) return `word ${Math.floor(next() * 3)}`;
  if (kind === 3) return next() < 0.5;
  const count = Math.floor(next() * 4);
  if (kind === 4) return Array.from({ length: count }, () => plain(next, depth - 1));
  return Object.fromEntries(
    Array.from({ length: count }, () => [`f${Math.floor(next() * 5)}`, plain(next, depth - 1)]),
  );
}

function seeded(seed: number): () => number {
  let state = seed;
  return () => (state = (state * 16807) % 2147483647) / 2147483647;
}

describe("patches", () => {
  test("between any two values lead from one to the other, also after they were posted", () => {
    const next = seeded(11);
    for (let i = 0; i < 3000; i++) {
      const [before, after] = [plain(next), plain(next)];
      const patch = structuredClone(patchBetween(before, after));
      expect(patched(structuredClone(before), patch)).toEqual(after);
      expect(patchBetween(before, structuredClone(before))).toBeNull();
    }
  });

  test("one slider says one field, and all else stays the same object", () => {
    const stroke = { id: "s", radius: 0.1, softness: 1, flow: 0.2, erase: false, points: Array.from({ length: 500 }, (_, i) => [i, i, 1]) }; // prettier-ignore
    const move = { id: "m", name: "m", on: true, stops: 1, amountPercent: 100, invert: false, ...plainMove(), shape: { ...newShape("brush", 0, 0), strokes: [stroke] } }; // prettier-ignore
    const before = {
      ...defaultRecipe(),
      light: { groups: [], contours: [], moves: [move, { ...move, id: "n" }] },
    } as unknown as Recipe;
    const [first, second] = before.light.moves;
    const after = { ...before, light: { groups: [], contours: [], moves: [{ ...first, stops: -1 }, second] } };
    const patch = patchBetween(before, after);
    expect(JSON.stringify(patch).length).toBeLessThan(150);
    const made = patched(before, patch) as Recipe;
    expect(made).toEqual(after);
    expect(made.light.moves[0].shape).toBe(first.shape);
    expect(made.light.moves[1]).toBe(second);
    expect(made.weigh).toBe(before.weigh);
  });
});
