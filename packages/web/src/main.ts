import "./theme/theme.css";
import { warmUp } from "./workers/spare-workers.ts";

// A print's workers start, and its kept picture is fetched, while the page itself is still being read.
const [path, printId] = /^\/prints\/([\w-]+)$/.exec(location.pathname) ?? [];
if (printId) {
  warmUp();
  void import("./workers/early-pool.ts").then(({ beginEarly }) => beginEarly(printId));
  new Image().src = `/api${path}/kept-thumbnail`;
}
void import("./app.tsx");
