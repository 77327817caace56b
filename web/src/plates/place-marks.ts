import * as THREE from 'three';
import type { GpuPart } from '@/workers/protocol';

type Vec3 = readonly [number, number, number];

/** Places to be shown: of a part, in its own space; of the whole piece where it names none. */
export type PlaceMarks = readonly { part: string | null; points: readonly Vec3[] }[];

/** Where a place of a part stands in the piece: on the first of its copies. */
export function markAt(gpu: readonly GpuPart[], part: string | null, place: Vec3): THREE.Vector3 {
  const placement = gpu.find((p) => p.id === part)?.placements[0];
  const at = new THREE.Vector3(...place);
  return placement ? at.applyMatrix4(new THREE.Matrix4().fromArray(placement as number[])) : at;
}
