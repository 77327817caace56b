import { CancelledError } from '@wellmorph/core/errors';
import type { Since } from '@/server/db/assets';

/** What the server said when it refused: one sentence, a code, and what else it told. */
export class ApiError extends Error {
  constructor(
    readonly status: number,
    readonly code: string,
    message: string,
    readonly said: { version?: number; since?: Since[] } = {},
  ) {
    super(message);
  }
  /** Nothing was decided: the server couldn’t be reached or failed. Asking again may succeed. */
  get isPassing(): boolean {
    return this.status === 0 || this.status >= 500 || this.status === 429;
  }
}

async function answer<T>(response: Response): Promise<T> {
  if (response.ok) return (await response.json()) as T;
  let said: { code?: string; message?: string; version?: number; since?: Since[] } = {};
  try {
    said = (await response.json()) as typeof said;
  } catch {
    // Not JSON: the sentence below has to do.
  }
  throw new ApiError(response.status, said.code ?? 'server', said.message ?? `The server answered ${response.status}.`, said);
}

async function reach(path: string, init?: RequestInit): Promise<Response> {
  try {
    return await fetch(path, init);
  } catch {
    if (init?.signal?.aborted) throw new CancelledError();
    throw new ApiError(0, 'network', 'The server can’t be reached. What you see is kept in this page and sent again when it answers.');
  }
}

export const get = async <T>(path: string): Promise<T> => answer<T>(await reach(path, { cache: 'no-store' }));
export const send = async <T>(method: 'POST' | 'PUT' | 'PATCH', path: string, body: unknown): Promise<T> =>
  answer<T>(await reach(path, { method, headers: { 'content-type': 'application/json' }, body: JSON.stringify(body) }));
/** @param signal ends it; @throws CancelledError then */
export const upload = async <T>(path: string, form: FormData, signal?: AbortSignal): Promise<T> =>
  answer<T>(await reach(path, { method: 'POST', body: form, signal }));

export async function putBlob(
  bytes: Uint8Array<ArrayBuffer> | string,
  kind: 'mesh' | 'parts' | 'png' | 'svg' | 'exr' | 'glb' | 'zip' | 'photo' | 'artwork',
): Promise<string> {
  return (await answer<{ hash: string }>(await reach(`/api/blobs?kind=${kind}`, { method: 'POST', body: bytes }))).hash;
}

/** A stored file. @throws ApiError */
export async function fetchBlob(hash: string): Promise<Uint8Array<ArrayBuffer>> {
  const r = await reach(`/api/blobs/${hash}`);
  if (!r.ok) await answer(r);
  return new Uint8Array(await r.arrayBuffer());
}
