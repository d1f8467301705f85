// Types of everything: core, camera and server as they are built, then unit tests, the pages and the interface's tests.
import { node, run, TSC } from "./run.mjs";

for (const args of [
  ["-b"],
  ["-p", "packages/web/tsconfig.json", "--noEmit"],
  ["-p", "e2e/tsconfig.json", "--noEmit"],
]) {
  const { code } = await run(node, [...TSC, ...args]);
  if (code !== 0) process.exit(code);
}
