import { BufferAttribute, BufferGeometry, DoubleSide, Ray, Vector3 } from 'three';
import { MeshBVH } from 'three-mesh-bvh';
import type { Scene } from '../src/render/scene';
import { PathTracer, type Rays } from '../src/render/tracer';

/** The library's nearest hit behind the tracer's own question, so that the same integrator runs on both. */
export function libraryRays(corners: Float32Array): Rays {
  const geometry = new BufferGeometry();
  geometry.setAttribute('position', new BufferAttribute(corners, 3));
  const bvh = new MeshBVH(geometry, { strategy: 2, verbose: false } as object);
  // The builder keeps an index and reorders it; faces are found again through it.
  const index = geometry.index?.array as Uint32Array;
  const ray = new Ray(new Vector3(), new Vector3());
  const [a, b, c, p] = [new Vector3(), new Vector3(), new Vector3(), new Vector3()];
  const bary = new Vector3();
  return {
    t: 0,
    triangle: -1,
    u: 0,
    v: 0,
    closest(ox, oy, oz, dx, dy, dz, tMin, tMax) {
      ray.origin.set(ox, oy, oz);
      ray.direction.set(dx, dy, dz);
      const hit = bvh.raycastFirst(ray, DoubleSide, tMin, tMax);
      if (!hit || hit.faceIndex == null) return false;
      const i = index[3 * hit.faceIndex];
      this.t = hit.distance;
      this.triangle = (i / 3) | 0;
      const o = 9 * this.triangle;
      a.fromArray(corners, o);
      b.fromArray(corners, o + 3);
      c.fromArray(corners, o + 6);
      p.copy(hit.point);
      barycentric(p, a, b, c, bary);
      // Its index may start at any corner of the face; ours is in the order of the corners.
      this.u = bary.y;
      this.v = bary.z;
      return true;
    },
  };
}

function barycentric(p: Vector3, a: Vector3, b: Vector3, c: Vector3, out: Vector3): void {
  const [v0, v1, v2] = [b.clone().sub(a), c.clone().sub(a), p.clone().sub(a)];
  const [d00, d01, d11, d20, d21] = [v0.dot(v0), v0.dot(v1), v1.dot(v1), v2.dot(v0), v2.dot(v1)];
  const down = d00 * d11 - d01 * d01 || 1;
  const v = (d11 * d20 - d01 * d21) / down;
  const w = (d00 * d21 - d01 * d20) / down;
  out.set(1 - v - w, v, w);
}

/** Samples per second of a scene at 256², own rays and the library's; and how far the two pictures are apart. */
export function benchPicture(scene: Scene): { own: number; library: number; ratio: number; raysPerSample: number; apart: number } {
  const size = 256;
  const run = (tracer: PathTracer, samples: number, from: number) => {
    const start = performance.now();
    let sum = 0;
    for (let y = 0; y < size; y++)
      for (let x = 0; x < size; x++)
        for (let i = from; i < from + samples; i++) {
          tracer.sample(x, y, size, size, i, 1);
          sum += tracer.out[0] + tracer.out[1] + tracer.out[2];
        }
    return { rate: (size * size * samples) / ((performance.now() - start) / 1000), mean: sum / (size * size * samples) };
  };
  const own = new PathTracer(scene);
  const library = new PathTracer(scene, () => libraryRays(scene.corners));
  run(own, 1, 0);
  run(library, 1, 0);
  const before = own.rays;
  const pairs = [0, 1, 2].map((k) => [run(own, 2, 2 * k), run(library, 2, 2 * k)] as const);
  const sorted = [...pairs].sort((x, y) => x[0].rate / x[1].rate - y[0].rate / y[1].rate)[1];
  return {
    own: sorted[0].rate,
    library: sorted[1].rate,
    ratio: sorted[0].rate / sorted[1].rate,
    raysPerSample: (own.rays - before) / (6 * size * size),
    apart: Math.abs(sorted[0].mean / sorted[1].mean - 1),
  };
}
