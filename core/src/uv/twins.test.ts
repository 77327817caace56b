import { describe, expect, it } from 'vitest';
import { asset, part as assetPart } from '../../test/assets';
import { cube, sheet } from '../../test/shapes';
import { IDENTITY } from '../maths/mat4';
import { random } from '../maths/random';
import { areaOf } from '../mesh/measures';
import { type Attribute, attribute, makeMesh, type PolyMesh, withAttribute } from '../mesh/polymesh';
import { aboutParts, bakeSettings } from '../pipeline/bake';
import { bake } from '../pipeline/bake-finish';
import type { PartMesh } from '../pipeline/form';
import { type UnwrapSettings, unwrap } from '../pipeline/unwrap';
import { islandPlaces } from './hand/places';
import { measureLayout } from './measure';
import { findTwins, isTwin, twinFaces, withoutFaces } from './twins';

/** Something without any symmetry: a sheet bent unevenly. */
const odd = (): PolyMesh => sheet(5, 20, (x, y) => 0.04 * (x - 3) ** 2 + 0.02 * x * y + (x > 4 ? 1 : 0));

type Move = (p: readonly [number, number, number]) => [number, number, number];
const turned = (a: number, by: number): Move => {
  const [c, s] = [Math.cos(a), Math.sin(a)];
  return ([x, y, z]) => [c * x - s * y + by, s * x + c * y - by / 2, z + by / 3];
};
const mirrored =
  (move: Move): Move =>
  ([x, y, z]) =>
    move([-x, y, z]);

/** A mesh moved, its vertices and faces in another order, each face begun at another corner; turned inside out where it was mirrored. */
function shuffled(mesh: PolyMesh, move: Move, inside: boolean, seed: number): PolyMesh {
  const next = random(seed);
  const order = (n: number): number[] => {
    const list = Array.from({ length: n }, (_, i) => i);
    for (let i = n - 1; i > 0; i--) {
      const j = Math.floor(next() * (i + 1));
      [list[i], list[j]] = [list[j], list[i]];
    }
    return list;
  };
  const vertices = order(mesh.positions.length / 3);
  const at = new Array<number>(vertices.length);
  vertices.forEach((v, i) => {
    at[v] = i;
  });
  const faces = order(mesh.faceStart.length - 1).map((f) => {
    const corners = [...mesh.faceVert.subarray(mesh.faceStart[f], mesh.faceStart[f + 1])].map((v) => at[v]);
    const from = Math.floor(next() * corners.length);
    const round = [...corners.slice(from), ...corners.slice(0, from)];
    return inside ? round.reverse() : round;
  });
  return fromFaces(
    vertices.flatMap((v) => move([mesh.positions[3 * v], mesh.positions[3 * v + 1], mesh.positions[3 * v + 2]])),
    faces,
  );
}
function fromFaces(positions: number[], faces: number[][], attributes: Attribute[] = []): PolyMesh {
  const faceStart = [0];
  for (const f of faces) faceStart.push(faceStart[faceStart.length - 1] + f.length);
  return makeMesh({ positions, faceStart, faceVert: faces.flat(), attributes });
}
/** Several in one mesh. */
function merged(list: readonly PolyMesh[]): PolyMesh {
  const positions: number[] = [];
  const faces: number[][] = [];
  for (const m of list) {
    const base = positions.length / 3;
    positions.push(...m.positions);
    for (let f = 0; f + 1 < m.faceStart.length; f++)
      faces.push([...m.faceVert.subarray(m.faceStart[f], m.faceStart[f + 1])].map((v) => v + base));
  }
  return fromFaces(positions, faces);
}
const part = (id: string, mesh: PolyMesh): PartMesh => ({ id, name: id, mesh, placements: [IDENTITY] });
const settings: UnwrapSettings = { size: 512, padding: 8, seamAngle: 50, rotate: true, weights: {}, regions: {} };
const once = (...ids: string[]): UnwrapSettings => ({ ...settings, alike: Object.fromEntries(ids.map((id) => [id, 'm'])) });
const uvOf = (mesh: PolyMesh) => attribute(mesh, 'uv', 'corner')?.data as Float64Array;

