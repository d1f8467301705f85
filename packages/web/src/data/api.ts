import type { ErrorBody, ImportJob } from "@yelm/core";

/** An answer of the server that says no, in its own words. */
export class ApiError extends Error {
  readonly code: string;
  /** HTTP status. */
  readonly status: number;
  readonly hint?: string;
  readonly current?: unknown;

  constructor({ code, message, hint, current }: ErrorBody["error"], status: number) {
    super(message);
    this.name = "ApiError";
    this.status = status;
    this.code = code;
    this.hint = hint;
    this.current = current;
  }
}

/** True when the server could not be reached, or has trouble of its own: the same may be asked again later. */
export function isUnreachable(error: unknown): boolean {
  return !(error instanceof ApiError) || error.status >= 500;
}

/**
 * Asks the API.
 * @throws {ApiError} when the server refuses; TypeError when it cannot be reached.
 */
export async function api<T>(
  path: string,
  { method = "GET", body }: { method?: string; body?: unknown } = {},
): Promise<T> {
  const response = await fetch(`/api${path}`, {
    method,
    headers: body === undefined ? {} : { "Content-Type": "application/json" },
    body: body === undefined ? undefined : JSON.stringify(body),
  });
  if (response.status === 204) return undefined as T;
  const text = await response.text();
  if (!response.ok) throw new ApiError(errorOf(text, response.status), response.status);
  return JSON.parse(text) as T;
}

/**
 * Hands one file over and waits for what comes of it.
 * @throws {ApiError} when the server refuses; TypeError when it cannot be reached.
 */
export async function send<T>(path: string, file: File): Promise<T> {
  const form = new FormData();
  form.append("file", file, file.name);
  const response = await fetch(`/api${path}`, { method: "POST", body: form });
  const text = await response.text();
  if (!response.ok) throw new ApiError(errorOf(text, response.status), response.status);
  return JSON.parse(text) as T;
}

/**
 * Hands one capture over under an id of the sender's own, so that sending it again does no harm; `onSent` is told the
 * share that has gone out, 0–1.
 * @throws {ApiError} when the server refuses; TypeError when it cannot be reached.
 */
export function sendCapture(
  rollId: string,
  id: string,
  file: File,
  onSent: (share: number) => void,
): Promise<ImportJob> {
  return new Promise((resolve, reject) => {
    const form = new FormData();
    form.append("file", file, file.name);
    const request = new XMLHttpRequest();
    request.open("PUT", `/api/rolls/${encodeURIComponent(rollId)}/imports/${id}`);
    request.upload.onprogress = (event) => onSent(event.total > 0 ? event.loaded / event.total : 0);
    request.onerror = () => reject(new TypeError("Yelm's server did not answer."));
    request.onload = () => {
      if (request.status < 300) resolve(JSON.parse(request.responseText) as ImportJob);
      else reject(new ApiError(errorOf(request.responseText, request.status), request.status));
    };
    request.send(form);
  });
}

function errorOf(text: string, status: number): ErrorBody["error"] {
  try {
    return (JSON.parse(text) as ErrorBody).error;
  } catch {
    return { code: "internal", message: `The server answered ${status} without saying why.` };
  }
}
