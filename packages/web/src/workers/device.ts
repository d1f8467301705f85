/** What this machine can spare for rendering. */
export interface DeviceShare {
  readonly workers: number;
  /** Slots of 1 MiB in each worker. */
  readonly slots: number;
  /** Bytes of tiles kept by the tile worker. */
  readonly tileBytes: number;
}

const GIB = 2 ** 30;

/** One thread is left to the interface; a machine with little memory gets fewer and smaller workers. */
export function deviceShare({
  hardwareConcurrency,
  deviceMemory,
}: {
  hardwareConcurrency?: number;
  deviceMemory?: number;
}): DeviceShare {
  // Browsers that do not tell the memory, in GiB up to 8, get what suits 4.
  const memory = deviceMemory ?? 4;
  const workers = Math.max(1, Math.min((hardwareConcurrency ?? 2) - 1, memory * 2, 12));
  const slots = Math.max(32, Math.min(256, Math.floor((memory * 96) / Math.max(1, workers / 2))));
  return { workers, slots, tileBytes: Math.min(0.5, memory / 8) * GIB };
}
