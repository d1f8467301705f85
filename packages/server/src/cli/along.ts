import { openAsBlob } from "node:fs";
import { basename, resolve } from "node:path";
import type { ArchiveAnswer, ErrorBody, Negative, Print, Roll } from "@yelm/core";
import { AppError } from "../errors.ts";
import { writeWhole } from "../files/whole-file.ts";
import { serve } from "../serve.ts";
import { ownerUrl } from "../store/folder-lock.ts";

interface OnData {
  readonly data: string;
}

/** Writes a roll with all it holds to an archive. */
export async function takeAlong({ data, roll: title, out }: OnData & { roll: string; out: string }): Promise<void> {
  await withServer(data, async (url) => {
    const { id } = await rollCalled(url, title);
    const bytes = await keep(await answered(`${url}/api/rolls/${id}/archive`), out);
    console.log(`${out}: ${(bytes / 2 ** 20).toFixed(1)} MB`);
  });
}

/** Brings a roll in from an archive. Exit code 1 when a capture of it could not be brought in. */
export async function openAlong(file: string, { data, json }: OnData & { json?: boolean }): Promise<void> {
  await withServer(data, async (url) => {
    const body = new FormData();
    body.append("file", await openAsBlob(resolve(file)), basename(file));
    const response = await answered(`${url}/api/rolls/archive`, { method: "POST", body });
    const { roll, negatives, prints, failed } = (await response.json()) as ArchiveAnswer;
    if (json) console.log(JSON.stringify({ roll: roll.title, negatives, prints, failed }));
    else {
      console.log(`${roll.title}: ${negatives} captures, ${prints} new prints`);
      for (const { fileName, reason } of failed) console.error(`${fileName}: ${reason}`);
    }
    if (failed.length > 0) process.exitCode = 1;
  });
}

/** Writes the sheet of a capture's print as a PDF, or the print as a file, by the ending of its name. */
export async function printAlong(options: OnData & { roll: string; file: string; print?: string; out: string }) {
  const { data, roll, file, print: name, out } = options;
  await withServer(data, async (url) => {
    const { id: rollId } = await rollCalled(url, roll);
    const get = async <T>(path: string) => (await (await answered(`${url}/api${path}`)).json()) as T;
    const negative = (await get<Negative[]>(`/negatives?roll=${rollId}`)).find(({ fileName }) => fileName === file);
    if (!negative)
      throw new AppError("bad_request", `Expected a capture ${file} in the roll “${roll}” but there is none.`);
    const prints = await get<Print[]>(`/prints?negative=${negative.id}`);
    const print = name === undefined ? prints[0] : prints.find((one) => one.name === name);
    if (!print) throw new AppError("bad_request", `Expected a print “${name ?? ""}” of ${file} but there is none.`);
    const what = out.toLowerCase().endsWith(".pdf") ? "sheet" : "file";
    await keep(await answered(`${url}/api/prints/${print.id}/${what}`), out);
    console.log(`${out}: ${print.name}`);
  });
}

/** Asks the server that works on a data folder, or one that is there for as long as the work takes. */
async function withServer(data: string, work: (url: string) => Promise<void>): Promise<void> {
  const service = await serve({ data: resolve(data), port: 0 }).catch((error: unknown) => {
    const url = ownerUrl(error);
    if (url) return url;
    throw error;
  });
  if (typeof service === "string") return work(service);
  try {
    await work(service.url);
  } finally {
    await service.close();
  }
}

async function answered(url: string, init?: RequestInit): Promise<Response> {
  const response = await fetch(url, init);
  if (response.ok) return response;
  const { error } = (await response.json()) as ErrorBody;
  throw new AppError(response.status < 500 ? "bad_request" : "internal", error.message, { hint: error.hint });
}

async function rollCalled(url: string, title: string): Promise<Roll> {
  const rolls = (await (await answered(`${url}/api/rolls`)).json()) as Roll[];
  const found = rolls.find((roll) => roll.title === title);
  if (!found) throw new AppError("bad_request", `Expected a roll “${title}” but there is none.`);
  return found;
}

/** Keeps an answer as a file, whole or not at all. */
async function keep({ body }: Response, out: string): Promise<number> {
  const { bytes } = await writeWhole(resolve(out), async (file) => {
    for await (const chunk of body!) await file.append(chunk);
  });
  return bytes;
}
