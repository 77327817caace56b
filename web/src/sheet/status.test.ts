import { newDocument } from '@wellmorph/core/pipeline/document';
import { VERDICTS } from '@wellmorph/core/surface/validity';
import { stormLantern } from '@wellmorph/demo/lantern';
import { describe, expect, it } from 'vitest';
import { handoffStatus, lightStatus, renderStatus, type Status, surfaceStatus, worstOf } from './status';

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
