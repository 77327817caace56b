import { describe, expect, it } from 'vitest';
import { polygon, stepOf } from '../../test/recipes';
import { isWatertight } from '../mesh/measures';
import type { PolyMesh } from '../mesh/polymesh';
import type { Sketch } from './sketch/sketch';
import type { Detail } from './step';
import { type BladeStep, blade as kind } from './steps/blade';

const dense: Detail = { mesh: 'high', toleranceMm: 0.004 };
const lowAt = (toleranceMm: number): Detail => ({ mesh: 'low', count: (a) => a.countFor(toleranceMm) });
const build = (step: BladeStep, detail: Detail): PolyMesh => kind.maker.build(step, detail);

describe('a blade with teeth, steps and notches in its plan', () => {
  const blade = (points: readonly (readonly [number, number])[]) =>
    stepOf('blade', {
      plan: polygon(points),
      side: polygonLine([
        [0, 0],
        [120, 0],
      ]),
      stations: [
        { id: 'a', at: 0, thickness: 4, squareness: 2 },
        { id: 'b', at: 120, thickness: 4, squareness: 2 },
      ],
    });
  const polygonLine = (points: readonly (readonly [number, number])[]): Sketch => ({
    points: points.map(([x, y], i) => ({ id: `p${i}`, x, y })),
    curves: points.slice(1).map((_, i) => ({ id: `l${i}`, name: `l${i}`, kind: 'line' as const, a: `p${i}`, b: `p${i + 1}` })),
    constraints: [],
  });
  const reaches = (mesh: PolyMesh, x: number, z: number): number => {
    let best = Number.POSITIVE_INFINITY;
    for (let v = 0; v < mesh.positions.length; v += 3)
      best = Math.min(best, Math.hypot(mesh.positions[v] - x, mesh.positions[v + 1], mesh.positions[v + 2] - z));
    return best;
  };

  it('every tooth of a saw is there, to the point, in the lightest mesh', () => {
    const saw: [number, number][] = [
      [0, -20],
      [120, -20],
      [120, 20],
    ];
    for (let i = 20; i > 0; i--) saw.push([6 * i - 3, 26], [6 * i - 6, 20]);
    const mesh = build(blade(saw), { mesh: 'low', count: (a) => a.minimum });
    for (let i = 1; i <= 20; i++) expect(reaches(mesh, 6 * i - 3, -26)).toBeLessThan(1e-6);
    for (let i = 1; i < 20; i++) expect(reaches(mesh, 6 * i, -20)).toBeLessThan(1e-6);
    expect(isWatertight(mesh)).toBe(true);
  });
  it('a step straight across is a step', () => {
    const mesh = build(
      blade([
        [0, -8],
        [50, -8],
        [50, -20],
        [120, -20],
        [120, 20],
        [50, 20],
        [50, 8],
        [0, 8],
      ]),
      lowAt(0.2),
    );
    for (const z of [8, -8, 20, -20]) expect(reaches(mesh, 50, z)).toBeLessThan(2e-4);
    expect(isWatertight(mesh)).toBe(true);
  });
  it('a notch that turns back is refused, with where', () => {
    // A key’s end: a slot 8 wide and 30 long, from the tip.
    const slot = blade([
      [0, -20],
      [120, -20],
      [120, -4],
      [90, -4],
      [90, 4],
      [120, 4],
      [120, 20],
      [0, 20],
    ]);
    expect(() => build(slot, dense)).toThrow(
      /turns back on itself at “side \d” near 90\smm, -?4\smm, as notches do.*Cut it with another part/,
    );
  });
  it('sections that lean beyond the plan at a steep tip say by how much: half the thickness times the sine of the lean', () => {
    const plain = blade([
      [0, -20],
      [100, -20],
      [100, 20],
      [0, 20],
    ]);
    const notes = (side: Sketch) => kind.maker.notes?.({ ...plain, side }) ?? [];
    expect(notes(plain.side)).toEqual([]);
    const [over] = notes(
      polygonLine([
        [0, 0],
        [120, 120],
      ]),
    );
    expect(over).toMatchObject({ code: 'blade/over', unit: 'mm' });
    expect(over.value).toBeCloseTo(2 * Math.SQRT1_2, 3);
  });
});
