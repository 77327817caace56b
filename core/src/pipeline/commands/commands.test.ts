import { stormLantern } from '@wellmorph/demo/lantern';
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { EVERY } from '../../../test/commands';
import { canonical } from '../../hash';
import type { AssetDocument } from '../document';
import { applyCommand, COMMAND_TYPES, type Command, commandKind, inWords, meet, touchedBy } from './index';

const lantern = stormLantern();

/** Lists of things with ids in the order of those: which of two additions came first is no difference. */
const sorted = (value: unknown): unknown =>
  Array.isArray(value)
    ? value.map(sorted).sort((a, b) => (canonical((a as { id?: string })?.id ?? 0) < canonical((b as { id?: string })?.id ?? 0) ? -1 : 0))
    : value && typeof value === 'object'
      ? Object.fromEntries(Object.entries(value).map(([k, v]) => [k, sorted(v)]))
      : value;
const tried = (d: AssetDocument, ...commands: Command[]): AssetDocument | null => {
  try {
    return commands.reduce((doc, c) => applyCommand(doc, c).document, d);
  } catch {
    return null;
  }
};

describe('every kind of change', () => {
  it('is there with its shape, its words and what it decides', () => {
    const inList = new Set(EVERY.map((c) => c.type));
    for (const type of COMMAND_TYPES) {
      const kind = commandKind(type);
      expect(kind.type).toBe(type);
      expect(new kind.shape()).toBeDefined();
      // Those that bring a stored file are made where one is.
      if (!kind.byServer && !['mesh.replace', 'reference.set', 'photo.set'].includes(type)) expect(inList, type).toContain(type);
    }
    for (const c of EVERY) {
      expect(inWords(c, lantern).length, c.type).toBeGreaterThan(5);
      expect(touchedBy(c).length, c.type).toBeGreaterThan(0);
    }
  });
  it('two that decide nothing in common come to the same in either order', () => {
    let pairs = 0;
    for (const a of EVERY)
      for (const b of EVERY) {
        if (a === b || meet(touchedBy(a), touchedBy(b))) continue;
        const [ab, ba] = [tried(lantern, a, b), tried(lantern, b, a)];
        // Where one needs the other first, only that order can be made.
        if (!ab || !ba || !tried(lantern, a) || !tried(lantern, b)) continue;
        pairs++;
        expect(sorted(ab), `${a.type} and ${b.type}`).toEqual(sorted(ba));
      }
    expect(pairs).toBeGreaterThan(400);
  });
  it('meets what it holds and what holds it', () => {
    const removed: Command = { type: 'part.remove', part: 'font' };
    const set: Command = { type: 'part.set', part: 'font', patch: { weight: 2, role: 'body' } };
    expect(meet(touchedBy(removed), touchedBy(set))).toBe(true);
    expect(meet(touchedBy(set), touchedBy(removed))).toBe(true);
    expect(meet(touchedBy(set), touchedBy({ type: 'part.set', part: 'font', patch: { material: null } }))).toBe(false);
    expect(meet(touchedBy(set), touchedBy({ type: 'part.set', part: 'cap', patch: { weight: 3 } }))).toBe(false);
    // `part/fon` is not a part of `part/font`.
    expect(meet(['part/fon'], ['part/font'])).toBe(false);
  });
  it('its inverse brings back exactly what was, for random rows of changes', () => {
    fc.assert(
      fc.property(fc.array(fc.integer({ min: 0, max: EVERY.length - 1 }), { maxLength: 12 }), (row) => {
        let d = lantern;
        const before: AssetDocument[] = [];
        for (const i of row) {
          const next = tried(d, EVERY[i]);
          if (!next) continue;
          before.push(d);
          d = next;
        }
        // Nothing of an earlier document was written into.
        expect(before.length === 0 || canonical(before[0]) === canonical(lantern)).toBe(true);
      }),
      { numRuns: 60, seed: 4 },
    );
  });
});

describe('a trial’s state', () => {
  it('is taken up with everything up to its stage and nothing beyond', () => {
    const old = tried(
      lantern,
      { type: 'part.remove', part: 'flame' },
      { type: 'unwrap.set', patch: { padding: 3 } },
      { type: 'bake.set', patch: { samples: 4 } },
    ) as AssetDocument;
    const now = tried(
      lantern,
      { type: 'rename', name: 'Another' },
      { type: 'brief.set', patch: { deadline: '2027-01-01' } },
    ) as AssetDocument;
    const { document } = applyCommand(now, { type: 'state.take', stage: 'unwrap', title: 'x', state: old });
    expect(document.parts).toEqual(old.parts);
    expect(document.unwrap).toEqual(old.unwrap);
    expect(document.bake).toEqual(lantern.bake);
    expect([document.name, document.brief.deadline]).toEqual(['Another', '2027-01-01']);
    // Of an archive, what went into it is taken too; of a picture it isn’t.
    const packed = tried(old, { type: 'handoff.set', patch: { levels: 1, y: 'down' } }) as AssetDocument;
    const taken = (stage: 'render' | 'hand-off') =>
      applyCommand(now, { type: 'state.take', stage, title: 'x', state: packed }).document.handoff;
    expect([taken('hand-off'), taken('render')]).toEqual([packed.handoff, now.handoff]);
  });
});
