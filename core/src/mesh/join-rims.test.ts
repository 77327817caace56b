import { describe, expect, it } from 'vitest';
import { stepOf } from '../../test/recipes';
import { budgetOf, form } from '../form/recipe';
import type { Step } from '../form/steps';
import { selfCrossings } from '../inspect/crossings';
import { edgesOf, shellsOf } from './connectivity';
import { edgeTurns, vertexCurvature } from './curvature';
import { eulerCharacteristic, isWatertight } from './measures';
import { faceNormals } from './normals';
import { attribute, faceCount, type PolyMesh } from './polymesh';
import { subdivide } from './subdivide';

/** A turned mug of sixteen sides with three rows of faces, and a handle whose ends point at it. */
const body = () =>
  stepOf('turned', {
    id: 'mug',
    body: 'solid',
    profile: {
      points: [
        { id: 'a', r: 0, y: 0 },
        { id: 'b', r: 40, y: 0 },
        { id: 'c', r: 40, y: 20 },
        { id: 'd', r: 40, y: 40 },
        { id: 'e', r: 40, y: 60 },
        { id: 'f', r: 40, y: 92 },
        { id: 'g', r: 0, y: 92 },
      ],
      segments: ['foot', 'w1', 'w2', 'w3', 'w4', 'top'].map((name) => ({ id: name, name, kind: 'line' as const })),
    },
  });
const handle = (radius = 5) =>
  stepOf('bar', {
    id: 'handle',
    radius,
    path: [
      { id: 'p', x: 44, y: 70, z: 0 },
      { id: 'q', x: 70, y: 70, z: 0, bend: 10 },
      { id: 'r', x: 70, y: 30, z: 0, bend: 10 },
      { id: 's', x: 44, y: 30, z: 0 },
    ],
  });
const joint = stepOf('join', { id: 'join' });
const made = (steps: Step[], count = 24, sides = 8): ReturnType<typeof form> =>
  form(steps, { mesh: 'low', count: (a) => (a.key.startsWith('handle') ? (a.key.includes('bend') ? 4 : sides) : count) });
const figureOf = (result: ReturnType<typeof form>, label: string) =>
  result.steps.find((r) => r.step === 'join')?.figures.find((f) => f.label.startsWith(label));

/** Everything the joint made, counted from the mesh alone: corners of its faces, and longest by shortest side at the rim. */
function counted(mesh: PolyMesh) {
  const patch = attribute(mesh, 'patch', 'face')?.data as Uint32Array;
  const corners = new Map<number, number>();
  let ratio = 0;
  for (let f = 0; f < faceCount(mesh); f++) {
    const name = mesh.patches[patch[f]];
    if (!name.startsWith('join/')) continue;
    const list = Array.from(mesh.faceVert.slice(mesh.faceStart[f], mesh.faceStart[f + 1]));
    corners.set(list.length, (corners.get(list.length) ?? 0) + 1);
    if (name !== 'join/collar') continue;
    const sides = list.map((v, i) =>
      Math.hypot(...[0, 1, 2].map((k) => mesh.positions[3 * v + k] - mesh.positions[3 * list[(i + 1) % list.length] + k])),
    );
    ratio = Math.max(ratio, Math.max(...sides) / Math.min(...sides));
  }
  return { corners, ratio };
}
/** How many times as strongly the surface bends at a vertex of the joint as anywhere beside it, where it bends at all. */
function sharpest(mesh: PolyMesh): number {
  const edges = edgesOf(mesh);
  const { mean, area } = vertexCurvature(mesh, edges);
  const most = new Float64Array(mean.length);
  for (let e = 0; e < edges.count; e++) {
    const [a, b] = [edges.ends[2 * e], edges.ends[2 * e + 1]];
    most[a] = Math.max(most[a], Math.abs(mean[b]) || 0);
    most[b] = Math.max(most[b], Math.abs(mean[a]) || 0);
  }
  const patch = attribute(mesh, 'patch', 'face')?.data as Uint32Array;
  let worst = 0;
  for (let c = 0; c < mesh.faceVert.length; c++) {
    if (!mesh.patches[patch[edges.faceOf[c]]].startsWith('join/')) continue;
    const v = mesh.faceVert[c];
    if (Math.abs(mean[v]) * Math.sqrt(area[v]) > 0.1) worst = Math.max(worst, Math.abs(mean[v]) / most[v]);
  }
  return worst;
}
/** The mug as a cup with a wall, and one tall face a side. */
const cup = () =>
  ({
    ...body(),
    body: 'wall' as const,
    wall: 3,
    profile: {
      points: [
        { id: 'a', r: 0, y: 0 },
        { id: 'b', r: 40, y: 0 },
        { id: 'c', r: 40, y: 90 },
      ],
      segments: ['foot', 'side'].map((name) => ({ id: name, name, kind: 'line' as const })),
    },
  }) as Step;

