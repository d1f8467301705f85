// Small helpers shared by the scripts: run a command, say what happens, stop with a clear message.
import { spawn } from "node:child_process";
import { fileURLToPath } from "node:url";

export const ROOT = fileURLToPath(new URL("..", import.meta.url));

/** Runs a command to its end; resolves with its exit code. Signals are handed on and waited for. */
export function run(command, args, { env = {}, cwd = ROOT, quiet = false } = {}) {
  return new Promise((resolve, reject) => {
    const child = spawn(command, args, {
      cwd,
      env: { ...process.env, ...env },
      stdio: quiet ? ["ignore", "pipe", "pipe"] : "inherit",
    });
    let output = "";
    for (const stream of [child.stdout, child.stderr]) stream?.on("data", (chunk) => (output += chunk));
    const hand = (signal) => child.kill(signal);
    process.on("SIGINT", hand).on("SIGTERM", hand);
    child.once("error", reject).once("exit", (code, signal) => {
      process.off("SIGINT", hand).off("SIGTERM", hand);
      resolve({ code: code ?? (signal ? 1 : 0), output });
    });
  });
}

/** Runs a step; a failure ends the script with the step's own output. */
export async function step(name, command, args, options = {}) {
  const started = Date.now();
  process.stdout.write(`· ${name} … `);
  const { code, output } = await run(command, args, { ...options, quiet: options.quiet ?? true });
  if (code !== 0) {
    console.log("failed");
    console.error(output);
    process.exit(code);
  }
  console.log(`${((Date.now() - started) / 1000).toFixed(1)} s`);
  return output;
}

export const node = process.execPath;
export const TSC = ["node_modules/typescript7/bin/tsc"];
