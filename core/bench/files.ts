import { MeshoptSimplifier } from 'meshoptimizer/simplifier';
import { attempt } from '../fuzz/attempt';
import { caseOf } from '../fuzz/cases';
import { originals } from '../fuzz/originals';
import { IDENTITY } from '../src/maths/mat4';
import type { PolyMesh } from '../src/mesh/polymesh';
import { simplifyParts } from '../src/pipeline/simplify';
import { testKit } from '../test/kit';
import { torusMesh } from '../test/shapes';

/** A wavy ring of about so many triangles. */
function wavy(triangles: number): PolyMesh {
  const m = Math.round(Math.sqrt(triangles / 4));
  const ring = torusMesh(60, 20, 2 * m, m, false);
  const p = ring.positions;
  return { ...ring, positions: p.map((x, i) => x * (1 + 0.01 * Math.sin(p[i - (i % 3)]) * Math.cos(p[i - (i % 3) + 2]))) };
}

/** Seconds for files as they come: a million triangles brought down, and a stretch of damaged ones. */
export async function benchFiles(): Promise<{ simplify: number; damaged: number; cases: number }> {
  await MeshoptSimplifier.ready;
  const dense = [{ id: 'a', name: 'A', mesh: wavy(1_000_000), placements: [IDENTITY] }];
  let start = performance.now();
  simplifyParts({ simplifier: MeshoptSimplifier }, dense, 20_000);
  const simplify = (performance.now() - start) / 1000;
  const [all, kit] = [await originals(), await testKit()];
  const cases = 200;
  start = performance.now();
  for (let n = 0; n < cases; n++) await attempt(caseOf(all, 1, n), kit);
  return { simplify, damaged: (performance.now() - start) / 1000, cases };
}
