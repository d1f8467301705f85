import type { CaptureInfo, Size, TilePlace } from "@yelm/core";
import type { Patch } from "./patch.ts";
import type { AnswerOf, InputOf, QuestionName } from "./questions.ts";

/** What the page sends a render worker. "open" and "ask" are answered once, by their `id`. */
export type WorkerRequest =
  | {
      readonly kind: "open";
      readonly id: number;
      readonly size: Size;
      readonly capture: CaptureInfo;
      /** Slots of 1 MiB to begin with; fewer are taken when memory is short. */
      readonly slots: number;
      /** Leads to the tile worker. */
      readonly tiles: MessagePort;
    }
  | {
      readonly kind: "ask";
      readonly id: number;
      readonly name: QuestionName;
      /** All but the recipe. */
      readonly input: Omit<InputOf<QuestionName>, "recipe">;
      /** The recipe asked about, as what changes the one of the request before. */
      readonly recipe: Patch | null;
    }
  /** A new way to the tile worker, after the old one died; not answered. */
  | { readonly kind: "feed"; readonly tiles: MessagePort };

export type WorkerAnswer =
  /** Of "open": the slots that could be had. */
  | { readonly id: number; readonly slots: number }
  | { readonly id: number; readonly value: AnswerOf<QuestionName> }
  | { readonly id: number; readonly error: PostedError };

/** An error as it crosses threads. */
export interface PostedError {
  readonly name: string;
  readonly message: string;
  readonly code?: string;
  readonly cause?: PostedError;
}

export function postedError(error: unknown): PostedError {
  if (!(error instanceof Error)) return { name: "Error", message: String(error) };
  const { name, message, cause } = error;
  const { code } = error as { code?: unknown };
  return {
    name,
    message,
    ...(typeof code === "string" ? { code } : {}),
    ...(cause === undefined ? {} : { cause: postedError(cause) }),
  };
}

/** The error again, with its name, code and cause. */
export function revivedError({ name, message, code, cause }: PostedError): Error {
  const error = new Error(message, cause ? { cause: revivedError(cause) } : undefined);
  error.name = name;
  return code === undefined ? error : Object.assign(error, { code });
}

/** What the page tells the tile worker: where its negative's tiles are, and one port for each render worker. */
export type TileWorkerSetup =
  | { readonly kind: "negative"; readonly tiles: string; readonly limitBytes: number }
  | { readonly kind: "port"; readonly port: MessagePort }
  /** Tiles that will be wanted, before anybody has asked for them. */
  | { readonly kind: "soon"; readonly places: readonly TilePlace[] };

/** What a render worker asks for: tiles to use now, or tiles that may soon be wanted (not answered). */
export interface TileRequest {
  readonly id: number;
  readonly places: readonly TilePlace[];
  readonly soon?: boolean;
}

/** Tiles in the order asked for, in memory that all workers share where the browser allows it. */
export type TileAnswer =
  | { readonly id: number; readonly tiles: readonly (SharedArrayBuffer | ArrayBuffer)[] }
  | { readonly id: number; readonly error: PostedError };
