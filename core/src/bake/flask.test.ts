import { beforeAll, describe, expect, it } from 'vitest';
import { flaskGlb } from '../../test/flask';
import { readModel } from '../io/read';
import type { PolyMesh } from '../mesh/polymesh';
import { type BakeSettings, prepareBake } from '../pipeline/bake';
import { bakeTexels } from '../pipeline/bake-finish';
import { BAKE_DEFAULTS, isMoved, type Part } from '../pipeline/document';
import type { PartMesh } from '../pipeline/form';
import { partsFromModel } from '../pipeline/import';
import { unwrap } from '../pipeline/unwrap';

describe('a flask with its stopper in, as a file brings it', () => {
  let parts: Part[];
  let low: PartMesh[];
  let high: PartMesh[];
  const settings: BakeSettings = { ...BAKE_DEFAULTS, size: 128, samples: 1, occlusionRays: 64, curvature: false };
  const read = async (which: 'low' | 'high') => {
    const model = await readModel(`${which}.glb`, await flaskGlb(which, 0));
    const meshes: PolyMesh[] = [];
    const keep = (m: PolyMesh) => `${meshes.push(m)}`;
    const made = partsFromModel(model, keep, (kind, n) => `${kind}${n}`, { fileName: `${which}.glb` });
    return {
      made,
      meshes: made.parts.map((p, i): PartMesh => ({ id: p.id, name: p.name, mesh: meshes[i], placements: model.parts[i].placements })),
    };
  };
  beforeAll(async () => {
    const [a, b] = [await read('low'), await read('high')];
    parts = a.made.parts;
    low = unwrap(a.meshes, { size: 128, padding: 4, seamAngle: 50, rotate: true, weights: {}, regions: {} }).parts;
    high = b.meshes;
  });
  const about = (loose: boolean) => new Map(parts.map((p) => [p.id, { role: p.role, moves: loose && isMoved(p) }]));
  const occlusion = (of: readonly PartMesh[], dense: readonly PartMesh[], loose: boolean) =>
    bakeTexels(prepareBake(of, dense, about(loose), settings).prepared).occlusion;

  it('knows by its name what is taken off', () => {
    expect(parts.map((p) => [p.name, p.loose ?? false])).toEqual([
      ['Flask', false],
      ['Stopper', true],
    ]);
  });
  it('no shadow of the stopper lies on the flask: it is as if the stopper were not there', () => {
    const [flask, stopper] = low;
    const alone = occlusion([flask], [high[0]], true);
    const loose = occlusion([flask], high, true);
    const fixed = occlusion([flask], high, false);
    expect(loose).toEqual(alone);
    // Standing fast it darkens the bore and the lip.
    expect(fixed.filter((x, i) => x < alone[i] - 0.2).length).toBeGreaterThan(20);
    expect(stopper.name).toBe('Stopper');
  });
});
