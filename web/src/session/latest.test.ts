import { describe, expect, it } from 'vitest';
import { Latest } from './latest';
import type { AssetSession } from './session';

/** Only its identity is asked for. */
const session = () => ({}) as AssetSession;
const stopped = (going: { cancel: Int32Array } | null) => Atomics.load(going?.cancel as Int32Array, 0) === 1;

describe('work of which only the latest counts', () => {
  it('the same is not begun twice, a newer one stops the older and takes its place', () => {
    const views = new Latest();
    const s = session();
    const first = views.begin(s, 'walls');
    expect(views.begin(s, 'walls')).toBeNull();
    expect([first?.isLatest(), stopped(first)]).toEqual([true, false]);
    const second = views.begin(s, 'curvature');
    expect([first?.isLatest(), stopped(first), second?.isLatest(), stopped(second)]).toEqual([false, true, true, false]);
  });
  it('once it has ended it can be begun again; an older one that ends late ends nothing', () => {
    const views = new Latest();
    const s = session();
    const first = views.begin(s, 'walls');
    const second = views.begin(s, 'curvature');
    first?.end();
    expect(second?.isLatest()).toBe(true);
    second?.end();
    expect(second?.isLatest()).toBe(false);
    // Back to what was stopped: it was never finished, so it is begun anew.
    expect(views.begin(s, 'walls')).not.toBeNull();
  });
  it('of two assets stands side by side, and of two kinds', () => {
    const [views, looks] = [new Latest(), new Latest()];
    const [one, two] = [session(), session()];
    const all = [views.begin(one, 'walls'), views.begin(two, 'walls'), looks.begin(one, 'walls')];
    for (const going of all) expect([going?.isLatest(), stopped(going)]).toEqual([true, false]);
  });
});
