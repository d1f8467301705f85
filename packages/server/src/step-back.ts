import { availableParallelism, platform, setPriority } from "node:os";

/** Steps of niceness behind what somebody waits for. */
const BEHIND = 10;

/** Only there does the system know priorities of single threads. */
const GIVES_WAY = platform() === "linux";
const CORES = availableParallelism();

/** Threads for work that nobody waits for: all cores but one, but two where there are as many and threads give way by themselves. */
export const THREADS_BEHIND = Math.max(1, CORES - 1, GIVES_WAY ? Math.min(2, CORES) : 1);

/** Lets this thread give way to what a hand waits for. */
export function stepBack(): void {
  if (!GIVES_WAY) return;
  try {
    setPriority(BEHIND);
  } catch {
    // It works at the same pace as the rest then.
  }
}
