import type { Finding } from '@wellmorph/core/inspect/finding';
import type { BakeFigures } from '@wellmorph/core/pipeline/bake';
import type { LayoutFigures } from '@wellmorph/core/uv/measure';
import { afterEach, describe, expect, it, vi } from 'vitest';
import { ApiError, get, send } from './api';
import { isStation, STATIONS } from './stations';
import { bakeStatus, formStatus, gaugeStatus, unwrapStatus } from './status';

const finding = (severity: Finding['severity'], waived?: string) => ({ severity, ...(waived && { waived }) }) as Finding;
const layout = (more: Partial<LayoutFigures> = {}): LayoutFigures => ({
  islands: 3,
  stretchL2: 1,
  stretchLinf: 1,
  coverage: 0.6,
  overlapTexels: 0,
  folds: 0,
  gutter: 8,
  border: 4,
  density: 20,
  parts: [],
  ...more,
});

describe('how a stage stands', () => {
  it('form: its worst open finding; information and waived ones don’t count', () => {
    expect(formStatus([], true)).toBe('ok');
    expect(formStatus([finding('information')], true)).toBe('ok');
    expect(formStatus([finding('warning')], true)).toBe('near');
    expect(formStatus([finding('warning'), finding('error')], true)).toBe('over');
    expect(formStatus([finding('error', 'it is meant')], true)).toBe('ok');
    expect(formStatus([finding('error')], false)).toBe('stale');
  });
  it('unwrap: a fold or an overlap is wrong, much stretch or little coverage is near', () => {
    expect(unwrapStatus(layout(), true)).toBe('ok');
    expect(unwrapStatus(layout({ folds: 1 }), true)).toBe('over');
    expect(unwrapStatus(layout({ overlapTexels: 1 }), true)).toBe('over');
    expect(unwrapStatus(layout({ stretchL2: 1.2 }), true)).toBe('near');
    expect(unwrapStatus(layout({ coverage: 0.2 }), true)).toBe('near');
    expect(unwrapStatus(layout({ folds: 1 }), false)).toBe('stale');
  });
  it('bake: its verdict, unless it was made from an older state', () => {
    const baked = (level: 'ok' | 'near' | 'over') => ({ verdict: { level, sentence: '', change: null } }) as BakeFigures;
    for (const level of ['ok', 'near', 'over'] as const) expect(bakeStatus(baked(level), true)).toBe(level);
    expect(bakeStatus(baked('ok'), false)).toBe('stale');
    expect(bakeStatus({} as BakeFigures, true)).toBe('ok');
  });
  it('gauges: at the limit is near, past it over', () => {
    expect(gaugeStatus(50, 100)).toBe('ok');
    expect(gaugeStatus(99, 100)).toBe('near');
    expect(gaugeStatus(100, 100)).toBe('near');
    expect(gaugeStatus(101, 100)).toBe('over');
  });
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
    expect([error.status, error.code, error.message, error.version]).toEqual([409, 'asset/stale', 'Someone else changed this asset.', 7]);
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
