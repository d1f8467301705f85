// Builds everything: kernels, core, camera and server (one TypeScript build), then the pages.
import { mkdirSync } from "node:fs";
import { join } from "node:path";
import { writeKernelTypes } from "./kernel-types.mjs";
import { node, ROOT, step, TSC } from "./run.mjs";

export async function build() {
  mkdirSync(join(ROOT, "packages/core/build"), { recursive: true });
  const core = join(ROOT, "packages/core");
  await step(
    "kernels",
    node,
    [
      join(ROOT, "node_modules/assemblyscript/bin/asc.js"),
      "kernels/index.ts",
      "--config",
      "kernels/asconfig.json",
      "--outFile",
      "build/kernels.wasm",
    ],
    { cwd: core },
  );
  await step("kernels’ constants", node, ["scripts/kernel-constants.mjs", join(core, "build/kernels.wasm")]);
  writeKernelTypes();
  await step("core, camera, server", node, [...TSC, "-b"]);
  await step("docs/recipe.md", node, ["scripts/recipe-doc.mjs"]);
  await step("pages", node, [join(ROOT, "node_modules/vite/bin/vite.js"), "build"], {
    cwd: join(ROOT, "packages/web"),
  });
}

if (import.meta.url === `file://${process.argv[1]}`) await build();
