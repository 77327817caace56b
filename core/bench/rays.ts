import { BufferAttribute, BufferGeometry, DoubleSide, Ray, Vector3 } from 'three';
import { MeshBVH } from 'three-mesh-bvh';
import { random } from '../src/maths/random';
import { RayQuery } from '../src/rays/query';
import { buildTree } from '../src/rays/tree';
import { timed } from './calibrate';

/** Own nearest hit against the library's `raycastFirst`, 100 000 random rays through a mesh. */
export function benchRays(soup: Float32Array): {
  ratio: number;
  agree: number;
  own: number;
  library: number;
  build: number;
  libraryBuild: number;
} {
  const rays = 100_000;
  const next = random(7);
  let [low, high] = [Infinity, -Infinity];
  for (const x of soup) {
    low = Math.min(low, x);
    high = Math.max(high, x);
  }
  const data = new Float64Array(6 * rays);
  for (let i = 0; i < rays; i++) {
    for (let k = 0; k < 3; k++) data[6 * i + k] = low + (high - low) * next();
    const [x, y, z] = [next() - 0.5, next() - 0.5, next() - 0.5];
    const l = Math.hypot(x, y, z);
    data.set([x / l, y / l, z / l], 6 * i + 3);
  }
  const geometry = new BufferGeometry();
  geometry.setAttribute('position', new BufferAttribute(soup, 3));
  const bvh = new MeshBVH(geometry, { strategy: 2, verbose: false } as object);
  const query = new RayQuery(buildTree(soup));
  const mine = new Float64Array(rays);
  const theirs = new Float64Array(rays);
  const ray = new Ray(new Vector3(), new Vector3());
  const ownRun = () => {
    for (let i = 0; i < rays; i++)
      mine[i] = query.closest(data[6 * i], data[6 * i + 1], data[6 * i + 2], data[6 * i + 3], data[6 * i + 4], data[6 * i + 5], 0, Infinity)
        ? query.t
        : -1;
  };
  const libraryRun = () => {
    for (let i = 0; i < rays; i++) {
      ray.origin.set(data[6 * i], data[6 * i + 1], data[6 * i + 2]);
      ray.direction.set(data[6 * i + 3], data[6 * i + 4], data[6 * i + 5]);
      theirs[i] = bvh.raycastFirst(ray, DoubleSide)?.distance ?? -1;
    }
  };
  const ratios: [number, number][] = [];
  for (let k = 0; k < 5; k++) ratios.push([timed(1, ownRun), timed(1, libraryRun)]);
  const sorted = ratios.sort((a, b) => a[1] / a[0] - b[1] / b[0])[2];
  let agree = 0;
  for (let i = 0; i < rays; i++) if ((mine[i] < 0 && theirs[i] < 0) || Math.abs(mine[i] - theirs[i]) < 1e-3 * (high - low)) agree++;
  const build = timed(3, () => buildTree(soup));
  const libraryBuild = timed(3, () => new MeshBVH(geometry.clone(), { strategy: 2, verbose: false } as object));
  return { ratio: sorted[1] / sorted[0], agree: agree / rays, own: rays / sorted[0], library: rays / sorted[1], build, libraryBuild };
}
