import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { type Finding, type FindingKind, finding, worstFirst } from './finding';
import { grouped } from './grouped';

const about = (kind: FindingKind, name: string, more: Partial<Finding> = {}): Finding => ({
  ...finding(
    { id: name.toLowerCase(), name },
    {
      kind,
      severity: 'warning',
      value: 3,
      unit: 'rims',
      limit: 0,
      message: `${name}: 3 open rims of 12 edges.`,
      why: 'The inside shows.',
      where: [[0, 0, 0]],
      fixes: ['fill-rims'],
    },
  ),
  ...more,
});

describe('findings of one kind', () => {
  it('over several parts are one entry, with a count, the worst first, and what mends all of them', () => {
    const [entry, ...rest] = grouped([
      about('open-rim', 'Lid'),
      about('open-rim', 'Base', { value: 5 }),
      about('open-rim', 'Knob', { value: 1, fixes: ['fill-rims', 'weld'], frees: 40 }),
    ]);
    expect(rest).toEqual([]);
    expect(entry.message).toBe('3 parts: open rims, 9 rims in all, most on Base: 5.');
    expect(entry.findings.map((f) => f.partName)).toEqual(['Base', 'Lid', 'Knob']);
    expect([entry.fixes, entry.frees, entry.why]).toEqual([['fill-rims'], 40, 'The inside shows.']);
  });
  it('on one part alone stay as they were said', () => {
    const one = about('open-rim', 'Lid');
    expect(grouped([one])[0]).toMatchObject({ id: one.id, message: one.message, fixes: one.fixes, findings: [one] });
  });
  it('of different weight, meant or not, or of the whole piece, stay apart', () => {
    const list = [
      about('open-rim', 'Lid'),
      about('open-rim', 'Base', { severity: 'information' }),
      about('open-rim', 'Knob', { waived: 'it is a tube' }),
      about('open-rim', 'Spout', { waived: 'it is a spout' }),
      about('open-rim', 'Handle', { reopened: 'it was a tube' }),
      about('over-limit', 'Piece', { part: null, id: 'over-limit:triangles' }),
      about('over-limit', 'Piece', { part: null, id: 'over-limit:memory' }),
    ];
    expect(grouped(list)).toHaveLength(list.length);
  });
  it('what is measured is told at its worst; what can’t be counted is only named', () => {
    const thin = (name: string, value: number) =>
      about('thin-wall', name, { value, unit: 'mm', limit: 2, message: `${name}: walls of ${value} mm.` });
    expect(grouped([thin('Lid', 1.5), thin('Base', 0.8)])[0].message).toBe(
      '2 parts: walls thinner than the brief wants, at worst 0.8\u00a0mm on Base.',
    );
    const bare = (name: string) => about('no-material', name, { value: 1, unit: 'part', message: `${name} has no material.` });
    expect(grouped([bare('Lid'), bare('Base')])[0].message).toBe('2 parts: no material.');
  });
  it('sentences that say the same but for names and figures are one, others are not', () => {
    const note = (name: string, message: string) => about('note', name, { message, unit: '' });
    const list = grouped([
      note('Lid', '“Bevel” was held at 0.4 mm on Lid.'),
      { ...note('Base', '“Edges” was held at 1.25 mm on Base.'), value: 2 },
      note('Knob', '“Text” has letters that touch.'),
    ]);
    expect(list.map((g) => g.message)).toEqual([
      '“Bevel” was held at 0.4 mm on Lid. One more says the same.',
      '“Text” has letters that touch.',
    ]);
  });
  it('nothing is lost and nothing twice, and the order stays that of the worst', () => {
    const kinds: FindingKind[] = ['open-rim', 'doubles', 'note', 'no-material', 'crease'];
    fc.assert(
      fc.property(
        fc.array(fc.tuple(fc.constantFrom(...kinds), fc.integer({ min: 0, max: 30 }), fc.constantFrom('error', 'warning', 'information'))),
        (drawn) => {
          const list = worstFirst(
            drawn.map(([kind, n, severity], i) =>
              about(kind, `P${n}`, { id: `${kind}:${i}`, severity: severity as Finding['severity'], value: n }),
            ),
          );
          const groups = grouped(list);
          expect(groups.flatMap((g) => g.findings.map((f) => f.id)).sort()).toEqual(list.map((f) => f.id).sort());
          const rank = { error: 0, warning: 1, information: 2 };
          const order = groups.map((g) => rank[g.severity]);
          expect(order).toEqual([...order].sort());
          expect(new Set(groups.map((g) => g.id)).size).toBe(groups.length);
        },
      ),
      { numRuns: 200, seed: 4 },
    );
  });
});
