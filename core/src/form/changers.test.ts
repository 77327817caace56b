import { beforeAll, describe, expect, it } from 'vitest';
import { testKit } from '../../test/kit';
import { EFFECTS, MAKERS, randomChanger, randomStep, stepOf } from '../../test/recipes';
import { selfCrossings } from '../inspect/crossings';
import type { Kit } from '../kit';
import { random } from '../maths/random';
import { boundaryLoops } from '../mesh/connectivity';
import { boundsOf, eulerCharacteristic, isWatertight, volumeOf } from '../mesh/measures';
import { attribute, type PolyMesh, triangleCount } from '../mesh/polymesh';
import { measuredSolid } from '../mesh/solids';
import { form, NOWHERE } from './recipe';
import type { Detail } from './step';
import { checkStep, type Step } from './steps';

let kit: Kit;
beforeAll(async () => {
  kit = await testKit();
});
const low: Detail = { mesh: 'low', count: () => 12 };
const solids = () => kit.solids as NonNullable<Kit['solids']>;

describe('steps that change what stands above them', () => {
  it('300 random recipes: handles and rims come out as predicted, closed stays closed, by our own count and the library’s', () => {
    const next = random(2026);
    let checked = 0;
    let crossed = 0;
    const tried = new Map<string, number>();
    for (let i = 0; i < 300; i++) {
      const maker = randomStep(next, MAKERS[i % MAKERS.length]);
      const bare = form([maker], low).mesh;
      const changers = Array.from({ length: 1 + Math.floor(next() * 2) }, () => randomChanger(next)).map(checkStep);
      if (!bare) continue;
      const { mesh, problems, steps } = form([maker, ...changers], low, { surroundings: { ...NOWHERE, kit } });
      for (const p of problems) expect(p.message).toMatch(/\.$/);
      let [chi, rims] = [eulerCharacteristic(bare), boundaryLoops(bare).length];
      const done = changers.filter((c) => !problems.some((p) => p.step === c.id));
      for (const c of done) {
        tried.set(c.kind, (tried.get(c.kind) ?? 0) + 1);
        if (EFFECTS[c.kind] === 'doubles') [chi, rims] = [2 * chi, 0];
      }
      const m = mesh as PolyMesh;
      const what = `${i}: ${maker.kind} ${done.map((c) => c.kind).join(' ')}`;
      expect(eulerCharacteristic(m), what).toBe(chi);
      expect(boundaryLoops(m).length, what).toBe(rims);
      if (rims === 0) {
        expect(isWatertight(m), what).toBe(true);
        const measured = measuredSolid(solids(), m);
        expect(Math.abs(measured.volume - volumeOf(m)), what).toBeLessThan(1e-3 * Math.abs(volumeOf(m)) + 0.01);
      }
      expect(
        steps.reduce((n, s) => n + s.triangles, 0),
        what,
      ).toBe(triangleCount(m));
      if (triangleCount(m) < 4000 && selfCrossings(m, 1).length > 0 && selfCrossings(bare, 1).length === 0) crossed++;
      checked++;
    }
    expect(checked).toBeGreaterThan(250);
    expect([...tried.keys()].sort()).toEqual(Object.keys(EFFECTS).sort());
    // Bends and walls of already curved makers can meet themselves without any edge running out of room.
    expect(crossed).toBeLessThan(0.03 * checked);
  });
  it('keeps patches through every change, and gives new faces patches of their own', () => {
    const { mesh, problems } = form(
      [stepOf('box', { id: 'b', corner: 0 }), stepOf('shell', { id: 's' }), stepOf('bevel', { id: 'v', size: 0.5 })],
      low,
    );
    expect(problems).toEqual([]);
    const m = mesh as PolyMesh;
    const patch = attribute(m, 'patch', 'face')?.data as Uint32Array;
    const names = new Set(Array.from(patch, (i) => m.patches[i].split('/')[0]));
    expect([...names].sort()).toEqual(['b', 's', 'v']);
  });
  it('a bevel over its room is held there and says so; copies made part of the mesh are worked on together', () => {
    const box = stepOf('box', { id: 'b', width: 20, height: 20, depth: 20, corner: 0 });
    const wide = form([box, stepOf('bevel', { id: 'v', size: 40 })], low);
    expect(wide.problems).toEqual([]);
    expect(wide.steps[1].notes[0].message).toBe('“Bevel” of 40\u00a0mm has only 10\u00a0mm of room; 9.8\u00a0mm are taken.');
    const row = { ...stepOf('row', { id: 'r', count: 3, dx: 30, dy: 0 }), applied: true } as Step;
    const three = form([box, row, stepOf('bevel', { id: 'v' })], low);
    expect(three.placements).toHaveLength(1);
    expect(three.steps.find((s) => s.step === 'v')?.figures[0].value).toBe(36);
    const mirrored = form([box, stepOf('place', { id: 'p', x: 10 }), { ...stepOf('mirror', { id: 'm' }), weld: 0.01 } as Step], low);
    expect(boundsOf(mirrored.mesh as PolyMesh).min[0]).toBeCloseTo(-20, 9);
  });
  it('copies along a path stand at equal distances, on the curve, turned with it', () => {
    const box = stepOf('box', { id: 'b', corner: 0 });
    const places = (more: object) => form([box, { ...stepOf('trail', { id: 't' }), ...more } as Step], low).placements;
    const corner = [
      { id: 'a', x: 0, y: 0, z: 0 },
      { id: 'b', x: 30, y: 0, z: 0 },
      { id: 'c', x: 30, y: 0, z: 30 },
    ];
    const straight = places({ path: corner, smooth: false, count: 5 });
    expect(straight.map((m) => m.slice(12, 15).map((x) => Math.round(x * 1e9) / 1e9 + 0))).toEqual([
      [0, 0, 0],
      [15, 0, 0],
      [30, 0, 0],
      [30, 0, 15],
      [30, 0, 30],
    ]);
    // Sixteen points of a circle of 50: its curve stays within a tenth of it, and steps are a 24th of its length.
    const ring = Array.from({ length: 16 }, (_, i) => ({
      id: `p${i}`,
      x: 50 * Math.cos((Math.PI * i) / 8),
      y: 0,
      z: 50 * Math.sin((Math.PI * i) / 8),
    }));
    const round = places({ path: ring, closed: true, smooth: true, count: 24 });
    expect(round).toHaveLength(24);
    for (const [i, m] of round.entries()) {
      const next = round[(i + 1) % 24];
      expect(Math.abs(Math.hypot(m[12], m[14]) - 50)).toBeLessThan(0.1);
      expect(Math.abs(Math.hypot(next[12] - m[12], next[14] - m[14]) / (100 * Math.sin(Math.PI / 24)) - 1)).toBeLessThan(0.01);
      // Its z runs along the path, at right angles to the radius.
      expect(Math.abs(m[8] * m[12] + m[10] * m[14]) / 50).toBeLessThan(0.05);
    }
  });
  it('cuts in half, apart, with caps and a band; leans the plane', () => {
    const box = stepOf('box', { id: 'b', width: 20, height: 20, depth: 20, corner: 0 });
    const halves = form([box, stepOf('cut', { id: 'c', at: 8, keep: 'both', gap: 4, band: 1.5 })], low).mesh as PolyMesh;
    expect(isWatertight(halves)).toBe(true);
    expect(volumeOf(halves)).toBeCloseTo(8000, 6);
    expect(boundsOf(halves).max[1] - boundsOf(halves).min[1]).toBeCloseTo(24, 9);
    expect(halves.patches).toEqual(expect.arrayContaining(['c/cap above', 'c/band above', 'c/cap below', 'c/band below']));
    const leaning = form([box, stepOf('cut', { id: 'c', at: 10, leanA: 45 })], low).mesh as PolyMesh;
    expect(volumeOf(leaning)).toBeCloseTo(4000, 6);
  });
  it('engraves text to its depth and raises it: areas of the letters times the depth', () => {
    const plate = stepOf('box', { id: 'b', width: 60, height: 4, depth: 30, corner: 0 });
    const at = { patch: 'b/top', u: 0.5, v: 0.5 };
    const text = (more: object) =>
      ({ ...stepOf('engrave', { id: 't', text: 'LI', height: 10, depth: 1, at }), in: undefined, ...more }) as Step;
    const context = { surroundings: { ...NOWHERE, kit } };
    const cut = form([plate, text({})], low, context);
    expect(cut.problems).toEqual([]);
    const taken = 7200 - volumeOf(cut.mesh as PolyMesh);
    const deeper = 7200 - volumeOf(form([plate, text({ depth: 2 })], low, context).mesh as PolyMesh);
    expect(deeper).toBeCloseTo(2 * taken, 2);
    expect(volumeOf(form([plate, text({ how: 'raised' })], low, context).mesh as PolyMesh) - 7200).toBeCloseTo(taken, 2);
    // L and I of a semibold face: stems of about a fifth of the height (common practice, no source).
    expect(taken).toBeGreaterThan(25);
    expect(taken).toBeLessThan(75);
    // Letters with counters, all of the alphabet and figures: each is a closed solid that can be cut out.
    for (const line of ['ABCDEFGHI', 'JKLMNOPQR', 'STUVWXYZ', '0123456789', 'abdegopq &%'])
      expect(form([plate, text({ text: line, height: 5 })], low, context).problems, line).toEqual([]);
    expect(form([plate, text({ text: '漆' })], low, context).problems[0].message).toMatch(/has no “漆”/);
    expect(form([plate, text({ text: 'A VERY LONG LINE OF TEXT' })], low, context).problems[0].message).toMatch(/over the edge/);
    expect(form([plate, text({ at: { patch: 'x/gone', u: 0, v: 0 } })], low, context).problems[0].message).toMatch(/no longer there/);
    expect(form([plate, text({})], low).problems[0].message).toMatch(/library that was not loaded/);
  });
  it('brings a dense mesh down and measures what that cost', () => {
    const dense = stepOf('soft', { id: 's', levelsLow: 2, cellsX: 4, cellsY: 4, cellsZ: 4 });
    const context = { surroundings: { ...NOWHERE, kit } };
    const bare = form([dense], low).mesh as PolyMesh;
    const { mesh, steps } = form([dense, stepOf('simplify', { id: 'm', triangles: 600 })], low, context);
    expect(triangleCount(mesh as PolyMesh)).toBeLessThanOrEqual(612);
    const off = steps[1].figures.find((f) => f.label === 'farthest off')?.value ?? 0;
    expect(off).toBeGreaterThan(0);
    const { min, max } = boundsOf(bare);
    expect(off).toBeLessThan(0.05 * Math.hypot(...max.map((x, k) => x - min[k])));
  });
});
