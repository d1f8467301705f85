import "./theme/theme.css";
import { mountSeen } from "./picture/mounts-seen.ts";
import { keptThumbnail, openingBench } from "./picture/opening.ts";
import { apply, currentLook } from "./theme/theme.ts";
import { beginEarly } from "./workers/early-pool.ts";
import { warmUp } from "./workers/spare-workers.ts";

/** For so long at most the application waits for a print's workers to be under way, milliseconds. */
const LONGEST_WAIT_MS = 200;

apply();
const [, printId] = /^\/prints\/([\w-]+)$/.exec(location.pathname) ?? [];
void (printId ? openEarly(printId) : Promise.resolve()).finally(() => import("./app.tsx"));

/**
 * Shows what is kept of a print, and has its workers begin, before the application is read: that keeps this thread for longer than it
 * takes to tell them what they need.
 */
async function openEarly(id: string): Promise<void> {
  document.getElementById("root")!.append(openingBench(id, keptThumbnail(id), currentLook(), mountSeen(id)));
  warmUp();
  const late = new Promise((resolve) => setTimeout(resolve, LONGEST_WAIT_MS));
  await Promise.race([beginEarly(id).begun, late]);
}
