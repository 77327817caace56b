import { describe, expect, it } from 'vitest';
import { stepOf } from '../../test/recipes';
import { form } from '../form/recipe';
import type { Step } from '../form/steps';
import { selfCrossings } from '../inspect/crossings';
import { shellsOf } from './connectivity';
import { eulerCharacteristic, isWatertight } from './measures';
import { attribute, type PolyMesh } from './polymesh';

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
        { id: 'f', r: 40, y: 80 },
        { id: 'g', r: 0, y: 80 },
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
const made = (steps: Step[], count = 24): ReturnType<typeof form> =>
  form(steps, { mesh: 'low', count: (a) => (a.key.startsWith('handle') && !a.key.includes('bend') ? 8 : count) });

describe('joining rims', () => {
  it('makes one closed surface with a handle: genus 1, quads kept, nothing crossing', () => {
    const steps = [body(), handle(), stepOf('join', { id: 'join' })] as Step[];
    const { mesh, problems, steps: results } = made(steps, 16);
    expect(problems).toEqual([]);
    const m = mesh as PolyMesh;
    expect(isWatertight(m)).toBe(true);
    expect(shellsOf(m).count).toBe(1);
    expect(eulerCharacteristic(m)).toBe(0);
    expect(selfCrossings(m, 1)).toEqual([]);
    const joined = results.find((r) => r.step === 'join');
    expect(joined?.figures.find((f) => f.label === 'rims joined')?.value).toBe(2);
    expect(joined?.figures.find((f) => f.label === 'worst pinch')?.value).toBeGreaterThan(1);
    // What was picked on body and handle is still called the same; the ring between has a patch of its own.
    const patch = attribute(m, 'patch', 'face')?.data as Uint32Array;
    const names = new Set(Array.from(patch, (i) => m.patches[i]));
    expect([...names].some((n) => n.startsWith('mug/'))).toBe(true);
    expect(names.has('join/collar')).toBe(true);
    expect(names.has('handle/start')).toBe(false);
  });
  it('opens the outside of a hollow body, not the wall it would meet from within', () => {
    const cup = {
      ...body(),
      body: 'wall' as const,
      wall: 2,
      profile: { ...body().profile, points: body().profile.points.slice(0, 6), segments: body().profile.segments.slice(0, 5) },
    } as Step;
    const left = { ...handle(), path: handle().path.map((p) => ({ ...p, x: -p.x })) } as Step;
    for (const piece of [handle(), left]) {
      const { mesh, problems } = made([cup, piece, stepOf('join', { id: 'join' })] as Step[], 16);
      expect(problems).toEqual([]);
      const m = mesh as PolyMesh;
      expect(isWatertight(m)).toBe(true);
      expect(shellsOf(m).count).toBe(1);
      expect(eulerCharacteristic(m)).toBe(0);
      const patch = attribute(m, 'patch', 'face')?.data as Uint32Array;
      const inside = (x: PolyMesh, list: Uint32Array) => Array.from(list, (i) => x.patches[i]).filter((n) => n.includes('inside')).length;
      const bare = made([cup]).mesh as PolyMesh;
      expect(inside(m, patch) / 16).toBe(inside(bare, attribute(bare, 'patch', 'face')?.data as Uint32Array) / 24);
    }
  });
  it('counts triangles where the rim’s sides and its opening’s differ, and says so', () => {
    const { steps, problems } = made([body(), handle(), stepOf('join', { id: 'join' })] as Step[], 24);
    expect(problems).toEqual([]);
    const joined = steps.find((r) => r.step === 'join');
    const counts = joined?.figures.filter((f) => f.label.startsWith('rim ')) ?? [];
    const differ = counts.reduce((n, c) => n + Math.abs(c.value - (c.to ?? 0)), 0);
    expect(joined?.figures.find((f) => f.label.startsWith('quads'))?.to).toBe(differ);
    expect((joined?.notes.length ?? 0) > 0).toBe(differ > 0);
  });
  it('says what is in the way', () => {
    const far = { ...handle(), path: handle().path.map((p) => ({ ...p, z: 90 })) } as Step;
    expect(made([body(), far, stepOf('join', { id: 'join' })] as Step[]).problems[0].message).toMatch(/No rim faces the body/);
    expect(made([body(), stepOf('join', { id: 'join' })] as Step[]).problems[0].message).toMatch(/needs two steps above it/);
    expect(made([stepOf('join', { id: 'join' })] as Step[]).problems[0].message).toMatch(/nothing to work on/);
  });
});
