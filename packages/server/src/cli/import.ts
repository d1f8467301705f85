import { openAsBlob } from "node:fs";
import { basename, resolve } from "node:path";
import type { ErrorBody, ImportResult, Roll } from "@yelm/core";
import { closeContext, openContext } from "../serve.ts";
import { importCopy } from "../services/negatives.ts";
import { createRoll, listRolls } from "../services/rolls.ts";
import { ownerUrl } from "../store/folder-lock.ts";

export interface ImportOptions {
  readonly data: string;
  readonly roll: string;
  readonly json?: boolean;
}

/** Imports files; one that fails is reported and the rest goes on. Exit code 1 when any failed. */
export async function importFiles(files: string[], { data, roll: title, json }: ImportOptions): Promise<void> {
  const opened = await openContext(resolve(data)).catch((error: unknown) => {
    const url = ownerUrl(error);
    if (url) return url;
    throw error;
  });
  // A server that works on the folder brings them in itself.
  if (typeof opened === "string") return importThrough(opened, files, title, json);
  const context = opened;
  try {
    const known = (await listRolls(context)).find((roll) => roll.title === title);
    const roll = known ?? (await createRoll(context, { title }));
    for (const file of files) await told(file, json, () => importCopy(context, roll.id, resolve(file)));
  } finally {
    await closeContext(context);
  }
}

/** Brings one file in and tells what came of it. */
async function told(file: string, json: boolean | undefined, work: () => Promise<ImportResult>): Promise<void> {
  try {
    const { status, negative } = await work();
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

async function importThrough(url: string, files: string[], title: string, json: boolean | undefined): Promise<void> {
  const ask = async <T>(path: string, init?: RequestInit): Promise<T> => {
    const response = await fetch(`${url}/api${path}`, init);
    const body: unknown = await response.json();
    if (!response.ok) throw new Error((body as ErrorBody).error.message);
    return body as T;
  };
  const known = (await ask<Roll[]>("/rolls")).find((roll) => roll.title === title);
  const make = { method: "POST", headers: { "content-type": "application/json" }, body: JSON.stringify({ title }) };
  const { id } = known ?? (await ask<Roll>("/rolls", make));
  for (const file of files)
    await told(file, json, async () => {
      const form = new FormData();
      form.append("file", await openAsBlob(resolve(file)), basename(file));
      return ask<ImportResult>(`/rolls/${id}/captures`, { method: "POST", body: form });
    });
}
