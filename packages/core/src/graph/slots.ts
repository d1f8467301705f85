import type { KernelHeap } from "../kernels/heap.ts";

interface Entry {
  readonly slots: readonly number[];
  readonly costNs: number;
  /** What it is the result for: of several the one used last stands. */
  readonly place: string;
  pins: number;
}

/** Entries looked at for eviction, oldest first; the one that is cheapest to compute again goes. */
const CANDIDATES = 8;
/** Bytes of blocks beyond which the oldest go. */
const KEPT_BYTES = 128 * 2 ** 20;

/**
 * Results kept in the heap's slots under a key. An entry in use is pinned; of the others, what another result for the same place has
 * taken over from is given up first, then what was used long ago and is cheap to make again: a hand that moves leaves many results
 * behind that will not be wanted, and they must not drive out what will. Nothing is allocated once the slots are in use.
 */
export class SlotStore {
  readonly #heap: KernelHeap;
  readonly #free: number[] = [];
  readonly #entries = new Map<string, Entry>();
  /** Key of the entry used last for each place. */
  readonly #latest = new Map<string, string>();
  /** Blocks by key, the one used last at the end. */
  readonly #blocks = new Map<string, { readonly pointer: number; readonly bytes: number }>();

  constructor(heap: KernelHeap) {
    this.#heap = heap;
  }

  has(key: string): boolean {
    this.#own();
    return this.#entries.has(key);
  }

  /** Pins a kept result and returns its planes, or nothing when it is not there. */
  take(key: string): readonly number[] | undefined {
    this.#own();
    const entry = this.#entries.get(key);
    if (!entry) return undefined;
    this.#entries.delete(key);
    this.#entries.set(key, entry);
    this.#latest.set(entry.place, key);
    entry.pins++;
    return this.#pointers(entry);
  }

  /**
   * Makes room for a result, pinned.
   * @param place - what it is the result for, however it comes out; itself when not stated.
   * @throws {RangeError} when every slot is in use at once.
   */
  claim(key: string, planes: number, costNs: number, place = key): readonly number[] {
    this.#own();
    while (this.#free.length < planes) this.#evict();
    const entry: Entry = { slots: this.#free.splice(-planes), costNs, place, pins: 1 };
    this.#entries.set(key, entry);
    this.#latest.set(place, key);
    return this.#pointers(entry);
  }

  unpin(key: string): void {
    const entry = this.#entries.get(key);
    if (entry) entry.pins--;
  }

  /** Forgets a result whose computation failed. */
  drop(key: string): void {
    const entry = this.#entries.get(key);
    if (!entry) return;
    this.#entries.delete(key);
    if (this.#latest.get(entry.place) === key) this.#latest.delete(entry.place);
    this.#free.push(...entry.slots);
  }

  /**
   * A block of kernel memory under a key, made when it is not kept. When there are too many, those used longest ago are given up; the newest
   * always stays.
   */
  block(key: string, bytes: number, make: (out: number) => void): number {
    this.#own();
    const known = this.#blocks.get(key);
    if (known) {
      this.#blocks.delete(key);
      this.#blocks.set(key, known);
      return known.pointer;
    }
    let kept = bytes;
    for (const block of this.#blocks.values()) kept += block.bytes;
    for (const [old, block] of this.#blocks) {
      if (kept <= KEPT_BYTES) break;
      this.#blocks.delete(old);
      this.#heap.letGo(block.pointer);
      kept -= block.bytes;
    }
    const pointer = this.#heap.keep(bytes);
    try {
      make(pointer);
    } catch (error) {
      this.#heap.letGo(pointer);
      throw error;
    }
    this.#blocks.set(key, { pointer, bytes });
    return pointer;
  }

  /** Several engines may share a heap, one after the other: each begins anew when another was at work in between. */
  #own(): void {
    if (!this.#heap.takeOver(this)) return;
    this.#blocks.clear();
    this.#entries.clear();
    this.#latest.clear();
    this.#free.length = 0;
    for (let i = this.#heap.slotCount - 1; i >= 0; i--) this.#free.push(i);
  }

  #pointers(entry: Entry): readonly number[] {
    return entry.slots.map((slot) => this.#heap.slot(slot));
  }

  #evict(): void {
    let cheapest: [string, Entry] | undefined;
    let seen = 0;
    for (const pair of this.#entries) {
      const [key, { pins, costNs, place }] = pair;
      if (pins > 0) continue;
      if (this.#latest.get(place) !== key) {
        this.drop(key);
        return;
      }
      if (++seen <= CANDIDATES && (!cheapest || costNs < cheapest[1].costNs)) cheapest = pair;
    }
    if (!cheapest) throw new RangeError(`Expected more than ${this.#heap.slotCount} slots for one tile.`);
    this.drop(cheapest[0]);
  }
}
