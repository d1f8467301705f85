import { mkdtempSync, rmSync, writeFileSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { expect, test } from "@jest/globals";
import { judgeMixture, mixtureCases, movedRecipe, shoot, shootJpeg, type MixtureCase } from "@yelm/camera";
import type { MixtureError } from "@yelm/core";
import { openEngine } from "../cli/open-engine.ts";

/** What a case's picture makes of mixed pixels, opened as an import opens it. */
async function judged(one: MixtureCase, file: string, bytes: Uint8Array): Promise<MixtureError> {
  const folder = mkdtempSync(join(tmpdir(), "yelm-mixture-"));
  try {
    writeFileSync(join(folder, file), bytes);
    const { engine, size } = await openEngine(join(folder, file));
    return judgeMixture(engine, size, one.scene, movedRecipe(one));
  } finally {
    rmSync(folder, { recursive: true });
  }
}

const CASES = mixtureCases(240, 160, 12);
const over = (errors: readonly MixtureError[], key: "mean" | "p99" | "beyond") =>
  errors.reduce((sum, one) => sum + one[key] * one.count, 0) / errors.reduce((sum, { count }) => sum + count, 0);

test.each([
  ["raw", "a.dng", (one: MixtureCase, seed: number) => shoot(one.scene, { iso: 200, seed }), 2, 8, 0.01],
  ["JPEG of halved chroma", "a.jpg", (one: MixtureCase, seed: number) => shootJpeg(one.scene, { stops: 0, quality: 88, seed }), 3, 12, 0.03],
] as const)("%s: moved families keep mixtures of materials mixtures of their lights", async (_name, file, make, mean, p99, beyond) => {
  const errors: MixtureError[] = [];
  for (const [i, one] of CASES.entries()) errors.push(await judged(one, file, await make(one, i + 1)));
  expect(over(errors, "mean")).toBeLessThan(mean);
  expect(over(errors, "p99")).toBeLessThan(p99);
  expect(over(errors, "beyond")).toBeLessThan(beyond);
}, 120_000); // prettier-ignore
