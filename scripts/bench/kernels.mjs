// Nanoseconds a pixel of the kernels that a drag runs, against copying the same bytes.
import { readFileSync } from "node:fs";
import { join } from "node:path";
import {
  bakeCodeTable,
  bakeStopsTable,
  compileKernels,
  createKernelHeap,
  defaultRecipe,
  toneCurve,
} from "../../packages/core/dist/index.js";
import { ROOT } from "../run.mjs";
import { median } from "./material.mjs";

const PIXELS = 1 << 20;
const ROUNDS = 15;

export async function measureKernels() {
  const heap = await createKernelHeap(compileKernels(readFileSync(join(ROOT, "packages/core/build/kernels.wasm"))));
  const { kernels } = heap;
  const plane = () => heap.place(Float32Array.from({ length: PIXELS }, (_, i) => 0.02 + ((i * 7919) % 9973) / 9973));
  const [light, stops, out] = [plane(), plane(), plane()];
  const table = heap.place(bakeStopsTable(toneCurve({ ...defaultRecipe().shape, characteristic: "film" })));
  const codes = heap.place(bakeCodeTable((r) => [255 * r ** 0.45, 255 * r ** 0.46, 255 * r ** 0.5]));
  const rows = heap.allocate(12 * 1024);
  const grain = heap.place(Float32Array.of(0.013, 0.1, 0.1, 0.1));
  const rgba = heap.allocate(4 * PIXELS);
  const edge = Math.sqrt(PIXELS);
  const time = (work) => {
    work();
    return (median(Array.from({ length: ROUNDS }, () => {
      const started = performance.now();
      work();
      return performance.now() - started;
    })) * 1e6) / PIXELS;
  };
  return {
    // Two planes in and one out, as the fused kernel has.
    copyNs: time(() => { kernels.copyRect(light, edge, out, edge, edge, edge); kernels.copyRect(stops, edge, out, edge, edge, edge); }),
    developNs: time(() => kernels.develop(light, stops, edge, out, edge, edge, edge, table)),
    finishNs: time(() => kernels.encodeRgba8(light, edge, 1, stops, edge, grain, rgba, edge, edge, edge, 0, 0, codes, rows)),
  };
} // prettier-ignore
