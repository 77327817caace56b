import { type Mesh, type MeshPhongMaterial, Vector3 } from 'three';
import { MTLLoader } from 'three/examples/jsm/loaders/MTLLoader.js';
import { OBJLoader } from 'three/examples/jsm/loaders/OBJLoader.js';
import { describe, expect, it } from 'vitest';
import { cube, sheet } from '../../test/shapes';
import { IDENTITY, type Mat4, placement } from '../maths/mat4';
import { boundsOf, volumeOf } from '../mesh/measures';
import { attribute, triangleCount } from '../mesh/polymesh';
import { transform } from '../mesh/transform';
import { fromLibrary } from '../surface/library';
import { writeObj } from './obj-write';
import { readModel } from './read';

const brass = fromLibrary('polished-brass', 'b');
const glass = fromLibrary('clear-glass', 'g');

describe('an OBJ as three’s loaders, which are not ours, read it', () => {
  const part = { name: 'Lamp shelf', mesh: sheet(2, 40, (x) => 0.1 * x), placements: [placement([10, 0, 0], [0, 90, 0])], material: 'b' };
  const { obj, mtl } = writeObj('Shelf', [part, { name: 'Pane', mesh: cube(5), placements: [IDENTITY], material: 'g' }], {
    unit: 'mm',
    library: 'shelf.mtl',
    materials: [brass, glass],
    textures: { baseColour: 'textures/shelf_basecolor.png', normal: 'textures/shelf_normal.png' },
  });
  const group = new OBJLoader().parse(obj);

  it('places, names and counts are the same, copies written where they stand', () => {
    expect(group.children.map((c) => c.name)).toEqual(['Lamp_shelf', 'Pane']);
    const geometry = (group.children[0] as Mesh).geometry;
    // Four quads are eight triangles of three corners.
    expect(geometry.getAttribute('position').count).toBe(24);
    geometry.computeBoundingBox();
    const box = geometry.boundingBox;
    // A quarter turn about the upright axis: what ran along x runs along z, round x = 10.
    expect(box?.min.x).toBeCloseTo(-10, 4);
    expect(box?.max.x).toBeCloseTo(30, 4);
    expect((box?.max.y ?? 0) - (box?.min.y ?? 0)).toBeCloseTo(4, 4);
  });
  it('normals turn with the part and stay unit; uv are written v up, as they are', () => {
    const geometry = (group.children[0] as Mesh).geometry;
    const n = geometry.getAttribute('normal');
    for (let i = 0; i < n.count; i++) {
      expect(Math.hypot(n.getX(i), n.getY(i), n.getZ(i))).toBeCloseTo(1, 4);
      expect(n.getX(i)).toBeCloseTo(0, 4);
      expect(n.getY(i)).toBeCloseTo(1 / Math.hypot(1, 0.1), 3);
    }
    const uv = geometry.getAttribute('uv');
    const ours = attribute(part.mesh, 'uv')?.data ?? [];
    const set = new Set(Array.from({ length: ours.length / 2 }, (_, i) => `${ours[2 * i]},${ours[2 * i + 1]}`));
    for (let i = 0; i < uv.count; i++) expect(set.has(`${uv.getX(i)},${uv.getY(i)}`)).toBe(true);
  });
  it('the MTL’s colours, transparency and texture names come through', () => {
    const creator = new MTLLoader().parse(mtl, '');
    const info = (creator as unknown as { materialsInfo: Record<string, Record<string, unknown>> }).materialsInfo;
    expect(Object.keys(info)).toEqual(['Polished_brass', 'Clear_glass']);
    for (const [k, c] of (info.Polished_brass.kd as number[]).entries()) expect(c).toBeCloseTo(brass.colour[k], 5);
    expect(info.Polished_brass.map_kd).toBe('textures/shelf_basecolor.png');
    expect(info.Polished_brass.norm).toBe('textures/shelf_normal.png');
    expect(Number(info.Clear_glass.d)).toBe(0);
    expect(info.Clear_glass.ni).toBe('1.52');
    const made = (group.children[1] as Mesh).material as MeshPhongMaterial;
    expect(made.name).toBe('Clear_glass');
  });
  it('every number is short and finite, and a value that comes again is written once', () => {
    const numbers = [...obj.matchAll(/^(?:v|vn|vt) (.+)$/gm)].flatMap((m) => m[1].split(' '));
    for (const x of numbers) expect(x).toMatch(/^-?\d+(\.\d{1,6})?$/);
    const normals = [...obj.matchAll(/^vn .+$/gm)].map((m) => m[0]);
    // One for the flat sheet, six for the cube.
    expect(normals).toHaveLength(1 + 8);
  });
});

