// Sets everything up and starts Yelm with its demo roll. Stop it with Ctrl-C; what you did is there next time.
import { join } from "node:path";
import { node, ROOT, run } from "./run.mjs";
import { setUp } from "./setup.mjs";

await setUp();
const data = process.env.YELM_DATA ?? join(ROOT, ".yelm", "demo");
const args = ["packages/server/bin/yelm.js", "serve", "--data", data, "--demo", "demo"];
const { code } = await run(node, args);
process.exitCode = code;
