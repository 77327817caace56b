import { createRequire } from 'node:module';
import { join } from 'node:path';
import Module from 'manifold-3d/manifold';
import { placement } from '../src/maths/mat4';
import { bevel } from '../src/mesh/bevel/bevel';
import { edgesOf } from '../src/mesh/connectivity';
import { type PolyMesh, triangleCount } from '../src/mesh/polymesh';
import { shell } from '../src/mesh/shell';
import { sliceBy } from '../src/mesh/slice';
import { combine } from '../src/mesh/solids';
import { subdivide } from '../src/mesh/subdivide';
import { transform } from '../src/mesh/transform';
import { cube } from '../test/shapes';
import { median } from './calibrate';

/** Times the three heaviest steps on meshes of the size their targets name, seconds. */
export async function benchChangers(): Promise<{
  bevel: number;
  edges: number;
  solids: number;
  triangles: number;
  shell: number;
  shelled: number;
}> {
  // Bundled elsewhere, it would look for its WebAssembly beside the bundle.
  const wasm = createRequire(join(process.cwd(), 'package.json')).resolve('manifold-3d/manifold.wasm');
  const solids = await Module({ locateFile: () => wasm });
  solids.setup();
  const clock = () => performance.now() / 1000;
  const time = (run: () => unknown): number =>
    median(
      Array.from({ length: 5 }, () => {
        const start = clock();
        run();
        return clock() - start;
      }),
    );
  const ball = (levels: number): PolyMesh => {
    let m = cube(100);
    for (let i = 0; i < levels; i++) m = subdivide(m, { smooth: i < 4 });
    return m;
  };
  const fine = ball(5);
  const edges = edgesOf(fine);
  const chosen = new Uint8Array(edges.count);
  let picked = 0;
  for (let e = 0; e < edges.count && picked < 5000; e += 2) picked += chosen[e] = 1;
  const finest = ball(6);
  const one = divided(cube(100), 57);
  const other = transform(one, placement([30, 20, 10], [20, 30, 0]));
  return {
    bevel: time(() => bevel(fine, chosen, { size: 0.3, segments: 2 }, edges)),
    edges: picked,
    solids: time(() => combine(solids, one, other, { how: 'cut' })),
    triangles: triangleCount(one),
    shell: time(() => shell(finest, { thickness: 1 })),
    shelled: triangleCount(finest),
  };
}

/** A cube with n × n faces on each side: 12 n² triangles that lie in six planes, which is harder to put together again than a ball. */
function divided(m: PolyMesh, n: number): PolyMesh {
  let out = m;
  for (const [axis, from] of [
    [[1, 0, 0], -50],
    [[0, 1, 0], 0],
    [[0, 0, 1], -50],
  ] as const)
    out = sliceBy(
      out,
      axis,
      Array.from({ length: n - 1 }, (_, i) => from + (100 * (i + 1)) / n),
    ).mesh;
  return out;
}
