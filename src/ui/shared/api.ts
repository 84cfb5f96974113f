/** Requests to the server; failures become errors with words for the user. */
import { API, type AssetKind } from "#api/contract";

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

/** Stores a file, telling how far it is. An aborted upload leaves nothing behind. */
export function uploadWithProgress(
  kind: AssetKind,
  data: Blob,
  onProgress: (share: number) => void,
  signal: AbortSignal,
): Promise<{ sha256: string }> {
  return new Promise((resolve, reject) => {
    // fetch does not tell how much of a body is sent
    const sent = new XMLHttpRequest();
    sent.open("POST", API.uploadAsset.path({ kind }));
    sent.setRequestHeader("content-type", "application/octet-stream");
    sent.responseType = "json";
    sent.upload.onprogress = (e) => onProgress(e.total > 0 ? e.loaded / e.total : 0);
    sent.onerror = () => reject(new RequestError("The server does not answer.", 0));
    sent.onabort = () => reject(new RequestError("The upload was cancelled.", 0));
    sent.onload = () => {
      const value = sent.response as ({ error?: string } & { sha256: string }) | null;
      if (sent.status === 201 && value) resolve(value);
      else reject(new RequestError(value?.error ?? `The server answered ${sent.status}.`, sent.status));
    };
    signal.addEventListener("abort", () => sent.abort());
    sent.send(data);
  });
}

/** Stores a file. */
export const upload = (kind: AssetKind, data: Blob): Promise<{ sha256: string }> =>
  request("POST", API.uploadAsset.path({ kind }), data).then((value) => API.uploadAsset.answer.parse(value));
