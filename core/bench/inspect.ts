import { selfCrossings } from '../src/inspect/crossings';
import { inspectPart } from '../src/inspect/inspect';
import { hiddenTriangles } from '../src/inspect/visibility';
import { overDivided } from '../src/mesh/flats';
import { idleLoops } from '../src/mesh/idle';
import { triangleCount } from '../src/mesh/polymesh';
import { soupOf } from '../src/mesh/soup';
import { formAsset } from '../src/pipeline/form';
import { documentFromModel } from '../src/pipeline/import';
import { inspectAsset } from '../src/pipeline/inspect';
import { lookClosely } from '../src/pipeline/look';
import { MeshCache } from '../src/pipeline/mesh-cache';
import { QUIET } from '../src/task';
import { torusMesh } from '../test/shapes';

/** Inspects dense imports as a whole, forming left out, and says where the time goes; seconds. */
export function benchInspect(): { triangles: number; whole: number; parts: Record<string, number> }[] {
  const clock = () => performance.now() / 1000;
  return [
    [100, 60],
    [400, 250],
    [1000, 500],
  ].map(([n, m]) => {
    const mesh = torusMesh(500, 200, n, m, false);
    const document = documentFromModel(
      'Torus',
      {
        parts: [{ name: 'Torus', mesh, placements: [[1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1]], material: -1 }],
        materials: [],
        textures: [],
        notes: [],
      },
      { fileName: 'torus', licence: '', note: '' },
      () => 'torus',
    );
    const formed = formAsset(document, 'low', () => mesh);
    const memory = new MeshCache();
    const start = clock();
    inspectAsset(document, formed, ledgerless(triangleCount(mesh)), QUIET, memory);
    const quick = clock() - start;
    lookClosely(document, formed, memory);
    const whole = clock() - start;
    const parts: Record<string, number> = { 'faces and edges': quick };
    const time = (name: string, run: () => unknown) => {
      const from = clock();
      run();
      parts[name] = clock() - from;
    };
    time('crossings', () => selfCrossings(mesh, 400));
    time('seen from outside', () => hiddenTriangles([{ soup: soupOf(mesh), blocks: true }]));
    time('idle loops', () => idleLoops(mesh, 0.02));
    time('flats', () => overDivided(mesh));
    time('the same again', () =>
      inspectPart({ id: 'p', name: 'P', mesh, declaredOpen: false, hasMaterial: true, fixable: true, pixelMm: 0.3 }),
    );
    return { triangles: triangleCount(mesh), whole, parts };
  });
}

const ledgerless = (triangles: number) => ({
  triangles,
  gpuVertices: 0,
  drawCalls: 1,
  sizeMm: [0, 0, 0] as [number, number, number],
  areaMm2: 0,
  memoryMB: 0,
  parts: [],
});
