import { describe, expect, it } from 'vitest';
import { testKit } from '../../test/kit';
import { StepFile } from '../../test/step-files';
import { NOWHERE } from '../form/recipe';
import { findRegion } from '../form/regions';
import type { Changed } from '../form/step';
import { simplify } from '../form/steps/simplify';
import { edgesOf, edgeValence } from '../mesh/connectivity';
import { volumeOf } from '../mesh/measures';
import { attribute, faceCount, type PolyMesh, triangleCount } from '../mesh/polymesh';
import { documentFromModel } from '../pipeline/import';
import { readModel } from './read';

const read = async (file: StepFile | string, toleranceMm?: number) =>
  readModel('part.step', file instanceof StepFile ? file.bytes() : new TextEncoder().encode(file), { toleranceMm });
const isClosed = (mesh: PolyMesh): boolean => {
  const edges = edgesOf(mesh);
  return Array.from({ length: edges.count }, (_, e) => edgeValence(edges, e)).every((n) => n === 2);
};

describe('STEP files', () => {
  // Volumes and areas by the closed forms of elementary geometry.
  const [R, r, h] = [10, 3, 12];
  const slant = Math.hypot(8 - r, h);
  const solids: [string, (f: StepFile) => StepFile, number, number][] = [
    ['box', (f) => f.box('box', [0, 0, 0], [10, 20, 30]), 6000, 2200],
    ['cylinder', (f) => f.cone('cylinder', 5, 5, 20), Math.PI * 500, 2 * Math.PI * 5 * 25],
    ['cone', (f) => f.cone('cone', 8, r, h), (Math.PI * h * (64 + 8 * r + r * r)) / 3, Math.PI * ((8 + r) * slant + 64 + r * r)],
    [
      'cone that widens',
      (f) => f.cone('wide', r, 8, h),
      (Math.PI * h * (64 + 8 * r + r * r)) / 3,
      Math.PI * ((8 + r) * slant + 64 + r * r),
    ],
    ['sphere', (f) => f.sphere('sphere', 7), (4 / 3) * Math.PI * 343, 4 * Math.PI * 49],
    ['torus', (f) => f.torus('torus', R, r), 2 * Math.PI ** 2 * R * r * r, 4 * Math.PI ** 2 * R * r],
    [
      'bored block',
      (f) => f.boredBlock('bored', [0, 0, 0], [20, 30, 10], [8, 12], 4),
      6000 - Math.PI * 160,
      2 * 600 + 1000 - 2 * Math.PI * 16 + 2 * Math.PI * 40,
    ],
  ];
  it.each(solids)(
    'a %s is closed and its volume is off by no more than tolerance × area, at three tolerances',
    async (_, make, volume, area) => {
      let before = 0;
      for (const tolerance of [0.5, 0.1, 0.02]) {
        const { parts } = await read(make(new StepFile()), tolerance);
        expect(parts).toHaveLength(1);
        const [{ mesh }] = parts;
        expect(isClosed(mesh)).toBe(true);
        expect(Math.abs(volumeOf(mesh) - volume)).toBeLessThanOrEqual(tolerance * area);
        expect(triangleCount(mesh)).toBeGreaterThanOrEqual(before);
        before = triangleCount(mesh);
      }
    },
  );

  it('keeps names, units, colours of bodies and faces, and every face under its own name', async () => {
    const file = new StepFile('in').box('Lid', [0, 0, 0], [1, 2, 3], [0.8, 0.1, 0.1], [0, 0, 1]).cone('Pin', 1, 1, 2).cone('Pin', 1, 1, 2);
    const { parts, materials, notes } = await read(file);
    expect(parts.map((p) => p.name)).toEqual(['Lid', 'Pin', 'Pin 2']);
    expect(volumeOf(parts[0].mesh)).toBeCloseTo(6 * 25.4 ** 3, 3);
    expect(notes).toEqual([]);
    expect(materials.map((m) => m.name)).toEqual(['Colour #cc1919', 'Colour #0000ff']);
    materials[0].colour.forEach((x, k) => {
      expect(x).toBeCloseTo([0.8, 0.1, 0.1][k], 6);
    });
    expect(parts.map((p) => p.material)).toEqual([0, -1, -1]);
    expect(parts[0].coloured).toEqual([{ patches: '#0000ff', material: 1 }]);
    expect(parts[0].mesh.patches).toContain('face 1');
    expect(parts[1].mesh.patches).toEqual(['face 1', 'face 2', 'face 3']);
    // The top of the lid alone is blue.
    const region = {
      id: 'r',
      name: 'Blue',
      weight: 1,
      rules: [{ id: 'a', how: 'add' as const, rule: { kind: 'named' as const, name: '#0000ff' } }],
    };
    const found = findRegion(parts[0].mesh, region);
    expect(found.area).toBeCloseTo(2 * 25.4 ** 2, 6);
    const normals = attribute(parts[0].mesh, 'normal', 'corner')?.data as Float64Array;
    for (const f of found.faces)
      for (let c = parts[0].mesh.faceStart[f]; c < parts[0].mesh.faceStart[f + 1]; c++) expect(normals[3 * c + 2]).toBeCloseTo(1, 9);
  });

  it('becomes a high mesh, and a low one simplified from it as far off again at most', async () => {
    const model = await read(new StepFile().cone('Ring', 30, 10, 40).box('Foot', [0, 0, 0], [5, 5, 5], [1, 0, 0], [0, 1, 0]), 0.05);
    const source = { fileName: 'ring.step', licence: '', note: '' };
    const kept: PolyMesh[] = [];
    const document = documentFromModel('Ring', model, source, (m) => String(kept.push(m)), { blob: 'file', toleranceMm: 0.05, up: 'z' });
    const [ring, foot] = document.parts;
    expect(ring.high).toMatchObject({ blob: '1', pairedBy: 'name' });
    expect(ring.origin).toEqual({ kind: 'file', fileName: 'ring.step', name: 'Ring', exact: { blob: 'file', toleranceMm: 0.05, up: 'z' } });
    expect(foot.regions?.map((r) => [r.name, r.material])).toEqual([['Colour #00ff00', document.materials[1].id]]);
    const [step] = ring.shape.steps ?? [];
    if (step?.kind !== 'simplify') throw new Error('It is simplified.');
    const around = { ...NOWHERE, kit: await testKit() };
    const made: Changed = simplify.changer.change(step, kept[0], { mesh: 'low', count: () => 8 }, around);
    expect(triangleCount(made.mesh)).toBeLessThan(0.4 * triangleCount(kept[0]));
    expect(made.figures?.find((f) => f.label === 'farthest off')?.value).toBeLessThanOrEqual(0.05);
    expect(isClosed(made.mesh)).toBe(true);
  });

  it('reads a file of 200 faces whole', async () => {
    const file = new StepFile();
    for (let i = 0; i < 29; i++) file.boredBlock(`Block ${i}`, [0, 0, 0], [20, 30, 10], [8, 12], 2 + i / 10);
    const { parts } = await read(file, 0.05);
    expect(parts.reduce((n, p) => n + p.mesh.patches.length, 0)).toBe(203);
    expect(parts.every((p) => isClosed(p.mesh) && faceCount(p.mesh) > 0)).toBe(true);
  });

  const whole = new TextDecoder().decode(new StepFile().sphere('Ball', 7).cone('Pin', 5, 5, 20).bytes());
  it.each([
    ['what begins otherwise', whole.replace('ISO-10303-21;', 'ISO-10303-28;'), 'It does not begin as a STEP file does (ISO-10303-21).'],
    ['one cut short', whole.slice(0, whole.length / 2), 'The STEP file ends before its data does.'],
    [
      'one without any shape',
      whole.replace(/DATA;[\s\S]*ENDSEC;\nEND/, 'DATA;\nENDSEC;\nEND'),
      'The STEP file is broken: some of its data can’t be understood.',
    ],
    ['a half with an end put to it', `${whole.slice(0, whole.length / 2)}\nENDSEC;\nEND-ISO-10303-21;\n`, 'The STEP file is broken'],
    ['a radius below nothing', whole.replace('7.)', '-7.)'), 'The STEP file is broken'],
    ['an entity that is missing', whole.replace(/#40=.*\n/, ''), 'The STEP file is broken'],
  ])('%s is refused in one sentence', async (_, text, sentence) => {
    await expect(read(text)).rejects.toThrow(sentence);
  });
  it('a tolerance that is none is refused', async () => {
    await expect(read(whole, 0)).rejects.toThrow('Surfaces can be cut to 0.001 to 1');
  });
});
