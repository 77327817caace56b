import { describe, expect, it } from 'vitest';
import { stepOf } from '../../test/recipes';
import { cube } from '../../test/shapes';
import { random } from '../maths/random';
import { smoothPatches } from '../mesh/patches';
import { attribute, faceCount, type PolyMesh } from '../mesh/polymesh';
import { flatten } from '../uv/charts';
import { edgesAt, facesAt, lineOf, type Place, patchIndex, placesOf } from './places';
import { form } from './recipe';
import { checkRegion, checkSeams, findRegion, marked, type Region } from './regions';
import { facesFrom, strayFaces } from './select';
import type { Detail } from './step';
import type { Step } from './steps/index';
import type { TurnedStep } from './steps/turned';

const vessel: TurnedStep = stepOf('turned', {
  id: 'body',
  body: 'wall',
  wall: 2,
  edgeRadius: 0.6,
  profile: {
    points: [
      { id: 'a', r: 0, y: 0 },
      { id: 'b', r: 30, y: 0, fillet: 4 },
      { id: 'c', r: 34, y: 50 },
      { id: 'd', r: 26, y: 70 },
    ],
    segments: [
      { id: 's0', name: 'floor', kind: 'line' },
      { id: 's1', name: 'wall', kind: 'line' },
      { id: 's2', name: 'shoulder', kind: 'arc', bulge: 2 },
    ],
  },
});
const handle = stepOf('bar', { id: 'handle' });
const low = (sides: number, arcs = 3): Detail => ({ mesh: 'low', count: (a) => (a.key.endsWith('sides') ? sides : arcs) });
const made = (steps: Step[], detail: Detail): PolyMesh => {
  const { mesh } = form(steps, detail);
  if (!mesh) throw new Error('nothing was made');
  return mesh;
};
const picked = (places: Place[], more: Partial<Region> = {}): Region => ({
  id: 'r',
  name: 'label',
  weight: 1,
  rules: [{ id: '1', how: 'add', rule: { kind: 'picked', places } }],
  ...more,
});
/** Middle of the box of patch coordinates that faces fill, and the share of the patch they cover. */
const extent = (mesh: PolyMesh, faces: readonly number[]) => {
  const { box } = patchIndex(mesh);
  const b = [Infinity, -Infinity, Infinity, -Infinity];
  let area = 0;
  for (const f of faces) {
    b[0] = Math.min(b[0], box[4 * f]);
    b[1] = Math.max(b[1], box[4 * f + 1]);
    b[2] = Math.min(b[2], box[4 * f + 2]);
    b[3] = Math.max(b[3], box[4 * f + 3]);
    area += (box[4 * f + 1] - box[4 * f]) * (box[4 * f + 3] - box[4 * f + 2]);
  }
  return { u: (b[0] + b[1]) / 2, v: (b[2] + b[3]) / 2, area };
};
const facesOfPatch = (mesh: PolyMesh, patch: string) => patchIndex(mesh).faces.get(patch) ?? [];

