/** Has the browser keep what an address of the API answers with, as a file. */
export function download(path: string): void {
  const link = document.createElement("a");
  link.href = `/api${path}`;
  link.download = "";
  link.click();
}
