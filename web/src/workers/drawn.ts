import type { View } from '@wellmorph/core/inspect/views';
import { rampOf } from '@/shared/ramp';
import type { DrawnView, GpuPart } from './protocol';

/** Triangles of their own, so that each can have its colour, with the smooth normals of the part: what the plate draws of a view. */
export function drawnView(part: GpuPart, values: Float32Array, view: View): DrawnView {
  const n = part.index.length;
  const position = new Float32Array(3 * n);
  const normal = new Float32Array(3 * n);
  const colour = new Float32Array(3 * n);
  const ramp = rampOf(view);
  for (let i = 0; i < n; i++) {
    const v = 3 * part.index[i];
    for (let k = 0; k < 3; k++) {
      position[3 * i + k] = part.position[v + k];
      normal[3 * i + k] = part.normal[v + k];
    }
    colour.set(ramp(values[i]), 3 * i);
  }
  return { position, normal, colour };
}
