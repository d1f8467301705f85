import { expect, test } from "@jest/globals";
import { deviceShare } from "../device.ts";

test("one thread stays with the page, and little memory means fewer and smaller workers", () => {
  expect(deviceShare({ hardwareConcurrency: 2, deviceMemory: 8 })).toEqual({
    workers: 1,
    slots: 256,
    tileBytes: 2 ** 29,
  });
  expect(deviceShare({ hardwareConcurrency: 8, deviceMemory: 8 }).workers).toBe(7);
  expect(deviceShare({ hardwareConcurrency: 1, deviceMemory: 8 }).workers).toBe(1);
  const small = deviceShare({ hardwareConcurrency: 8, deviceMemory: 1 });
  expect(small.workers).toBe(2);
  expect(small.workers * small.slots).toBeLessThanOrEqual(256);
  expect(small.tileBytes).toBe(2 ** 27);
  const unknown = deviceShare({});
  expect([unknown.workers, unknown.slots >= 32]).toEqual([1, true]);
  for (const hardwareConcurrency of [2, 4, 16, 64])
    for (const deviceMemory of [0.5, 2, 8]) {
      const { workers, slots } = deviceShare({ hardwareConcurrency, deviceMemory });
      // At least 32 slots each, and never much more than a quarter of the memory for all of them.
      expect(slots).toBeGreaterThanOrEqual(32);
      expect(workers * slots).toBeLessThanOrEqual(Math.max(deviceMemory * 256, workers * 32));
    }
});
