import type { KernelExports } from "./exports.ts";

const PAGE_BYTES = 65536;
const FIRST_FREE = 65536;
const MAXIMUM_PAGES = 32768;
/** Values along one edge of a slot, the working tile of the stage graph. */
export const SLOT_EDGE = 512;
const SLOT_BYTES = 4 * SLOT_EDGE * SLOT_EDGE;
/** Room after each slot, so that a last partial vector may be read and written. */
const SLOT_SPARE_BYTES = 64;
/** Blocks that are kept take this much room or twice, four times … as much, so that one that was let go serves the next. */
const KEPT_ROOM = 2 ** 25;

/** A block that stays while what lies around it on the stack comes and goes. */
interface KeptBlock {
  readonly pointer: number;
  readonly bytes: number;
  /** Where the stack goes on after it. */
  readonly end: number;
  inUse: boolean;
}

/**
 * Memory of one kernel instance. Below lie `slotCount` slots of 512 × 512 values for results that are kept; the rest is
 * given out like a stack: `mark`, allocate, compute, `release`. Larger results are kept in blocks among it.
 * Views die when memory grows, so take them after the last allocation, and never keep them.
 */
export class KernelHeap {
  readonly kernels: KernelExports;
  readonly #memory: WebAssembly.Memory;
  readonly slotCount: number;
  #owner: object | null = null;
  /** In the order in which they lie; what was let go is there for the next. */
  readonly #kept: KeptBlock[] = [];
  #top: number;
  #peak: number;

  constructor(kernels: KernelExports, memory: WebAssembly.Memory, slotCount: number) {
    this.kernels = kernels;
    this.slotCount = slotCount;
    this.#memory = memory;
    this.#top = this.#peak = FIRST_FREE + slotCount * (SLOT_BYTES + SLOT_SPARE_BYTES);
    this.#grow();
  }

  /** Where slot `index` begins. */
  slot(index: number): number {
    return FIRST_FREE + index * (SLOT_BYTES + SLOT_SPARE_BYTES);
  }

  /** Reserves bytes, 16-byte aligned, with 16 spare bytes so that a last partial vector may be read and written. */
  allocate(bytes: number): number {
    const pointer = this.#top;
    if (pointer + bytes + 32 > MAXIMUM_PAGES * PAGE_BYTES)
      throw new RangeError(`Expected a block that fits into 2 GiB but received ${bytes} bytes.`);
    this.#top = (pointer + bytes + 31) & ~15;
    this.#grow();
    this.#peak = Math.max(this.#peak, this.#top);
    return pointer;
  }

  #grow(): void {
    const missing = this.#top - this.#memory.buffer.byteLength;
    if (missing > 0) this.#memory.grow(Math.ceil(missing / PAGE_BYTES));
  }

  mark(): number {
    return this.#top;
  }

  release(mark: number): void {
    this.#top = Math.max(mark, this.#kept.at(-1)?.end ?? 0);
  }

  /**
   * Who keeps results in slots and blocks from now on.
   * @returns false when it did already; else nothing is left of anybody's.
   */
  takeOver(owner: object): boolean {
    if (this.#owner === owner) return false;
    this.#owner = owner;
    for (const block of this.#kept) block.inUse = false;
    return true;
  }

  /** Reserves a block that stays until it is let go, whatever is released meanwhile. */
  keep(bytes: number): number {
    let room = KEPT_ROOM;
    while (room < bytes) room *= 2;
    const free = this.#kept.find((block) => !block.inUse && block.bytes === room);
    if (free) {
      free.inUse = true;
      return free.pointer;
    }
    const pointer = this.allocate(room);
    this.#kept.push({ pointer, bytes: room, end: this.#top, inUse: true });
    return pointer;
  }

  /** Its room serves the next block. */
  letGo(pointer: number): void {
    const block = this.#kept.find((one) => one.pointer === pointer);
    if (block) block.inUse = false;
  }

  /** Largest number of bytes ever in use at once. */
  get peakBytes(): number {
    return this.#peak;
  }

  floats(pointer: number, length: number): Float32Array {
    return new Float32Array(this.#memory.buffer, pointer, length);
  }

  words(pointer: number, length: number): Int32Array {
    return new Int32Array(this.#memory.buffer, pointer, length);
  }

  halves(pointer: number, length: number): Uint16Array {
    return new Uint16Array(this.#memory.buffer, pointer, length);
  }

  bytes(pointer: number, length: number): Uint8Array {
    return new Uint8Array(this.#memory.buffer, pointer, length);
  }

  /** Copies an array in and returns its place. */
  place(source: Float32Array | Int32Array | Int16Array | Uint16Array): number {
    const pointer = this.allocate(source.byteLength);
    this.bytes(pointer, source.byteLength).set(new Uint8Array(source.buffer, source.byteOffset, source.byteLength));
    return pointer;
  }
}

/** Compiled kernels; serves any number of heaps and can be posted to workers. */
export type KernelModule = WebAssembly.Module;

/** Compiles `kernels.wasm`. Synchronous: for Node and workers, not for a page's own thread. */
export function compileKernels(bytes: Uint8Array<ArrayBuffer>): KernelModule {
  return new WebAssembly.Module(bytes);
}

/**
 * Starts an instance with memory of its own.
 * @param slotCount - slots of 1 MiB for kept results; none are needed to import.
 */
export async function createKernelHeap(module: KernelModule, slotCount = 0): Promise<KernelHeap> {
  const memory = new WebAssembly.Memory({ initial: 16, maximum: MAXIMUM_PAGES });
  const abort = (_message: number, _file: number, line: number): never => {
    throw new Error(`A kernel stopped at line ${line}.`);
  };
  const instance = await WebAssembly.instantiate(module, { env: { memory, abort } });
  return new KernelHeap(instance.exports as unknown as KernelExports, memory, slotCount);
}
