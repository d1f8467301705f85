import { resolve } from "node:path";
import { closeContext, openContext } from "../serve.ts";
import { importCopy } from "../services/negatives.ts";
import { createRoll, listRolls } from "../services/rolls.ts";

export interface ImportOptions {
  readonly data: string;
  readonly roll: string;
  readonly json?: boolean;
}

/** Imports files; one that fails is reported and the rest goes on. Exit code 1 when any failed. */
export async function importFiles(files: string[], { data, roll: title, json }: ImportOptions): Promise<void> {
  const context = await openContext(resolve(data));
  try {
    const known = (await listRolls(context)).find((roll) => roll.title === title);
    const roll = known ?? (await createRoll(context, { title }));
    for (const file of files) {
      try {
        const { status, negative } = await importCopy(context, roll.id, resolve(file));
        const { id, width, height } = negative;
        if (json) console.log(JSON.stringify({ file, status, id, width, height }));
        else console.log(`${file}: ${status}, ${width} × ${height}`);
      } catch (error) {
        process.exitCode = 1;
        const message = error instanceof Error ? error.message : String(error);
        if (json) console.log(JSON.stringify({ file, status: "failed", message }));
        else console.error(`${file}: ${message}`);
      }
    }
  } finally {
    await closeContext(context);
  }
}
