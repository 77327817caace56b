import { transformPoint } from '../maths/mat4';
import type { PartMesh } from './form';

/** Every vertex of every copy, world mm: what a shot frames. */
export function outlinePoints(parts: readonly PartMesh[]): Float64Array {
  const total = parts.reduce((n, p) => n + p.mesh.positions.length * p.placements.length, 0);
  const out = new Float64Array(total);
  let at = 0;
  for (const p of parts)
    for (const m of p.placements)
      for (let v = 0; v < p.mesh.positions.length; v += 3) {
        out.set(transformPoint(m, [p.mesh.positions[v], p.mesh.positions[v + 1], p.mesh.positions[v + 2]]), at);
        at += 3;
      }
  return out;
}