describe('shells of one shape', () => {
  it('are found whatever their order, turned and mirrored; each corner goes to where the move takes it', () => {
    const first = odd();
    const moves: [Move, boolean][] = [
      [turned(0.7, 100), false],
      [mirrored(turned(2, 200)), true],
      [turned(-1.1, 300), false],
    ];
    const mesh = merged([first, ...moves.map(([m, inside], i) => shuffled(first, m, inside, i + 1))]);
    const found = findTwins([{ mesh, group: 'm' }]);
    expect(found).toMatchObject({ shells: 3, mirrored: 1 });
    // Bent quads are cut along one diagonal or the other.
    expect(found.areaMm2 / (3 * areaOf(first))).toBeCloseTo(1, 2);
    const per = first.faceVert.length;
    const { corner } = found.of[0];
    expect(corner.subarray(0, per).every((c) => c < 0)).toBe(true);
    for (let c = per; c < mesh.faceVert.length; c++) {
      const [move] = moves[Math.floor(c / per) - 1];
      const [from, to] = [mesh.faceVert[corner[c]], mesh.faceVert[c]];
      const wanted = move([mesh.positions[3 * from], mesh.positions[3 * from + 1], mesh.positions[3 * from + 2]]);
      for (let k = 0; k < 3; k++) expect(mesh.positions[3 * to + k]).toBeCloseTo(wanted[k], 6);
    }
  });

  it('are not: another shape of the same edges (a cube and one sheared), another size, other marks, another material', () => {
    const first = odd();
    const mesh = (second: PolyMesh) => merged([first, second]);
    const count = (m: PolyMesh, group: string | null = 'm') => findTwins([{ mesh: m, group }]).shells;
    const move = turned(0.3, 90);
    expect(count(mesh(shuffled(first, move, false, 4)))).toBe(1);
    expect(count(mesh(shuffled(first, (p) => move([1.001 * p[0], 1.001 * p[1], 1.001 * p[2]]), false, 4)))).toBe(0);
    // Turned inside out but not mirrored: what was outside is inside.
    expect(count(mesh(shuffled(first, move, true, 4)))).toBe(0);
    expect(count(mesh(shuffled(first, move, false, 4)), null)).toBe(0);
    // All edges 10 mm, the faces rhombs: edges alone don't tell it from a cube.
    const sheared = shuffled(cube(10), ([x, y, z]) => [x + 0.6 * y + 50, 0.8 * y, z], false, 2);
    expect(findTwins([{ mesh: merged([cube(10), sheared]), group: 'm' }]).shells).toBe(0);
    const marked = (m: PolyMesh, c: number) =>
      withAttribute(m, { name: 'seam', domain: 'corner', size: 1, data: Uint8Array.from(m.faceVert, (_, i) => Number(i === c)) });
    const both = mesh(shuffled(first, move, false, 4));
    expect(count(marked(both, first.faceVert.length + 2))).toBe(0);
    const parts = [first, shuffled(first, move, false, 4)];
    expect(findTwins(parts.map((m) => ({ mesh: m, group: 'm' }))).shells).toBe(1);
    expect(findTwins(parts.map((m, i) => ({ mesh: m, group: `m${i}` }))).shells).toBe(0);
  });
});

