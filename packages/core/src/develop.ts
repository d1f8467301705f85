// What a thread that only develops needs: a fraction of the whole, so that it is there at once.
export { createKernelHeap, type KernelModule } from "./kernels/heap.ts";
export { bandCount, developBand, type DevelopPlan } from "./raw/develop.ts";
export type { TileBand } from "./tiles/pyramid.ts";
