import type { Mesh, MeshPhongMaterial } from 'three';
import { MTLLoader } from 'three/examples/jsm/loaders/MTLLoader.js';
import { OBJLoader } from 'three/examples/jsm/loaders/OBJLoader.js';
import { describe, expect, it } from 'vitest';
import { cube, sheet } from '../../test/shapes';
import { IDENTITY, placement } from '../maths/mat4';
import { attribute } from '../mesh/polymesh';
import { fromLibrary } from '../surface/library';
import { writeObj } from './obj-write';

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
