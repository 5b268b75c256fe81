/** An answer that refused what was asked, with the server's words. */
export class Refusal extends Error {
  constructor(
    message: string,
    readonly status: number,
  ) {
    super(message);
  }
}

/** Somebody stopped a call before its answer. */
export class Stopped extends Error {}

/**
 * Calls the server.
 * @throws Refusal with a message meant for the artist; Stopped where the signal came first
 */
export async function call<T>(
  method: "GET" | "POST" | "DELETE",
  path: string,
  body?: unknown,
  signal?: AbortSignal,
): Promise<T> {
  let response: Response;
  try {
    response = await fetch(`/api/${path}`, {
      method,
      headers: body === undefined ? {} : { "Content-Type": "application/json" },
      body: body === undefined ? undefined : JSON.stringify(body),
      signal,
    });
  } catch {
    if (signal?.aborted) throw new Stopped();
    throw new Refusal("the server does not answer: is it still running?", 0);
  }
  if (response.ok) return (await response.json()) as T;
  const told = (await response.json().catch(() => null)) as {
    data?: { message?: string };
    message?: string;
  } | null;
  throw new Refusal(
    told?.data?.message ??
      told?.message ??
      `the server answered ${response.status}`,
    response.status,
  );
}

/** Sends one file. `progress` is given the share that has gone. @throws Refusal, Stopped */
export function upload(
  file: File,
  progress: (share: number) => void,
  signal: AbortSignal,
): Promise<{ id: string; name: string }> {
  return new Promise((resolve, reject) => {
    const request = new XMLHttpRequest();
    request.open("POST", "/api/uploads");
    request.responseType = "json";
    request.upload.onprogress = (event) =>
      progress(event.lengthComputable ? event.loaded / event.total : 0);
    request.onerror = () =>
      reject(new Refusal(`${file.name} could not be sent`, 0));
    request.onload = () => {
      const answer = request.response as {
        id?: string;
        data?: { message?: string };
      } | null;
      if (request.status === 200 && answer?.id)
        resolve({ id: answer.id, name: file.name });
      else
        reject(
          new Refusal(
            `${file.name}: ${answer?.data?.message ?? `the server answered ${request.status}`}`,
            request.status,
          ),
        );
    };
    request.onabort = () => reject(new Stopped());
    signal.addEventListener("abort", () => request.abort(), { once: true });
    request.send(file);
  });
}
