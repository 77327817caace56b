import { stormLantern } from '@wellmorph/demo/lantern';
import { describe, expect, it } from 'vitest';
import { briefFor } from '../brief/brief';
import { newDocument } from '../pipeline/document';
import { nameOf } from '../pipeline/results';
import { between, sweepFields, sweepRuns } from './sweep';

const lantern = stormLantern;

describe('values between two', () => {
  it('are even, apertures in equal stops', () => {
    expect(between(1.3, 1.6, 4)).toEqual([1.3, 1.4, 1.5, 1.6]);
    expect(between(4, 16, 3, 'aperture')).toEqual([4, 8, 16]);
    expect(between(2, 2, 1)).toEqual([2]);
  });
});

describe('the runs of a sweep', () => {
  const document = newDocument('Gauge', briefFor('game'));
  it('are every value of one with every value of the other, each of a name of its own, and the document is left as it is', () => {
    const before = JSON.stringify(document);
    const { stage, runs } = sweepRuns(document, [
      { key: 'aperture', values: [4, 5.6, 8, 11] },
      { key: 'key.turn', values: [-60, -40, 0] },
    ]);
    expect(stage).toBe('render');
    expect(runs).toHaveLength(12);
    expect(new Set(runs.map((r) => nameOf(r.document, 'render'))).size).toBe(12);
    expect(runs.map((r) => [r.row, r.column])).toEqual(Array.from({ length: 12 }, (_, i) => [Math.floor(i / 4), i % 4]));
    expect(runs[5]).toMatchObject({ label: 'f/5.6 · key turned −40', set: {} });
    expect(JSON.stringify(document)).toBe(before);
  });
  it('a locked shot is swept all the same, and stays locked', () => {
    const locked = { ...document, shot: { ...document.shot, locked: true } };
    const { runs } = sweepRuns(locked, [{ key: 'lensMm', values: [50, 90] }]);
    expect(runs.map((r) => [r.document.shot.lensMm, r.document.shot.locked])).toEqual([
      [50, true],
      [90, true],
    ]);
  });
  it('figures of a material are swept in its plain values; distances of a bake are then one for all', () => {
    const { runs } = sweepRuns(lantern(), [{ key: `${lantern().materials[0].id}.ior`, values: between(1.3, 1.6, 4) }]);
    expect(Object.values(runs[0].set)).toEqual([1.3]);
    expect(runs.map((r) => [r.document.materials[0].ior, r.document.render.maps])).toEqual([1.3, 1.4, 1.5, 1.6].map((v) => [v, false]));
    expect(
      sweepRuns(document, [{ key: 'bake.frontMm', values: [1, 2] }]).runs.map((r) => [r.document.bake.frontMm, r.document.bake.distances]),
    ).toEqual([
      [1, 'uniform'],
      [2, 'uniform'],
    ]);
  });
  it('every field says what is set now, takes its ends, and refuses what is beyond them', () => {
    for (const field of sweepFields(lantern())) {
      for (const v of [field.min, field.max])
        expect(() => sweepRuns(lantern(), [{ key: field.key, values: [v] }]), field.key).not.toThrow();
      expect(() => sweepRuns(lantern(), [{ key: field.key, values: [field.max * 1.01 + 1] }]), field.key).toThrow('is none of them');
      const { document: made } = sweepRuns(lantern(), [{ key: field.key, values: [field.max] }]).runs[0];
      expect([field.key, field.now(made)]).toEqual([field.key, field.max]);
    }
  });
  it('settings of two stages, too many, or none, get one sentence', () => {
    const sweep =
      (...axes: { key: string; values: number[] }[]) =>
      () =>
        sweepRuns(document, axes);
    expect(sweep({ key: 'aperture', values: [4] }, { key: 'bake.reachMm', values: [4] })).toThrow('are settings of different stages.');
    expect(sweep({ key: 'samples', values: [2.5] })).toThrow('in whole numbers');
    expect(sweep()).toThrow('one setting or two');
    expect(sweep({ key: 'aperture', values: [] })).toThrow('differ from each other');
  });
});
