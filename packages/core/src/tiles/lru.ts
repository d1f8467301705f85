/** A map that forgets what was used longest ago once its weight passes a limit. */
export class LruMap<V> {
  readonly #entries = new Map<string, V>();
  readonly #weigh: (value: V) => number;
  readonly #limit: number;
  #weight = 0;

  constructor(limit: number, weigh: (value: V) => number) {
    this.#limit = limit;
    this.#weigh = weigh;
  }

  get(key: string): V | undefined {
    const value = this.#entries.get(key);
    if (value === undefined) return undefined;
    this.#entries.delete(key);
    this.#entries.set(key, value);
    return value;
  }

  has(key: string): boolean {
    return this.#entries.has(key);
  }

  set(key: string, value: V): void {
    this.delete(key);
    this.#entries.set(key, value);
    this.#weight += this.#weigh(value);
    for (const oldest of this.#entries.keys()) {
      if (this.#weight <= this.#limit || oldest === key) break;
      this.delete(oldest);
    }
  }

  delete(key: string): void {
    const value = this.#entries.get(key);
    if (value === undefined) return;
    this.#entries.delete(key);
    this.#weight -= this.#weigh(value);
  }
}
