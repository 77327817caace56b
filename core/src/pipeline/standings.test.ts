import { beforeAll, describe, expect, it } from 'vitest';
import { asset, none, part } from '../../test/assets';
import { testKit } from '../../test/kit';
import { stepOf } from '../../test/recipes';
import { cube } from '../../test/shapes';
import type { Kit } from '../kit';
import { neededBy } from '../kit-load';
import { volumeOf } from '../mesh/measures';
import { triangleCount } from '../mesh/polymesh';
import { applyCommand, inWords } from './commands';
import type { AssetDocument, Part, Relation } from './document';
import { formAsset } from './form';
import { inspectAsset, ledgerOf } from './inspect';
import { MeshCache } from './mesh-cache';
import { nameOf } from './results';
import { solveFormed } from './solve';
import { isMet, proposedFor, standingsOf } from './standings';

let kit: Kit;
beforeAll(async () => {
  kit = await testKit();
});
const block = (id: string, size: number) => stepOf('box', { id, width: size, height: size, depth: size, corner: 0 });
const wanted = (w: Relation['wanted'], mm = 0): Relation => ({ id: 'r', a: 'lid', b: 'box', wanted: w, mm, tolerance: 0.05 });
const findings = (d: AssetDocument, memory = new MeshCache()) => {
  const formed = formAsset(d, 'low', none, memory, kit);
  return inspectAsset(d, formed, ledgerOf(formed.parts), undefined, memory).filter(
    (f) => f.kind === 'relation' || f.kind === 'travel' || f.kind === 'note',
  );
};

describe('wanted relations', () => {
  const at = (y: number, relation: Relation) =>
    asset([part('box', [block('b', 40)]), part('lid', [block('l', 20)], { move: [0, y, 0] })], { relations: [relation] });
  it('are measured, and a finding where they are not met says both', () => {
    expect(findings(at(40.4, wanted('gap', 0.4)))).toEqual([]);
    expect(findings(at(40, wanted('resting')))).toEqual([]);
    expect(findings(at(37, wanted('sunk', 3)))).toEqual([]);
    expect(findings(at(80, wanted('free')))).toEqual([]);
    const [far] = findings(at(41, wanted('gap', 0.4)));
    expect(far).toMatchObject({ id: 'relation:r', severity: 'error', value: expect.closeTo(1, 9), limit: 0.4 });
    expect(far.message).toBe('lid and box: a gap of 1\u00a0mm, wanted a gap of 0.4\u00a0mm.');
    expect(findings(at(39, wanted('resting')))[0].message).toBe('lid and box: sunk in by 1\u00a0mm, wanted resting.');
  });
  it('are proposed: a hair off is meant to touch, a gap is kept at a round figure, and what is kept is met', () => {
    expect(proposedFor({ gap: 0.03, sunk: 0 })).toEqual({ wanted: 'resting', mm: 0, tolerance: 0.01 });
    expect(proposedFor({ gap: 0, sunk: 0.02 }).wanted).toBe('resting');
    expect(proposedFor({ gap: 0.37, sunk: 0 })).toEqual({ wanted: 'gap', mm: 0.4, tolerance: 0.05 });
    expect(proposedFor({ gap: 0, sunk: 2.98 })).toEqual({ wanted: 'sunk', mm: 3, tolerance: 0.05 });
    for (let mm = 0.051; mm < 3; mm += 0.007)
      for (const s of [
        { gap: mm, sunk: 0, at: [0, 0, 0] as const },
        { gap: 0, sunk: mm, at: [0, 0, 0] as const },
      ])
        expect(isMet({ ...proposedFor(s), id: 'r', a: 'a', b: 'b' }, s), `${mm}`).toBe(true);
  });
  it('a waiver re-opens when they stand otherwise than when it was given', () => {
    const d = at(41, wanted('gap', 0.4));
    const [f] = findings(d);
    const waived = applyCommand(d, { type: 'waive', waiver: { finding: f.id, reason: 'meant so', value: f.value } }).document;
    expect(findings(waived)[0].waived).toBe('meant so');
    const moved = applyCommand(waived, { type: 'part.set', part: 'lid', patch: { move: [0, 42, 0] } }).document;
    expect(findings(moved)[0].waived).toBeUndefined();
  });
  it('a plane that two parts rest in is no coincidence; without the wish it is', () => {
    const all = (d: AssetDocument) => {
      const formed = formAsset(d, 'low', none);
      return inspectAsset(d, formed, ledgerOf(formed.parts)).filter((f) => f.kind === 'coincident');
    };
    expect(all(at(40, wanted('resting')))).toEqual([]);
    expect(all(at(40, wanted('gap', 0)))).toHaveLength(1);
  });
  it('go with their part, come back with an undo, and change what findings depend on but not the form', () => {
    const d = at(40, wanted('resting'));
    const { document, inverse } = applyCommand(d, { type: 'part.remove', part: 'lid' });
    expect(document.relations).toEqual([]);
    expect(inverse.length).toBeGreaterThan(0);
    const changed = applyCommand(d, { type: 'relation.set', relation: { ...wanted('sunk', 2) } }).document;
    expect(changed.relations).toHaveLength(1);
    expect(nameOf(changed, 'form')).toBe(nameOf(d, 'form'));
    expect(nameOf(changed, 'findings')).not.toBe(nameOf(d, 'findings'));
    expect(applyCommand(d, { type: 'relation.remove', relation: 'r' }).document.relations).toEqual([]);
    expect(() => applyCommand(d, { type: 'relation.set', relation: { ...wanted('gap'), b: 'lid' } })).toThrow(/no relation to itself/);
    expect(() => applyCommand(d, { type: 'relation.set', relation: { ...wanted('gap'), b: 'gone' } })).toThrow(/no longer there/);
    expect(inWords({ type: 'relation.set', relation: wanted('gap', 1) }, d)).toBe('wanted a gap between lid and box');
  });
});