describe('picks are kept as places', () => {
  it('a loop of 32 faces is one rectangle, and 24 faces on a mesh of 24 sides', () => {
    const [a, b] = [made([vessel], low(32)), made([vessel], low(24))];
    const loop = facesFrom(a, facesOfPatch(a, 'body/s1')[3], 'round');
    expect(loop.length).toBe(32);
    const places = placesOf(a, patchIndex(a), loop);
    expect(places).toEqual([{ patch: 'body/s1', u: [0, 1], v: [0, 1] }]);
    expect(facesAt(patchIndex(b), places).faces.length).toBe(24);
  });
  it('a single face never vanishes while its patch is there', () => {
    const a = made([vessel], low(64));
    for (const f of facesOfPatch(a, 'body/s1')) {
      const places = placesOf(a, patchIndex(a), [f]);
      for (const sides of [6, 7, 13, 40]) expect(facesAt(patchIndex(made([vessel], low(sides))), places).faces.length).toBe(1);
    }
  });

  it('a picked label, loop and seam stay where they are through 200 random edits', () => {
    const next = random(88);
    const start = made([vessel, handle], low(32));
    const label = facesOfPatch(start, 'body/s1').slice(4, 12);
    const loop = facesFrom(start, facesOfPatch(start, 'body/s2')[0], 'round');
    const [labelAt, loopAt] = [placesOf(start, patchIndex(start), label), placesOf(start, patchIndex(start), loop)];
    const f = facesOfPatch(start, 'body/s1')[9];
    const seam = [0, 1, 2, 3].map((k) => lineOf(start, f, start.faceStart[f] + k)).find((l) => l?.constant === 'u');
    if (!seam) throw new Error('no upright edge');
    const was = { label: extent(start, label), loop: extent(start, loop) };
    let steps: Step[] = [vessel, handle];
    let sides = 32;
    let arcs = 3;
    for (let i = 0; i < 200; i++) {
      const edit = Math.floor(next() * 8);
      const body = steps.find((s) => s.id === 'body') as TurnedStep;
      const put = (b: TurnedStep) => {
        steps = steps.map((s) => (s.id === 'body' ? b : s));
      };
      if (edit === 0) sides = 8 + Math.floor(next() * 90);
      else if (edit === 1) arcs = 1 + Math.floor(next() * 12);
      else if (edit === 2)
        put({
          ...body,
          profile: {
            ...body.profile,
            points: body.profile.points.map((p) => (p.id === 'c' ? { ...p, r: 32 + 6 * next(), y: 40 + 20 * next() } : p)),
          },
        });
      else if (edit === 3)
        put({
          ...body,
          profile: { ...body.profile, points: body.profile.points.map((p) => (p.id === 'b' ? { ...p, fillet: 6 * next() } : p)) },
        });
      else if (edit === 4)
        put({
          ...body,
          profile: { ...body.profile, segments: body.profile.segments.map((s) => ({ ...s, name: `${s.name}x`.slice(-8) })) },
        });
      else if (edit === 5) put({ ...body, edgeRadius: next(), wall: 1 + 2 * next() });
      else if (edit === 6) steps = [...steps].reverse();
      else if (steps.length < 6) steps = [stepOf('box', { id: `box${i}` }), ...steps];
      else steps = steps.filter((s) => !s.id.startsWith('box'));
      for (const detail of i % 10 === 0 ? [low(sides, arcs), { mesh: 'high', toleranceMm: 0.05 } as const] : [low(sides, arcs)]) {
        const mesh = made(steps, detail);
        const n = detail.mesh === 'low' ? sides : 40;
        const [l, r] = [findRegion(mesh, picked(labelAt)), findRegion(mesh, picked(loopAt))];
        expect([...l.lost, ...r.lost]).toEqual([]);
        const [now, round] = [extent(mesh, l.faces), extent(mesh, r.faces)];
        // To within half a face on either side.
        expect(Math.abs(now.u - was.label.u)).toBeLessThan(1 / n + 1e-6);
        expect(Math.abs(now.area - was.label.area)).toBeLessThan(1.01 / n + 0.05);
        expect(Math.abs(round.u - 0.5)).toBeLessThan(1e-6);
        expect(Math.abs(round.area - was.loop.area)).toBeLessThan(0.7);
        const corners = edgesAt(mesh, patchIndex(mesh), seam);
        expect(corners?.length).toBeGreaterThan(0);
        const uv = attribute(mesh, 'patchUv', 'corner')?.data ?? [];
        for (const c of corners ?? []) expect(Math.abs(uv[2 * c] - seam.at)).toBeLessThan(0.5 / n + 1e-6);
      }
    }
  }, 60_000);

  it('on an import they are kept by number, joined into runs, and lost when the mesh is another', () => {
    const imported = smoothPatches(cube(10), 30);
    const index = patchIndex(imported);
    for (let f = 0; f < 6; f++) expect(facesAt(index, placesOf(imported, index, [f])).faces).toEqual([f]);
    const all = placesOf(imported, index, [0, 1, 2, 3, 4, 5]);
    expect(facesAt(index, all).faces.sort()).toEqual([0, 1, 2, 3, 4, 5]);
    const round = smoothPatches(made([stepOf('soft', { levelsLow: 1 })], low(8)), 180);
    const bare = { ...round, attributes: round.attributes.filter((a) => a.name === 'patch') };
    const run = placesOf(bare, patchIndex(bare), [4, 5, 6, 7]);
    expect(run).toHaveLength(1);
    expect(facesAt(patchIndex(bare), run).faces).toEqual([4, 5, 6, 7]);
    expect(facesAt(index, run).lost).toHaveLength(1);
  });
  it('what they were picked on being gone is said, not passed over', () => {
    const a = made([vessel], low(32));
    const places = placesOf(a, patchIndex(a), facesOfPatch(a, 'body/s1').slice(0, 3));
    const other = made([handle], low(12));
    expect(findRegion(other, picked(places)).lost).toEqual(['body/s1']);
    const { marks } = marked(other, [picked(places)], [{ id: 'q', patch: 'body/s1', constant: 'u', at: 0.5, from: 0, to: 1 }]);
    expect(marks.regions[0].lost.length + marks.lostSeams.length).toBe(2);
  });
});

