// The server from the last build, and the pages rebuilt as their sources change.
import { join } from "node:path";
import { node, ROOT, run } from "./run.mjs";
import { setUp } from "./setup.mjs";

await setUp();
const data = process.env.YELM_DATA ?? join(ROOT, ".yelm", "demo");
const server = run(node, ["packages/server/bin/yelm.js", "serve", "--data", data, "--demo", "demo"]);
const pages = run(node, [join(ROOT, "node_modules/vite/bin/vite.js")], { cwd: join(ROOT, "packages/web") });
await Promise.all([server, pages]);