describe('travel of parts', () => {
  const d = asset([part('box', [block('b', 40)]), part('drawer', [block('d', 10)], { move: [-40, 0, 0] })]);
  it('is set and taken away, followed, and a clash is a finding', () => {
    const travel = { kind: 'slide' as const, axis: 'x' as const, from: 0, to: 30, x: 0, y: 0, z: 0 };
    const { document } = applyCommand(d, { type: 'travel.set', part: 'drawer', travel });
    const [f] = findings(document);
    expect(f.message).toMatch(/^drawer runs into box at 15\u00a0mm of its way to 30\u00a0mm/);
    expect(inWords({ type: 'travel.set', part: 'drawer', travel }, d)).toBe('let drawer slide');
    const back = applyCommand(document, { type: 'travel.set', part: 'drawer', travel: null }).document;
    expect(findings(back)).toEqual([]);
    const short = applyCommand(d, { type: 'travel.set', part: 'drawer', travel: { ...travel, to: 12 } }).document;
    expect(standingsOf(short, formAsset(short, 'low', none).parts, new MeshCache()).travels[0]).toMatchObject({
      clash: null,
      least: { part: 'box', gap: expect.closeTo(3, 9) },
    });
  });
});

describe('parts that help others', () => {
  const cut = asset([
    part('body', [block('b', 40), stepOf('combine', { id: 'c', with: 'tool' }), stepOf('bevel', { id: 'v', size: 60 })]),
    part('tool', [stepOf('box', { id: 't', width: 10, height: 10, depth: 80, corner: 0 })], { move: [0, 10, 0], aid: true }),
  ]);
  it('are formed first, work, and are not delivered', () => {
    expect([...neededBy(cut)]).toEqual(['solids']);
    const formed = formAsset({ ...cut, parts: [...cut.parts].reverse() }, 'low', none, undefined, kit);
    expect(formed.parts.map((p) => p.id)).toEqual(['body']);
    expect(formed.aids.map((p) => p.id)).toEqual(['tool']);
    const bare = formAsset(
      { ...cut, parts: [{ ...cut.parts[0], shape: { kind: 'recipe', steps: cut.parts[0].shape.steps?.slice(0, 2) ?? [] } }, cut.parts[1]] },
      'low',
      none,
      undefined,
      kit,
    );
    expect(volumeOf(bare.parts[0].mesh)).toBeCloseTo(64000 - 4000, 3);
  });
  it('a step held to its room is a warning that can be waived; moving the tool makes its part anew', () => {
    const memory = new MeshCache();
    expect(findings(cut, memory)).toMatchObject([{ kind: 'note', where: [expect.any(Array)] }]);
    const first = formAsset(cut, 'low', none, memory, kit).parts[0].mesh;
    expect(formAsset(cut, 'low', none, memory, kit).parts[0].mesh).toBe(first);
    const moved = applyCommand(cut, { type: 'part.set', part: 'tool', patch: { move: [0, 60, 0] } }).document;
    const after = formAsset(moved, 'low', none, memory, kit).parts[0].mesh;
    expect(triangleCount(after)).not.toBe(triangleCount(first));
  });
  it('the whole piece is moved together', () => {
    const { document } = applyCommand(cut, { type: 'parts.move', by: [1, 2, 3] });
    expect(document.parts.map((p) => p.move)).toEqual([
      [1, 2, 3],
      [1, 12, 3],
    ]);
  });
});

