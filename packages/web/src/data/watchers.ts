/** Whoever wants to be told of something, by the id of what it is about. */
export class Watchers<Told extends readonly unknown[]> {
  readonly #all = new Map<string, Set<(...told: Told) => void>>();

  /** @returns a function that stops it. */
  watch(id: string, hear: (...told: Told) => void): () => void {
    const own = this.#all.get(id) ?? new Set<(...told: Told) => void>();
    this.#all.set(id, own.add(hear));
    return () => {
      own.delete(hear);
      if (own.size === 0) this.#all.delete(id);
    };
  }

  tell(id: string, ...told: Told): void {
    for (const hear of this.#all.get(id) ?? []) hear(...told);
  }

  /** Tells everybody, whatever they watch. */
  tellAll(...told: Told): void {
    for (const own of this.#all.values()) for (const hear of own) hear(...told);
  }
}
