/** Requests to the server; failures become errors with words for the user. */
export class RequestError extends Error {
  constructor(
    message: string,
    readonly status: number,
  ) {
    super(message);
  }
}

export async function request<T>(method: string, url: string, body?: unknown, options: { keepalive?: boolean } = {}): Promise<T> {
  let response: Response;
  const binary = body instanceof Blob;
  try {
    response = await fetch(url, {
      method,
      ...(body === undefined
        ? {}
        : {
            body: binary ? body : JSON.stringify(body),
            headers: { "content-type": binary ? "application/octet-stream" : "application/json" },
          }),
      ...options,
    });
  } catch {
    throw new RequestError("The server does not answer.", 0);
  }
  const value = (await response.json().catch(() => null)) as ({ error?: string } & T) | null;
  if (!response.ok || value === null) throw new RequestError(value?.error ?? `The server answered ${response.status}.`, response.status);
  return value;
}

export const upload = (kind: "picture" | "film", data: Blob): Promise<{ sha256: string }> =>
  request("POST", `/api/assets?kind=${kind}`, data);
