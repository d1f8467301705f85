/** Asks a server's API, whose address may be known only later. */
export function asking(url: () => string) {
  return async <T>(method: string, path: string, body?: unknown) => {
    const response = await fetch(`${url()}/api${path}`, {
      method,
      headers: body === undefined ? {} : { "content-type": "application/json" },
      body: body === undefined ? undefined : JSON.stringify(body),
    });
    const text = await response.text();
    const isJson = response.headers.get("content-type")?.includes("json") ?? false;
    return { status: response.status, headers: response.headers, text, body: (isJson ? JSON.parse(text) : null) as T };
  };
}