describe('joining rims', () => {
  it('makes one closed surface with a handle: genus 1, quads kept, nothing crossing', () => {
    const steps = [body(), handle(), joint] as Step[];
    const result = made(steps, 16);
    const { mesh, problems } = result;
    expect(problems).toEqual([]);
    const m = mesh as PolyMesh;
    expect(isWatertight(m)).toBe(true);
    expect(shellsOf(m).count).toBe(1);
    expect(eulerCharacteristic(m)).toBe(0);
    expect(selfCrossings(m, 1)).toEqual([]);
    expect(figureOf(result, 'rims joined')?.value).toBe(2);
    // What was picked on body and handle is still called the same; the ring between has patches of its own.
    const patch = attribute(m, 'patch', 'face')?.data as Uint32Array;
    const names = new Set(Array.from(patch, (i) => m.patches[i]));
    expect([...names].some((n) => n.startsWith('mug/'))).toBe(true);
    expect(['join/collar', 'join/apron'].every((n) => names.has(n))).toBe(true);
    expect(names.has('handle/start')).toBe(false);
  });

  // Six pairs of counts, on a mug with one tall face a side and on one with rows.
  const pairs = [
    [16, 8],
    [24, 8],
    [24, 12],
    [32, 10],
    [48, 14],
    [64, 24],
  ] as const;
  it.each(pairs)(
    'a mug of %i sides and a handle of %i: quads alone, sides and bends at the rim within twice each other, in half a second',
    (sides, round) => {
      for (const mug of [cup(), body()]) {
        const before = performance.now();
        const result = made([mug, handle(), joint] as Step[], sides, round);
        const took = performance.now() - before;
        expect(result.problems).toEqual([]);
        const m = result.mesh as PolyMesh;
        expect(isWatertight(m)).toBe(true);
        expect(eulerCharacteristic(m)).toBe(0);
        expect(selfCrossings(m, 1)).toEqual([]);
        const { corners, ratio } = counted(m);
        expect([...corners.keys()]).toEqual([4]);
        expect(ratio).toBeLessThan(2);
        expect(ratio).toBeCloseTo(figureOf(result, 'worst face at a rim')?.value ?? 0, 6);
        expect(sharpest(m)).toBeLessThan(2);
        expect(result.steps.find((r) => r.step === 'join')?.notes.some((n) => n.code === 'join/counts')).toBe(false);
        // Generous: machines are shared.
        expect(took).toBeLessThan(2500);
      }
    },
  );
  it('holds when the body’s sides are changed afterwards, any number of them', () => {
    for (const sides of [14, 17, 21, 28, 35, 40, 52]) {
      const { mesh, problems } = made([cup(), handle(), joint] as Step[], sides);
      expect(problems).toEqual([]);
      expect([...counted(mesh as PolyMesh).corners.keys()]).toEqual([4]);
      expect(eulerCharacteristic(mesh as PolyMesh)).toBe(0);
    }
  });
  it('runs no line on over the body: what lies beside the joint stays as it was', () => {
    const bare = made([cup()], 32).mesh as PolyMesh;
    const { mesh } = made([cup(), handle(), joint] as Step[], 32);
    const m = mesh as PolyMesh;
    const ofMug = (x: PolyMesh) => {
      const patch = attribute(x, 'patch', 'face')?.data as Uint32Array;
      return Array.from(patch, (i) => x.patches[i]).filter((n) => n.startsWith('mug/')).length;
    };
    // Two rims open a few faces each and divide those round them into three or four.
    expect(Math.abs(ofMug(m) - ofMug(bare))).toBeLessThan(40);
    const before = new Set(Array.from({ length: bare.positions.length / 3 }, (_, v) => bare.positions.slice(3 * v, 3 * v + 3).join()));
    const far = Array.from({ length: m.positions.length / 3 }, (_, v) => m.positions.slice(3 * v, 3 * v + 3)).filter((p) => p[0] < 20);
    expect(far.every((p) => before.has(p.join()))).toBe(true);
  });
  it('smoothed twice it stays closed and smooth: turns over its edges fall with every level', () => {
    const { mesh } = made([body(), handle(), joint] as Step[], 24, 12);
    let m = mesh as PolyMesh;
    const turn = (x: PolyMesh) => {
      const patch = attribute(x, 'patch', 'face')?.data as Uint32Array;
      const edges = edgesOf(x);
      const turns = edgeTurns(x, faceNormals(x), edges);
      let most = 0;
      for (let e = 0; e < edges.count; e++) {
        const sides = [0, 1].map((k) => x.patches[patch[edges.faceOf[edges.corners[edges.start[e] + k]]]]);
        if (sides.some((n) => n.startsWith('join/'))) most = Math.max(most, Math.abs(turns[e]));
      }
      return most;
    };
    const all = [turn(m)];
    for (let level = 0; level < 3; level++) {
      m = subdivide(m);
      all.push(turn(m));
    }
    expect(isWatertight(m)).toBe(true);
    for (let i = 1; i < all.length; i++) expect(all[i]).toBeLessThan(0.85 * all[i - 1]);
  });
  it('opens the outside of a hollow body, not the wall it would meet from within', () => {
    const left = { ...handle(), path: handle().path.map((p) => ({ ...p, x: -p.x })) } as Step;
    for (const piece of [handle(), left]) {
      const { mesh, problems } = made([cup(), piece, joint] as Step[], 16);
      expect(problems).toEqual([]);
      const m = mesh as PolyMesh;
      expect(isWatertight(m)).toBe(true);
      expect(shellsOf(m).count).toBe(1);
      expect(eulerCharacteristic(m)).toBe(0);
      const inside = (x: PolyMesh) =>
        Array.from(attribute(x, 'patch', 'face')?.data as Uint32Array, (i) => x.patches[i]).filter((n) => n.includes('inside')).length;
      expect(inside(m)).toBe(inside(made([cup()], 16).mesh as PolyMesh));
    }
  });
  it('counts of what is joined are even, in the mesh and for the solver; another step between leaves them be', () => {
    const steps = [body(), handle(), joint] as Step[];
    const result = made(steps, 16, 9);
    expect(figureOf(result, 'rim 1')?.value).toBe(10);
    expect([...counted(result.mesh as PolyMesh).corners.keys()]).toEqual([4]);
    const key = budgetOf(steps).adaptive.find((a) => a.key === 'handle.section');
    expect(key?.every).toBe(2);
    expect(budgetOf([body(), handle()] as Step[]).adaptive.find((a) => a.key === 'handle.section')?.every ?? 1).toBe(1);
  });
  it('two rims on one face of the body part it between them', () => {
    const result = made([cup(), handle(), joint] as Step[], 16);
    expect(figureOf(result, 'faces of the body divided')?.value).toBeGreaterThan(0);
    expect(figureOf(result, 'rims joined')?.value).toBe(2);
  });
  it('a fillet rounds the high mesh alone unless both are wanted: as far as it was asked for, closed', () => {
    const rounded = (more: object, mesh: 'low' | 'high') => {
      const steps = [cup(), handle(), { ...joint, fillet: 2, ...more }] as Step[];
      return form(steps, mesh === 'low' ? { mesh, count: (a) => (a.key.startsWith('handle') ? 8 : 24) } : { mesh, toleranceMm: 0.02 });
    };
    const high = rounded({}, 'high');
    expect(high.problems).toEqual([]);
    expect(figureOf(high, 'fillet')?.value).toBeCloseTo(2, 6);
    expect(isWatertight(high.mesh as PolyMesh)).toBe(true);
    expect(eulerCharacteristic(high.mesh as PolyMesh)).toBe(0);
    // No edge at the rim is sharp any more.
    const m = high.mesh as PolyMesh;
    const patch = attribute(m, 'patch', 'face')?.data as Uint32Array;
    const edges = edgesOf(m);
    const turns = edgeTurns(m, faceNormals(m), edges);
    for (let e = 0; e < edges.count; e++)
      if (m.patches[patch[edges.faceOf[edges.corners[edges.start[e]]]]].startsWith('join/')) expect(Math.abs(turns[e])).toBeLessThan(0.5);
    expect(figureOf(rounded({}, 'low'), 'fillet')).toBeUndefined();
    expect(figureOf(rounded({ filletIn: 'both' }, 'low'), 'fillet')?.value).toBeCloseTo(2, 6);
  });
  it('says what is in the way', () => {
    const at = (change: (p: { x: number; y: number; z: number }) => object) =>
      ({ ...handle(), path: handle().path.map((p) => ({ ...p, ...change(p) })) }) as Step;
    const said = (steps: Step[]) => made(steps).problems[0].message;
    expect(said([body(), at(() => ({ z: 90 })), joint] as Step[])).toMatch(/No rim faces the body/);
    expect(said([body(), at((p) => ({ y: p.y + 20 })), joint] as Step[])).toMatch(/stands on the body with \d of its 8 corners only/);
    expect(said([body(), joint] as Step[])).toMatch(/needs two steps above it/);
    expect(said([joint] as Step[])).toMatch(/nothing to work on/);
  });
});
