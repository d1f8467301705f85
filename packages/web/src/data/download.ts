import { api } from "./api.ts";

/**
 * Like {@link download}, but asks first whether it can be had.
 * @throws {ApiError} that says why not.
 */
export async function downloadWhole(path: string): Promise<void> {
  const { ok } = await fetch(`/api${path}`, { method: "HEAD" });
  if (!ok) await api(path);
  else download(path);
}

/** Has the browser keep what an address of the API answers with, as a file. */
export function download(path: string): void {
  const link = document.createElement("a");
  link.href = `/api${path}`;
  link.download = "";
  link.click();
}
