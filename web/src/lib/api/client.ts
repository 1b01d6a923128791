import createClient from 'openapi-fetch';
import { confirmation } from '../state/confirm.svelte';
import { formatSentence, inReadersFormat } from '../time/when';
import type { components, paths } from './schema';

export type Schemas = components['schemas'];
export type Money = Schemas['Money'];
export type Problem = { code: string; message: string; field?: string | null };

/** A refusal by the server, with a sentence for each field. */
export class Refused extends Error {
  constructor(
    message: string,
    readonly status: number,
    readonly problems: Problem[],
  ) {
    super(message);
  }
  /** The sentence for a field, if there is one. */
  at(field: string): string | undefined {
    return this.problems.find((p) => p.field === field)?.message;
  }
  /** Errors that belong to no field on the page. */
  get general(): string {
    return this.problems
      .filter((p) => !p.field)
      .map((p) => p.message)
      .join(' ');
  }
}

let token = '';
/** Stores the token that each command must send back. */
export const keepToken = (t: string) => (token = t);

/** The channel of the next command: page, line or phone. */
export type Via = 'page' | 'line' | 'phone';

/** Sends a request; where the server asks for the password first, prompts for it and sends the request again. */
async function confirmed(request: Request): Promise<Response> {
  const again = request.clone();
  const response = await fetch(request);
  if (response.status !== 403) return response;
  const body = (await response
    .clone()
    .json()
    .catch(() => null)) as { errors?: Problem[] } | null;
  return body?.errors?.[0]?.code === 'confirm.password' && (await confirmation.ask()) ? fetch(again) : response;
}

const client = createClient<paths>({ baseUrl: '/', fetch: confirmed });
client.use({
  onRequest({ request }) {
    if (request.method !== 'GET') {
      request.headers.set('X-Lark-Token', token);
      if (!request.headers.has('Lark-Via')) request.headers.set('Lark-Via', 'page');
    }
    return request;
  },
});
for (const method of ['GET', 'POST', 'PUT', 'DELETE'] as const) {
  const send = client[method] as (...args: unknown[]) => Promise<{ data?: unknown }>;
  client[method] = (async (...args: unknown[]) => {
    const result = await send(...args);
    inReadersFormat(result.data);
    return result;
  }) as never;
}
export const api = client;

/** An idempotency key: pressing the same button twice counts once. */
export const moneyKey = () => ({ 'Idempotency-Key': crypto.randomUUID() });

/** The version a command was based on. */
export const ifMatch = (version: number) => ({ 'If-Match': `"${version}"` });

/** Returns a response's value, or throws the refusal in plain words. */
export async function take<T>(
  answer: Promise<{ data?: T; error?: unknown; response: Response }>,
): Promise<NonNullable<T>> {
  let result;
  try {
    result = await answer;
  } catch {
    throw new Refused('Steady Lark is not responding. What you typed is still here: try again in a moment.', 0, [
      {
        code: 'away',
        message: 'Steady Lark is not responding. What you typed is still here: try again in a moment.',
        field: null,
      },
    ]);
  }
  if (result.response.ok) return result.data as NonNullable<T>;
  const body = (result.error ?? {}) as { title?: string; errors?: Problem[] };
  if (result.response.status === 401 && !/^\/(signin|welcome)/.test(location.pathname)) {
    location.assign(`/signin?to=${encodeURIComponent(location.pathname + location.search)}`);
  }
  throw new Refused(
    formatSentence(body.title ?? `The server returned status ${result.response.status}.`),
    result.response.status,
    (
      body.errors ?? [{ code: 'unknown', message: body.title ?? 'The server could not complete this.', field: null }]
    ).map((p) => ({
      ...p,
      message: formatSentence(p.message),
    })),
  );
}

/** A call whose path is computed, as for lists. */
export async function call<T>(path: string, body?: unknown): Promise<T> {
  return take(
    fetch(path, {
      method: body === undefined ? 'GET' : 'POST',
      body: body === undefined ? undefined : JSON.stringify(body),
      headers:
        body === undefined ? {} : { 'X-Lark-Token': token, 'Lark-Via': 'page', 'Content-Type': 'application/json' },
    }).then(async (response) => {
      const isJson = response.headers.get('Content-Type')?.includes('json');
      const answer = isJson ? await response.json().catch(() => ({})) : await response.blob();
      return response.ok ? { data: inReadersFormat(answer as T), response } : { error: answer, response };
    }),
  ) as Promise<T>;
}

/** Uploads a file's bytes to an endpoint for documents. */
export async function sendFile<T>(path: string, file: File | Blob, via: Via = 'page'): Promise<T> {
  return take(
    fetch(path, {
      method: 'POST',
      body: file,
      headers: { 'X-Lark-Token': token, 'Lark-Via': via, 'Content-Type': 'application/octet-stream' },
    }).then(async (response) => {
      const body = await response.json().catch(() => ({}));
      return response.ok ? { data: body as T, response } : { error: body, response };
    }),
  ) as Promise<T>;
}

/** Uploads a document of a bill. */
export const sendBillDocument = (billId: number, file: File) =>
  sendFile<Schemas['DocumentRow']>(`/api/bills/${billId}/documents?name=${encodeURIComponent(file.name)}`, file);

/** Uploads a document of a load. */
export const sendDocument = (loadId: number, kind: string, file: File | Blob, name: string, mine = false, stop = '') =>
  sendFile<Schemas['DocumentRow']>(
    `/api/${mine ? 'mine/' : ''}loads/${loadId}/documents?kind=${kind}&name=${encodeURIComponent(name)}${stop ? `&stop=${stop}` : ''}`,
    file,
    mine ? 'phone' : 'page',
  );
