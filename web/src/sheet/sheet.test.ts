import { afterEach, describe, expect, it, vi } from 'vitest';
import { ApiError, get, send } from '@/session/api';
import { isStation, STATIONS } from '@/shared/stations';

describe('stations', () => {
  it('there are eight stations', () => {
    expect(STATIONS).toHaveLength(8);
    expect(isStation('bake')).toBe(true);
    expect(isStation('../etc')).toBe(false);
  });
});

describe('answers of the server', () => {
  afterEach(() => vi.unstubAllGlobals());
  /** A real answer, without a server: the page's own fetch is what is replaced. */
  const answering = (status: number, body: string) => vi.stubGlobal('fetch', async () => new Response(body, { status }));

  it('a refusal comes as its sentence and code', async () => {
    answering(409, JSON.stringify({ code: 'asset/stale', message: 'Someone else changed this asset.', version: 7 }));
    const error = (await send('POST', '/x', {}).catch((e: ApiError) => e)) as ApiError;
    expect(error).toBeInstanceOf(ApiError);
    expect([error.status, error.code, error.message, error.said.version]).toEqual([
      409,
      'asset/stale',
      'Someone else changed this asset.',
      7,
    ]);
  });
  it('an answer that is no JSON still gives a sentence', async () => {
    answering(502, '<html>');
    await expect(get('/x')).rejects.toThrow('The server answered 502.');
  });
  it('no answer at all says that nothing is lost', async () => {
    vi.stubGlobal('fetch', async () => {
      throw new TypeError('failed');
    });
    const error = (await get('/x').catch((e: ApiError) => e)) as ApiError;
    expect([error.status, error.code]).toEqual([0, 'network']);
    expect(error.message).toMatch(/kept in this page/);
  });
});
