import bunny from 'bunny';
import { MeshoptSimplifier } from 'meshoptimizer/simplifier';
import { beforeAll, describe, expect, it } from 'vitest';
import { fromTriangles, torusMesh } from '../../test/shapes';
import { IDENTITY } from '../maths/mat4';
import type { PolyMesh } from '../mesh/polymesh';
import { simplify } from '../mesh/simplify';
import { bake } from '../pipeline/bake-finish';
import { BAKE_DEFAULTS } from '../pipeline/document';
import type { PartMesh } from '../pipeline/form';
import { unwrap } from '../pipeline/unwrap';

beforeAll(() => MeshoptSimplifier.ready);

const scaled = (mesh: PolyMesh, s: number): PolyMesh => ({ ...mesh, positions: mesh.positions.map((x) => s * x) });
/** A ring with dents all over, as a sculpted high mesh has. */
function dented(): PolyMesh {
  const ring = torusMesh(60, 20, 160, 80, false);
  const p = ring.positions;
  return { ...ring, positions: p.map((x, i) => x * (1 + 0.02 * Math.sin(p[i - (i % 3)] / 4) * Math.cos(p[i - (i % 3) + 2] / 5))) };
}
const part = (mesh: PolyMesh): PartMesh => ({ id: 'a', name: 'A', mesh, placements: [IDENTITY] });

/** Bakes a mesh onto a simplified one, as large as it is or larger. */
const known = new Map<string, ReturnType<typeof bakedAnew>>();
const baked = (...about: Parameters<typeof bakedAnew>) => {
  const key = JSON.stringify([about[0].positions.length, ...about.slice(1)]);
  const made = known.get(key) ?? bakedAnew(...about);
  known.set(key, made);
  return made;
};
async function bakedAnew(high: PolyMesh, triangles: number, size: number, settings: Partial<typeof BAKE_DEFAULTS> = {}) {
  const lean = simplify(MeshoptSimplifier, high, { triangles });
  const low = unwrap([part(scaled(lean, size))], {
    size: 256,
    padding: 4,
    seamAngle: 60,
    rotate: true,
    weights: {},
    regions: {},
  }).parts;
  const all = { ...BAKE_DEFAULTS, samples: 1 as const, size: 256, occlusion: false, curvature: false, ...settings };
  return (await bake(low, [part(scaled(high, size))], new Map(), all, () => performance.now() / 1000)).figures;
}

describe('a low mesh whose corners lie on the high one', () => {
  const scan = fromTriangles(
    bunny.positions.flat().map((x: number) => 20 * x),
    bunny.cells.flat(),
  );
  it.each([
    ['a dented ring', dented(), 900, 1],
    ['the same ten times as large', dented(), 900, 10],
    ['and a hundredth as large', dented(), 900, 0.01],
    ['an open scan', scan, 500, 1],
    ['the same ten times as large', scan, 500, 10],
  ])('%s: hardly a ray misses, and it is as good as with distances set by hand', async (_, high, triangles, size) => {
    const measured = await baked(high, triangles, size);
    const reach = 15 * size;
    const byHand = await baked(high, triangles, size, { distances: 'uniform', frontMm: reach, rearMm: reach });
    expect(measured.missedShare).toBeLessThan(0.002);
    expect(measured.judgement?.mean ?? 90).toBeLessThan(1.1 * (byHand.judgement?.mean ?? 0) + 0.05);
  });
  it('size changes nothing of it', async () => {
    const [one, ten] = [await baked(dented(), 900, 1), await baked(dented(), 900, 10)];
    expect(ten.missedShare).toBeCloseTo(one.missedShare, 3);
    expect(ten.judgement?.mean).toBeCloseTo(one.judgement?.mean as number, 1);
  });
});
