import "./theme/theme.css";
import { mountSeen } from "./picture/mounts-seen.ts";
import { keptThumbnail, openingBench } from "./picture/opening.ts";
import { apply, currentLook } from "./theme/theme.ts";
import { warmUp } from "./workers/spare-workers.ts";

apply();
// A print's workers start, and what is kept of it is shown, while the page itself is still being read.
const [, printId] = /^\/prints\/([\w-]+)$/.exec(location.pathname) ?? [];
if (printId) {
  document
    .getElementById("root")!
    .append(openingBench(printId, keptThumbnail(printId), currentLook(), mountSeen(printId)));
  warmUp();
  void import("./workers/early-pool.ts").then(({ beginEarly }) => beginEarly(printId));
}
void import("./app.tsx");
