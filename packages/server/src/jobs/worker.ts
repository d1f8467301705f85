import type { MessagePort } from "node:worker_threads";
import { workerData } from "piscina";
import { toErrorMessage, type ErrorMessage } from "../errors.ts";
import { stepBack } from "../step-back.ts";
import type { Tasks } from "./tasks.ts";

/** One call as it crosses to a thread. */
export interface Call {
  readonly name: keyof Tasks;
  readonly input: unknown;
  /** Receives progress shares, when the caller wants them. */
  readonly port?: MessagePort;
}
export type Answer = { readonly value: unknown } | { readonly error: ErrorMessage };

/** What a thread is for: work that nobody waits for gives way to the rest. */
export interface ThreadKind {
  readonly behind: boolean;
}
if ((workerData as ThreadKind).behind) stepBack();
// Reading all that tasks need is work, too.
const { tasks } = await import("./tasks.ts");

/** Runs one task; errors come back as data, so that their code and hint survive the crossing. */
export default async function run({ name, input, port }: Call): Promise<Answer> {
  try {
    const onProgress = port ? (share: number) => port.postMessage(share) : undefined;
    const task = tasks[name] as (task: unknown) => Promise<unknown>;
    return { value: await task({ ...(input as object), onProgress: onProgress ?? (() => undefined) }) };
  } catch (error) {
    return { error: toErrorMessage(error) };
  } finally {
    port?.close();
  }
}
