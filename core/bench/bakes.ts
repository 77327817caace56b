import { emptyTexels } from '../src/bake/texels';
import { IDENTITY } from '../src/maths/mat4';
import type { PolyMesh } from '../src/mesh/polymesh';
import { aboutParts, type BakeSettings, bakeSettings, prepareBake, previewOf } from '../src/pipeline/bake';
import { bakeTexels, finishBake } from '../src/pipeline/bake-finish';
import { BAKE_DEFAULTS } from '../src/pipeline/document';
import type { PartMesh } from '../src/pipeline/form';
import { unwrap } from '../src/pipeline/unwrap';
import { torusMesh } from '../test/shapes';
import { lantern } from './lantern';
import { castBy, sharedBake } from './thread';

const part = (mesh: PolyMesh): PartMesh => ({ id: 'p', name: 'p', mesh, placements: [IDENTITY] });
const seconds = (ms: number) => (ms / 1000).toFixed(1);

/** Bakes of large maps by two threads, and of the preview by one. */
export async function bakeTable(): Promise<void> {
  const layout = { size: 2048, padding: 16, seamAngle: 50, rotate: true, weights: {}, regions: {} };
  const low = unwrap([part(torusMesh(60, 22, 100, 50))], layout).parts;
  const high = [part(torusMesh(60, 22, 800, 312))];
  const base: BakeSettings = { ...BAKE_DEFAULTS, size: 2048, occlusion: false, curvature: false };
  console.log(`low ${low[0].mesh.triangles.length / 3}, high ${high[0].mesh.triangles.length / 3} triangles, 2048², two threads`);
  for (const [words, settings] of [
    ['normal, 4 × 4 (wanted ≤ 60 s)', { ...base, samples: 4 }],
    ['occlusion, 64 rays (wanted ≤ 60 s)', { ...base, samples: 1, normal: false, occlusion: true, occlusionRays: 64, reachMm: 200 }],
  ] as [string, BakeSettings][]) {
    const start = performance.now();
    const made = sharedBake(low, high, new Map(), settings);
    const prepared = performance.now();
    const texels = emptyTexels(made.prepared, (n) => new SharedArrayBuffer(n));
    const cast = await castBy(2, made.prepared, texels);
    const casted = performance.now();
    await finishBake(made, texels, settings, low, 0);
    const end = performance.now();
    let covered = 0;
    for (const s of texels.state) if (s > 0) covered++;
    console.log(
      `${words}: ${seconds(prepared - start + 1000 * cast + end - casted)} s: measuring and trees ${seconds(prepared - start)} · casting ${cast.toFixed(1)} · maps and judge ${seconds(end - casted)}; ${((100 * covered) / 2048 ** 2).toFixed(0)} % covered`,
    );
  }

  const { document, laid, dense } = lantern();
  const settings = previewOf(bakeSettings(document));
  const kept = new Map();
  for (const words of ['first', 'then, its meshes measured already']) {
    const start = performance.now();
    const made = prepareBake(laid, dense, aboutParts(document), settings, undefined, undefined, kept);
    const texels = bakeTexels(made.prepared);
    await finishBake(made, texels, settings, laid, 0);
    console.log(`preview of the lantern at 256², ${words} (wanted ≤ 2 s): ${seconds(performance.now() - start)} s`);
  }
}
