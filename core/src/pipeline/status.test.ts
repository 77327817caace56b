import { stormLantern } from '@wellmorph/demo/lantern';
import { describe, expect, it } from 'vitest';
import type { Finding } from '../inspect/finding';
import { VERDICTS } from '../surface/validity';
import type { LayoutFigures } from '../uv/measure';
import type { BakeFigures } from './bake';
import { newDocument } from './document';
import {
  bakeStatus,
  formStatus,
  gaugeStatus,
  handoffStatus,
  lightStatus,
  reachedStatus,
  renderStatus,
  type Status,
  surfaceStatus,
  unwrapStatus,
  worstOf,
} from './status';

const surface = (wrong: number) => ({
  size: 64,
  composed: { materials: [], coveredShare: 0.5 },
  validity: { ...Object.fromEntries(VERDICTS.map((v) => [v, 0])), sound: 1 - wrong, 'too dark': wrong } as never,
  curvature: true,
  occlusion: true,
  seconds: 1,
});
const picture = (noise: number) => ({ noise }) as Parameters<typeof renderStatus>[0];

describe('how the second half’s stations stand', () => {
  it('surface: by the share of texels no real surface has; stale before anything else', () => {
    expect(surfaceStatus(surface(0), true)).toBe('ok');
    expect(surfaceStatus(surface(0.03), true)).toBe('near');
    expect(surfaceStatus(surface(0.4), true)).toBe('over');
    expect(surfaceStatus(surface(0.4), false)).toBe('stale');
  });
  it('light: near until the shot is locked, nothing where there is nothing to light', () => {
    const lantern = stormLantern();
    expect(lightStatus(lantern)).toBe('near');
    expect(lightStatus({ ...lantern, shot: { ...lantern.shot, locked: true } })).toBe('ok');
    expect(lightStatus(newDocument('Empty', lantern.brief))).toBe('none');
  });
  it('render: by its noise', () => {
    expect(renderStatus(picture(0.01), true)).toBe('ok');
    expect(renderStatus(picture(0.05), true)).toBe('near');
    expect(renderStatus(picture(0.01), false)).toBe('stale');
  });
  it('hand-off is only as far as what it takes, and one mark for many is the worst of them', () => {
    const all: Status[] = ['ok', 'ok', 'ok'];
    expect(handoffStatus(all)).toBe('ok');
    expect(handoffStatus([...all, 'near'])).toBe('near');
    expect(handoffStatus([...all, 'near', 'stale'])).toBe('stale');
    expect(handoffStatus([...all, 'none', 'stale'])).toBe('none');
    expect(handoffStatus([...all, 'none', 'over'])).toBe('over');
    expect(worstOf(['ok', 'none', 'near'])).toBe('near');
    expect(worstOf(['ok', 'stale', 'near', 'over'])).toBe('over');
    expect(worstOf([])).toBe('none');
  });
});

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
  it('unwrap: a fold or an overlap is wrong, much stretch, little coverage or too few texels is near, as the gauge says', () => {
    expect(unwrapStatus(layout({ density: 20 }), 25, true)).toBe(reachedStatus(20, 25));
    expect(unwrapStatus(layout({ density: 9.6 }), 20, true)).toBe('over');
    expect(unwrapStatus(layout(), 20, true)).toBe('ok');
    expect(unwrapStatus(layout({ folds: 1 }), 20, true)).toBe('over');
    expect(unwrapStatus(layout({ overlapTexels: 1 }), 20, true)).toBe('over');
    expect(unwrapStatus(layout({ stretchL2: 1.2 }), 20, true)).toBe('near');
    expect(unwrapStatus(layout({ coverage: 0.2 }), 20, true)).toBe('near');
    expect(unwrapStatus(layout({ folds: 1 }), 20, false)).toBe('stale');
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
});