describe('a budget through steps that cut', () => {
  it('is kept by what is really made, at several limits', () => {
    const tube = stepOf('turned', { id: 'a', body: 'solid' });
    const d = (limit: number): AssetDocument => {
      const document = asset([
        part('body', [
          tube,
          stepOf('bend', { id: 'n', from: 5, to: 25, degrees: 40 }),
          stepOf('shell', { id: 's', thickness: 1 }),
          stepOf('combine', { id: 'c', with: 'tool' }),
        ]),
        part('tool', [stepOf('box', { id: 't', width: 8, height: 8, depth: 90, corner: 2 })], { move: [0, 8, 0], aid: true }),
      ]);
      return { ...document, brief: { ...document.brief, limits: { ...document.brief.limits, triangles: limit } } };
    };
    for (const limit of [400, 1000, 3000]) {
      const document = d(limit);
      const memory = new MeshCache();
      const budget = solveFormed(document, (x) => formAsset(x, 'low', none, memory, kit));
      expect(budget.fits).toBe(true);
      const solved = { ...document, form: { ...document.form, counts: budget.counts } };
      const made = formAsset(solved, 'low', none, memory, kit).parts[0].mesh;
      expect(triangleCount(made)).toBe(budget.triangles);
      expect(budget.triangles).toBeLessThanOrEqual(limit);
      expect(budget.triangles).toBeGreaterThan(0.75 * limit);
    }
  });
});

describe('steps on an import', () => {
  it('change the mesh that was brought; what makes something is refused', () => {
    const imported: Part = {
      ...part('import', []),
      shape: { kind: 'mesh', low: { blob: 'x', triangles: 12 }, placements: [[1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0, 5, 0, 0, 1]] },
    };
    const { document } = applyCommand(asset([imported]), {
      type: 'step.add',
      part: 'import',
      step: stepOf('bevel', { id: 'v', size: 1, shape: 'straight' }),
    });
    const formed = formAsset(document, 'low', () => cube(20));
    expect(formed.problems).toEqual([]);
    expect(volumeOf(formed.parts[0].mesh)).toBeCloseTo(8000 - 120 + 16 / 3, 6);
    expect(formed.parts[0].placements[0][12]).toBe(5);
    expect(() => applyCommand(document, { type: 'step.add', part: 'import', step: stepOf('box', { id: 'n' }) })).toThrow(
      /was imported: steps can change it/,
    );
  });
});
