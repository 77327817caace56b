import { determinant3, type Mat4, normalMatrix } from '../maths/mat4';
import type { GpuMesh } from './gpu';

/** A mesh for the card and a place it stands in, mm. */
export interface Standing {
  gpu: GpuMesh;
  placement: Mat4;
}

/**
 * Meshes for the card as one, each where it stands: one draw in place of many. What not all of them have (a layout, tangents) none has then;
 * further layouts and colours are left out. Mirrored ones are wound the other way.
 */
export function joinGpu(all: readonly Standing[]): GpuMesh {
  const vertices = all.reduce((n, s) => n + s.gpu.position.length / 3, 0);
  const index = new Uint32Array(all.reduce((n, s) => n + s.gpu.index.length, 0));
  const position = new Float32Array(3 * vertices);
  const normal = new Float32Array(3 * vertices);
  const uv = all.every((s) => s.gpu.uv) ? new Float32Array(2 * vertices) : undefined;
  const tangent = all.every((s) => s.gpu.tangent) ? new Float32Array(4 * vertices) : undefined;
  const corner = new Uint32Array(vertices);
  let [v0, i0] = [0, 0];
  for (const { gpu, placement: m } of all) {
    const q = normalMatrix(m);
    const mirrored = determinant3(m) < 0;
    const n = gpu.position.length / 3;
    for (let v = 0; v < n; v++) {
      const [x, y, z] = gpu.position.subarray(3 * v, 3 * v + 3);
      const [nx, ny, nz] = gpu.normal.subarray(3 * v, 3 * v + 3);
      for (let k = 0; k < 3; k++) {
        position[3 * (v0 + v) + k] = m[k] * x + m[4 + k] * y + m[8 + k] * z + m[12 + k];
        normal[3 * (v0 + v) + k] = q[k] * nx + q[4 + k] * ny + q[8 + k] * nz;
      }
      unit(normal, 3 * (v0 + v));
      if (tangent && gpu.tangent) {
        const [tx, ty, tz, w] = gpu.tangent.subarray(4 * v, 4 * v + 4);
        for (let k = 0; k < 3; k++) tangent[4 * (v0 + v) + k] = m[k] * tx + m[4 + k] * ty + m[8 + k] * tz;
        unit(tangent, 4 * (v0 + v));
        tangent[4 * (v0 + v) + 3] = mirrored ? -w : w;
      }
    }
    if (uv && gpu.uv) uv.set(gpu.uv, 2 * v0);
    corner.set(gpu.corner, v0);
    for (let i = 0; i < gpu.index.length; i += 3) {
      index[i0 + i] = v0 + gpu.index[i];
      index[i0 + i + 1] = v0 + gpu.index[i + (mirrored ? 2 : 1)];
      index[i0 + i + 2] = v0 + gpu.index[i + (mirrored ? 1 : 2)];
    }
    v0 += n;
    i0 += gpu.index.length;
  }
  return { index, position, normal, ...(uv && { uv }), ...(tangent && { tangent }), more: [], corner };
}

function unit(values: Float32Array, at: number): void {
  const l = Math.hypot(values[at], values[at + 1], values[at + 2]) || 1;
  for (let k = 0; k < 3; k++) values[at + k] /= l;
}