describe('a layout with twins', () => {
  const first = odd();
  const copy = shuffled(first, mirrored(turned(1, 150)), true, 9);

  it('in one part: each shape once, the others with its texels, nothing claimed twice', () => {
    const mesh = merged([first, copy, shuffled(first, turned(2, 400), false, 3), cube(8)]);
    const [each, made] = [unwrap([part('p', mesh)], settings), unwrap([part('p', mesh)], once('p'))];
    const shapes = unwrap([part('p', merged([first, cube(8)]))], settings);
    expect(made.figures).toMatchObject({ islands: shapes.figures.islands, overlapTexels: 0, folds: 0, twins: { shells: 2, mirrored: 1 } });
    expect(made.figures.density).toBeCloseTo(shapes.figures.density, 1);
    expect(made.figures.density).toBeGreaterThan(1.3 * each.figures.density);
    expect(made.figures.twins?.savedShare).toBeCloseTo((2 * areaOf(first)) / areaOf(mesh), 2);
    const twins = twinFaces(made.parts[0].mesh) as ArrayLike<number>;
    const per = first.faceStart.length - 1;
    expect(Array.from(twins, (t, f) => t === (f >= per && f < 3 * per ? 1 : 0)).every(Boolean)).toBe(true);
    // Two shells of three lie on the first: by an independent count of texels.
    expect(measureLayout(made.parts, 512).overlapTexels).toBeGreaterThan(0.2 * 512 * 512 * made.figures.coverage);
  });

  it('a part that is another one’s mirror has its texels, the other way round', () => {
    const made = unwrap([part('a', first), part('b', copy), part('c', cube(8))], once('a', 'b', 'c'));
    const [a, b, c] = made.parts.map((p) => p.mesh);
    expect([a, b, c].map(isTwin)).toEqual([false, true, false]);
    expect(made.figures.parts.map((p) => p.id)).toEqual(['a', 'c']);
    const sorted = (m: PolyMesh) => [...uvOf(m)].sort((x, y) => x - y);
    expect(sorted(b)).toEqual(sorted(a));
    const signed = (m: PolyMesh) => Math.sign(areaInUv(m));
    expect(signed(a)).toBe(1);
    expect(signed(b)).toBe(-1);
  });

  it('seams are cut for the same reasons, and as long, on a mirrored one', () => {
    const opened = (m: PolyMesh) => withAttribute(m, { name: 'seam', domain: 'corner', size: 1, data: new Uint8Array(m.faceVert.length) });
    const strip = sheet(12, 60, (x) => 0.03 * x * x + 0.2 * x);
    const other = shuffled(strip, mirrored(turned(1, 150)), true, 9);
    const one = unwrap([part('a', opened(strip))], settings).figures.seams;
    const two = unwrap([part('a', opened(strip)), part('b', opened(other))], once('a', 'b')).figures.seams;
    const both = unwrap([part('p', opened(merged([strip, other])))], once('p')).figures.seams;
    for (const s of [two, both])
      for (const [k, mm] of Object.entries(one?.reasons ?? {})) expect(s?.reasons).toHaveProperty(k, expect.closeTo(2 * mm, 4));
  });

  it('is moved by hand as any other: places are on the first, not on what has its texels', () => {
    const mesh = merged([copy, first, cube(8)]);
    const made = unwrap([part('p', mesh)], once('p'));
    const places = islandPlaces(made.parts).map((p) => p.place);
    expect(places).toHaveLength(made.figures.islands);
    const again = unwrap([part('p', mesh)], { ...once('p'), places });
    expect(again.figures).toMatchObject({ placed: places.length, lostPlaces: 0 });
    const [a, b] = [uvOf(made.parts[0].mesh), uvOf(again.parts[0].mesh)];
    for (let i = 0; i < a.length; i++) expect(b[i]).toBeCloseTo(a[i], 5);
  });

  it('prints and grain have their own: a repeat would show there', () => {
    const two = [part('a', first), part('b', copy)];
    expect(unwrap(two, { ...once('a', 'b'), wholeParts: ['b'] }).figures.twins).toBeUndefined();
    expect(unwrap(two, { ...once('a', 'b'), grain: { b: 'x' } }).figures.twins).toBeUndefined();
  });

  it('what one of them shows all of them show: a first one that is shut in is no less dense for it', () => {
    // A block in a closed box, and its twin in the open.
    const boxed = [part('box', cube(30)), part('in', cube(8, [0, 11, 0])), part('out', cube(8, [60, 0, 0]))];
    const all = unwrap(boxed, { ...once('in', 'out'), unseen: 0.5 });
    const alone = unwrap(boxed.slice(0, 2), { ...once('in'), unseen: 0.5 });
    const of = (made: typeof all) => made.figures.parts.find((p) => p.id === 'in')?.density ?? 0;
    const box = (made: typeof all) => made.figures.parts.find((p) => p.id === 'box')?.density ?? 0;
    expect(of(alone) / box(alone)).toBeCloseTo(0.5, 2);
    expect(all.figures.twins?.shells).toBe(1);
    expect(of(all) / box(all)).toBeCloseTo(1, 2);
  });

  it('bakes once for both, and both look right: the mirrored one too (judged on the exported file)', async () => {
    const bump = (n: number) =>
      sheet(n, 20, (x, y) => 0.04 * (x - 3) ** 2 + 0.02 * x * y + (n > 5 ? 0.6 * Math.exp(-((x - 4) ** 2 + (y + 3) ** 2) / 6) : 0));
    const both = (m: PolyMesh) => merged([m, shuffled(m, mirrored(turned(1, 60)), true, 9)]);
    const document = asset([assetPart('p', [])]);
    const bakes = async (how: UnwrapSettings) => {
      const laid = unwrap([part('p', both(bump(5)))], { ...how, size: 256, padding: 4 });
      const chosen = { ...bakeSettings(document), size: 256, samples: 1 as const, occlusion: false, curvature: false };
      const { figures } = await bake(laid.parts, [part('p', both(bump(40)))], aboutParts(document), chosen, () => 0);
      return { figures, density: laid.figures.density };
    };
    const [each, shared] = [await bakes(settings), await bakes(once('p'))];
    expect(shared.density).toBeGreaterThan(1.3 * each.density);
    const [a, b] = [each, shared].map(({ figures }) => figures.judgement?.mean ?? Infinity);
    expect(a).toBeLessThan(1);
    expect(b).toBeLessThan(1.1 * a);
    expect(shared.figures.missedShare).toBeLessThan(0.01);
  });

  it('faces are taken away with what is said of them and of their corners', () => {
    const mesh = withAttribute(cube(4), { name: 'n', domain: 'face', size: 1, data: Int32Array.from([0, 1, 2, 3, 4, 5]) });
    const { mesh: left, corner, face } = withoutFaces(mesh, [0, 1, 0, 1, 1, 0]);
    expect([...face]).toEqual([0, 2, 5]);
    expect([...(attribute(left, 'n', 'face')?.data ?? [])]).toEqual([0, 2, 5]);
    expect([...left.faceVert]).toEqual([...corner].map((c) => mesh.faceVert[c]));
  });
});

function areaInUv(mesh: PolyMesh): number {
  const uv = uvOf(mesh);
  let sum = 0;
  for (let t = 0; t < mesh.triangles.length; t += 3) {
    const [a, b, c] = [0, 1, 2].map((k) => 2 * mesh.triangles[t + k]);
    sum += (uv[b] - uv[a]) * (uv[c + 1] - uv[a + 1]) - (uv[b + 1] - uv[a + 1]) * (uv[c] - uv[a]);
  }
  return sum;
}
