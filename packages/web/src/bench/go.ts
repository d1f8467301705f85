import type { Station } from "@yelm/core";
import { createStore } from "zustand/vanilla";

type Go = (station: Station) => void;

/** How to go to a station of the bench that is open; null while none is. */
const bench = createStore<{ readonly go: Go | null }>(() => ({ go: null }));

/** Says how to go to a station. @returns a function that takes it back. */
export function offerStations(go: Go): () => void {
  bench.setState({ go });
  return () => bench.setState(({ go: now }) => (now === go ? { go: null } : {}));
}

/** Goes to a station, when a bench is open. */
export function goToStation(station: Station): void {
  bench.getState().go?.(station);
}

export function hasBench(): boolean {
  return bench.getState().go !== null;
}
