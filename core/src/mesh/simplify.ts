import type { MeshoptSimplifier } from 'meshoptimizer';
import { attribute, faceCount, type PolyMesh } from './polymesh';
import { Rework } from './rework';

/** Options for {@link simplify}. */
export interface SimplifyOptions {
  /** As few as this, whatever it costs; as few as the error allows when absent. */
  triangles?: number;
  /** The library's own estimate of the distance from the old surface, mm; no bound when absent. */
  errorMm?: number;
  /** 1 for every face that has to stay as it is. */
  keep?: ArrayLike<number>;
}

/**
 * Takes triangles away where they matter least (the library's quadric error), down to a number. Points that stay don't move;
 * borders of patches and seams of a layout are followed. What deviation that leaves is for the caller to measure.
 *
 * @returns a mesh of triangles
 */
export function simplify(simplifier: typeof MeshoptSimplifier, mesh: PolyMesh, options: SimplifyOptions): PolyMesh {
  const patch = attribute(mesh, 'patch', 'face')?.data;
  const uv = attribute(mesh, 'uv', 'corner')?.data;
  const faceOf = new Uint32Array(mesh.faceVert.length);
  for (let f = 0; f < faceCount(mesh); f++) faceOf.fill(f, mesh.faceStart[f], mesh.faceStart[f + 1]);
  // A point is several to the library where patches or islands meet: it then keeps the line between them.
  const records = new Map<string, number>();
  const cornerOf: number[] = [];
  const kept = new Set<number>();
  const indices = Uint32Array.from(mesh.triangles, (c) => {
    const key = `${mesh.faceVert[c]},${patch?.[faceOf[c]] ?? 0},${uv ? `${uv[2 * c]},${uv[2 * c + 1]}` : ''}`;
    let id = records.get(key);
    if (id === undefined) {
      id = cornerOf.push(c) - 1;
      records.set(key, id);
    }
    // A point of any face that stays, stays.
    if (options.keep?.[faceOf[c]]) kept.add(id);
    return id;
  });
  const middle = [0, 1, 2].map((k) => mesh.positions[3 * mesh.faceVert[0] + k]);
  const positions = new Float32Array(3 * cornerOf.length);
  const layout = new Float32Array(2 * cornerOf.length);
  const locked = new Uint8Array(cornerOf.length);
  for (const [i, c] of cornerOf.entries()) {
    for (let k = 0; k < 3; k++) positions[3 * i + k] = mesh.positions[3 * mesh.faceVert[c] + k] - middle[k];
    if (uv) layout.set([uv[2 * c], uv[2 * c + 1]], 2 * i);
    if (kept.has(i)) locked[i] = 1;
  }
  const [left] = simplifier.simplifyWithAttributes(
    indices,
    positions,
    3,
    layout,
    2,
    uv ? [0.5, 0.5] : [0, 0],
    options.keep ? locked : null,
    3 * (options.triangles ?? 0),
    options.errorMm ?? 1e9,
    ['ErrorAbsolute'],
  );
  const rework = new Rework(mesh);
  for (let t = 0; t < left.length; t += 3) {
    const corners = [0, 1, 2].map((k) => cornerOf[left[t + k]]);
    rework.face(
      corners.map((c) => ({ vertex: mesh.faceVert[c], from: c })),
      faceOf[corners[0]],
    );
  }
  return rework.build().mesh;
}
