import { briefFor } from '@wellmorph/core/brief/brief';
import type { Step } from '@wellmorph/core/form/steps/index';
import { transformPoint } from '@wellmorph/core/maths/mat4';
import { type AssetDocument, newDocument, type Part } from '@wellmorph/core/pipeline/document';
import { formAsset, type PartMesh } from '@wellmorph/core/pipeline/form';
import { describe, expect, it } from 'vitest';
import { stepOf } from '../../../../core/test/recipes';
import { hasHand, ownPart, placeAmong } from './halves';

const part = (...steps: Step[]): Part => ({
  id: 'p',
  name: 'Pegs',
  role: 'body',
  material: null,
  move: [3, 4, 5],
  turnDegrees: [0, 30, 10],
  shape: { kind: 'recipe', steps: [stepOf('box', { id: 'peg', width: 4, height: 10, depth: 6, corner: 0 }), ...steps] },
  weight: 1,
  declaredOpen: false,
});
const formed = (...parts: Part[]): PartMesh[] => {
  const document: AssetDocument = { ...newDocument('Rack', { ...briefFor('game'), sizeMm: [100, 20, 20] }), parts };
  return formAsset(document, 'low', () => {
    throw new Error('no mesh');
  }).parts;
};
/** Every corner of everything that stands, told apart to a thousandth. */
const corners = (parts: readonly PartMesh[]): string[] =>
  parts
    .flatMap((p) =>
      p.placements.flatMap((m) =>
        Array.from({ length: p.mesh.positions.length / 3 }, (_, v) =>
          transformPoint(m, [p.mesh.positions[3 * v], p.mesh.positions[3 * v + 1], p.mesh.positions[3 * v + 2]])
            .map((x) => (Math.round(x * 1e3) / 1e3 + 0).toFixed(3))
            .join(),
        ),
      ),
    )
    .sort();
let n = 0;
const newId = () => `n${n++}`;

describe('one copy as a part of its own', () => {
  const row = stepOf('row', { id: 'row', count: 5, dx: 12, dy: 1, dz: 0, leanLeast: 4, leanMost: 9, turnMost: 20 });
  it.each([
    ['', []],
    [', all of it set in place', [stepOf('place', { id: 'to', x: 7, y: -3, turnZ: 25 })]],
  ])('stands where the copy stood, and the copy is gone: nothing of the piece has changed%s', (_, then) => {
    const rack = part(row, ...then);
    const before = formed(rack);
    const made = ownPart(rack, row, 3, before[0].placements[placeAmong(row, 3)], 'q', 'o1', newId);
    const after = formed(
      { ...rack, shape: { ...rack.shape, steps: [rack.shape.steps?.[0], made.step, ...then] } as Part['shape'] },
      made.part,
    );
    expect(after.map((p) => p.placements.length)).toEqual([4, 1]);
    expect(corners(after)).toEqual(corners(before));
    expect(made.part.name).toBe('Pegs 3');
  });
  it('one after the other, numbers stay those of the row', () => {
    const first = ownPart(part(row), row, 2, formed(part(row))[0].placements[1], 'q', 'o1', newId).step;
    expect([placeAmong(first, 1), placeAmong(first, 2), placeAmong(first, 3)]).toEqual([0, -1, 1]);
    const left = formed(part(first));
    const second = ownPart(part(first), first, 3, left[0].placements[placeAmong(first, 3)], 'q2', 'o2', newId);
    expect(formed(part(second.step))[0].placements).toHaveLength(3);
    expect(second.part.move[0]).toBeCloseTo(formed(part(row))[0].placements[2][12], 9);
  });
  it('is offered where one step alone copies, and copies are no single mesh', () => {
    expect(hasHand(part(row), row)).toBe(true);
    expect(hasHand(part(row, stepOf('place', { id: 'to' })), row)).toBe(true);
    const applied = { ...row, applied: true };
    expect(hasHand(part(applied), applied)).toBe(false);
    expect(hasHand(part(row, stepOf('array', { id: 'a' })), row)).toBe(false);
    const bevel = stepOf('bevel', { id: 'b' });
    expect(hasHand(part(bevel), bevel)).toBe(false);
  });
});
