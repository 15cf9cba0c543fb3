import createClient from "openapi-fetch";
import type { paths } from "./schema";

/** Asks the server, by the types that its page makes. */
export const client = createClient<paths>({ baseUrl: "/" });

/** What the server said, fit to show to a person. */
export class ApiError extends Error {
  constructor(
    message: string,
    readonly status: number,
  ) {
    super(message);
  }
}

type Answer<T> = { data?: T; error?: unknown; response: Response };

/** What the server answers. Throws ApiError with what it said. */
export async function open<T>(call: Promise<Answer<T>>): Promise<T> {
  let answer: Answer<T>;
  try {
    answer = await call;
  } catch {
    throw new ApiError("The program does not answer. Nothing was lost; check that it is still running.", 0);
  }
  if (answer.error !== undefined || !answer.response.ok) {
    if (answer.response.status === 401) signedOut();
    const said = (answer.error as { error?: string } | undefined)?.error;
    throw new ApiError(said ?? `The program answered ${answer.response.status}.`, answer.response.status);
  }
  return answer.data as T;
}

/** What an address holds, in bytes; where the server does not say why it refuses them, `otherwise` is said. */
export async function bytesOf(address: string, otherwise: string): Promise<ArrayBuffer> {
  const response = await fetch(address);
  if (!response.ok) {
    const said = (await response.json().catch(() => null)) as { error?: string } | null;
    throw new ApiError(said?.error ?? otherwise, response.status);
  }
  return response.arrayBuffer();
}

let signedOut: () => void = () => {};
/** Hears that nobody is signed in any more: the session has ended. */
export const whenSignedOut = (hear: () => void) => (signedOut = hear);

/** What went wrong, as a sentence. */
export const sentenceOf = (error: unknown): string =>
  error instanceof Error ? error.message : String(error);

/** What is asked for, or null where there is none (yet). */
export const orNone = <T>(asked: Promise<T>): Promise<T | null> =>
  asked.catch((error: unknown) => {
    if (error instanceof ApiError && error.status === 404) return null;
    throw error;
  });

/** An edit's address, on top of the revision that was read. */
export const over = <P>(revision: number, path: P) => ({ path, header: { "if-match": String(revision) } });

/** Files and words as a form, which the client hands on as it is. */
export function formOf(parts: Record<string, File | string>) {
  const form = new FormData();
  for (const [name, part] of Object.entries(parts)) form.append(name, part);
  return { body: form as never, bodySerializer: (body: unknown) => body as FormData };
}