describe('copies, names and triangles', () => {
  const mirror = [-1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1] as Mat4;
  const options = { unit: 'mm' as const, library: 'x.mtl', materials: [brass] };
  /** Volume by the divergence theorem over what three's loader read, and how far its faces look away from their normals. */
  function read(obj: string): { volume: number; agree: boolean } {
    let [volume, agree] = [0, true];
    for (const child of new OBJLoader().parse(obj).children as Mesh[]) {
      const [p, n] = [child.geometry.getAttribute('position'), child.geometry.getAttribute('normal')];
      for (let i = 0; i < p.count; i += 3) {
        const [a, b, c] = [0, 1, 2].map((k) => new Vector3().fromBufferAttribute(p, i + k));
        volume += a.dot(b.clone().cross(c)) / 6;
        const face = b.clone().sub(a).cross(c.clone().sub(a));
        agree &&= face.dot(new Vector3().fromBufferAttribute(n, i)) > 0;
      }
    }
    return { volume, agree };
  }
  it('a mirrored copy is right side out: positive volume, faces that look where their normals do', () => {
    for (const triangles of [false, true]) {
      const part = { name: 'Block', mesh: cube(5), placements: [IDENTITY, mirror, placement([20, 0, 0], [0, 30, 0])], material: null };
      const { volume, agree } = read(writeObj('x', [part], { ...options, triangles }).obj);
      expect(volume).toBeCloseTo(3 * volumeOf(part.mesh), 3);
      expect(agree).toBe(true);
    }
  });
  it('two materials of one name stay two', () => {
    const other = { ...brass, id: 'c', colour: [0.1, 0.2, 0.3] as [number, number, number] };
    const parts = ['b', 'c'].map((material) => ({ name: material, mesh: cube(5), placements: [IDENTITY], material }));
    const { obj, mtl } = writeObj('x', parts, { ...options, materials: [brass, other] });
    const used = [...obj.matchAll(/^usemtl (.+)$/gm)].map((m) => m[1]);
    expect(new Set(used).size).toBe(2);
    const info = new MTLLoader().parse(mtl, '').materialsInfo as unknown as Record<string, { kd: number[] }>;
    expect(used.map((name) => info[name].kd.map(Number)[0])).toEqual([brass.colour[0], 0.1].map((x) => Number(x.toFixed(6))));
  });
  it('triangles leave as the mesh’s own, in its order', () => {
    const mesh = cube(5);
    const { obj } = writeObj('x', [{ name: 'Block', mesh, placements: [IDENTITY], material: null }], { ...options, triangles: true });
    const faces = [...obj.matchAll(/^f (.+)$/gm)].map((m) => m[1].split(' ').map((w) => Number(w.split('/')[0]) - 1));
    expect(faces).toHaveLength(triangleCount(mesh));
    expect(faces.flat()).toEqual([...mesh.triangles].map((c) => mesh.faceVert[c]));
  });
});

describe('OBJ as it is written', () => {
  it('keeps unit, mirrors and copies, and comes back the same size', async () => {
    const mirror = [-1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0, 40, 0, 0, 1];
    const { obj, mtl } = writeObj(
      'Two',
      [{ name: 'Left box', mesh: cube(20), placements: [placement([5, 0, 0], [0, 30, 0]), mirror], material: 'b' }],
      { unit: 'cm', library: 'two.mtl', materials: [fromLibrary('oiled-wood', 'b')] },
    );
    const model = await readModel('two.obj', new TextEncoder().encode(obj), {
      unit: 'cm',
      companions: { 'two.mtl': new TextEncoder().encode(mtl) },
    });
    expect(model.parts.map((p) => p.name)).toEqual(['Left_box_1', 'Left_box_2']);
    const size = boundsOf(transform(model.parts[1].mesh, IDENTITY));
    expect(size.max[0] - size.min[0]).toBeCloseTo(20, 4);
    expect(Math.abs(volumeOf(model.parts[0].mesh))).toBeCloseTo(8000, 1);
    expect(mtl).toContain('Pc 0.35');
    expect(model.materials[0].roughness).toBeCloseTo(0.55, 6);
  });
});