describe('regions by rule', () => {
  const mesh = made([vessel, stepOf('box', { id: 'box' })], low(32));
  const faces = (...rules: Region['rules'][number]['rule'][]) =>
    findRegion(mesh, {
      id: 'r',
      name: 'r',
      weight: 1,
      rules: rules.map((rule, i) => ({ id: String(i), how: i === 0 ? 'add' : 'keep', rule })),
    });
  it('facing up finds the tops: the box’s lid and nothing leaning', () => {
    const up = faces({ kind: 'facing', x: 0, y: 1, z: 0, degrees: 1 }, { kind: 'step', step: 'box' });
    expect(up.area).toBeCloseTo(4764, 6);
    expect(up.faces.length).toBe(1);
  });
  it('a step’s own faces are all that carry its patches', () => {
    expect(faces({ kind: 'step', step: 'body' }).faces.length + faces({ kind: 'step', step: 'box' }).faces.length).toBe(faceCount(mesh));
    expect(faces({ kind: 'step', step: 'gone' }).lost).toEqual(['gone/']);
  });
  it('inside and one side', () => {
    const inside = faces({ kind: 'inside' });
    expect(inside.faces.length).toBe(patchFaces(mesh, / inside$/));
    const above = faces({ kind: 'side', axis: 'y', beyond: 45, way: 'above' });
    expect(above.faces.length).toBeGreaterThan(0);
    for (const f of above.faces) expect(middleY(mesh, f)).toBeGreaterThanOrEqual(45);
  });
  it('every second face of a ring is half of them, and chequered ones never touch along an edge', () => {
    const ring: Place = { patch: 'body/s1', u: [0, 1], v: [0, 1] };
    const half = faces({ kind: 'picked', places: [ring] }, { kind: 'alternate', pattern: 'columns' });
    expect(half.faces.length).toBe(16);
  });
  it('spread stops at an edge sharper than its angle', () => {
    const top = facesOfPatch(mesh, 'box/top')[0];
    expect(facesFrom(mesh, top, 'spread', 30)).toEqual([top]);
    const side = facesFrom(mesh, facesOfPatch(mesh, 'box/front')[0], 'spread', 60);
    expect(side).not.toContain(top);
    expect(side.length).toBeGreaterThan(4);
  });
  it('a face missed inside a picked field, and one taken far from it, are stray', () => {
    const grid = made([stepOf('soft', { id: 'pad', cellsX: 12, cellsZ: 12, cellsY: 2, levelsLow: 0 })], low(8));
    const top = facesOfPatch(grid, 'pad/top');
    const chosen = new Uint8Array(faceCount(grid));
    for (const f of top) chosen[f] = 1;
    chosen[top[40]] = 0;
    chosen[facesOfPatch(grid, 'pad/bottom')[70]] = 1;
    expect(strayFaces(grid, chosen)).toEqual({ taken: [facesOfPatch(grid, 'pad/bottom')[70]], missed: [top[40]] });
    expect(strayFaces(grid, new Uint8Array(faceCount(grid)))).toEqual({ taken: [], missed: [] });
  });
});

describe('seams and weighted regions cut the layout', () => {
  const index = (mesh: PolyMesh) => flatten(mesh, { seamAngle: 50 });
  it('an upright seam opposite the slit halves the wall’s island', () => {
    const mesh = made([stepOf('turned', { body: 'open' })], low(32));
    const plain = index(mesh).islands;
    const wall = (at: number) => ({ id: 'q', patch: 'turned1/s0', constant: 'u' as const, at, from: 0, to: 1 });
    expect(index(marked(mesh, [], [wall(0.5)]).mesh).islands).toBe(plain + 1);
    // Where the layout is slit already, nothing more is cut.
    expect(index(marked(mesh, [], [wall(0)]).mesh).islands).toBe(plain);
  });
  it('a region of its own weight is an island of its own', () => {
    const mesh = made([vessel], low(32));
    const plain = index(mesh);
    const label = picked(placesOf(mesh, patchIndex(mesh), facesOfPatch(mesh, 'body/s1').slice(6, 12)), { weight: 2 });
    const { mesh: out } = marked(mesh, [label], []);
    const laid = index(out);
    expect(laid.islands).toBeGreaterThan(plain.islands);
    const region = attribute(out, 'region', 'face')?.data ?? [];
    const islands = new Set([...laid.island].filter((_, f) => region[f] === 1));
    for (let f = 0; f < laid.island.length; f++) if (islands.has(laid.island[f])) expect(region[f]).toBe(1);
  });
});

describe('descriptions from outside', () => {
  it('a region and seams are checked, one sentence each', () => {
    expect(checkRegion(picked([{ patch: 'a/b', u: [0, 1], v: [0, 1] }])).rules[0].rule.kind).toBe('picked');
    expect(() => checkRegion(picked([{ patch: 'a/b', u: [0, 9], v: [0, 1] }]))).toThrow(/place of the region “label”/);
    expect(() => checkRegion({ ...picked([]), weight: 0 })).toThrow(/weight/);
    expect(() => checkRegion({ ...picked([]), rules: [{ id: '1', how: 'add', rule: { kind: 'nonsense' } }] })).toThrow(/no known kind/);
    expect(() => checkSeams([{ id: 'a', patch: 'x', constant: 'w', at: 0, from: 0, to: 1 }])).toThrow(/constant u or v/);
    expect(() => checkSeams('no')).toThrow(/not described/);
  });
});

const patchFaces = (mesh: PolyMesh, pattern: RegExp): number => {
  let n = 0;
  for (const [name, list] of patchIndex(mesh).faces) if (pattern.test(name)) n += list.length;
  return n;
};
const middleY = (mesh: PolyMesh, f: number): number => {
  let y = 0;
  const n = mesh.faceStart[f + 1] - mesh.faceStart[f];
  for (let c = mesh.faceStart[f]; c < mesh.faceStart[f + 1]; c++) y += mesh.positions[3 * mesh.faceVert[c] + 1] / n;
  return y;
};
