import { platform, setPriority } from "node:os";

/** Steps of niceness behind what somebody waits for. */
const BEHIND = 10;

/** Lets this thread give way to what a hand waits for. Only where the system knows priorities of single threads. */
export function stepBack(): void {
  if (platform() !== "linux") return;
  try {
    setPriority(BEHIND);
  } catch {
    // It works at the same pace as the rest then.
  }
}
