import { expect, test } from "@jest/globals";
import { openHeap } from "./open-heap.ts";

test("a kept block stays while the stack around it comes and goes, and serves the next one when it was let go", async () => {
  const heap = await openHeap(0);
  const owner = {};
  expect(heap.takeOver(owner)).toBe(true);
  const outer = heap.mark();
  heap.allocate(1000);
  const kept = heap.keep(5e6);
  heap.floats(kept, 3).set([1, 2, 3]);
  heap.release(outer);
  const after = heap.allocate(4000);
  expect(after).toBeGreaterThanOrEqual(kept + 5e6);
  heap.floats(after, 1000).fill(9);
  expect([...heap.floats(kept, 3)]).toEqual([1, 2, 3]);
  expect(heap.keep(100)).toBeGreaterThan(after);
  heap.letGo(kept);
  expect(heap.keep(2e6)).toBe(kept);
  // Nothing is left to somebody who comes back after another; the room is.
  expect(heap.takeOver({})).toBe(true);
  expect(heap.keep(1e6)).toBe(kept);
  expect(heap.takeOver(owner)).toBe(true);
  expect(heap.takeOver(owner)).toBe(false);
});
