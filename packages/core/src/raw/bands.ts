import type { KernelHeap } from "../kernels/heap.ts";
import type { TileBand } from "../tiles/pyramid.ts";
import { bandCount, developMosaic, type DevelopPlan } from "./develop.ts";
import { developFinished, finishedBands, type FinishedRows } from "./finished.ts";

/** What rows of full-size tiles are made of, each by itself: a mosaic, or colours that are finished. */
export type BandPlan = DevelopPlan | FinishedRows;

/** The bands that can be made of it, the last excluded. */
export function bandsOf(plan: BandPlan): { readonly first: number; readonly end: number } {
  return "mosaic" in plan ? { first: 0, end: bandCount(plan) } : finishedBands(plan);
}

/** Makes one row of full-size tiles. */
export function developBand(heap: KernelHeap, plan: BandPlan, index: number): TileBand {
  return "mosaic" in plan ? developMosaic(heap, plan, index) : developFinished(heap, plan, index);
}
