import { useThree } from '@react-three/fiber';
import { type RefObject, useEffect } from 'react';
import * as THREE from 'three';
import type { GpuPart } from '@/workers/protocol';

type Vec3 = readonly [number, number, number];

/** How a part is seen now, in its own space: the direction to whoever looks, and what is upright. Null where nothing is drawn. */
export type Lookout = RefObject<((part: string) => { towards: Vec3; up: Vec3 } | null) | null>;

/** Tells how the piece is seen, when it is asked. */
export function LookoutPost({ into, gpu }: { into: Lookout; gpu: readonly GpuPart[] }) {
  const { camera } = useThree();
  useEffect(() => {
    into.current = (part) => {
      const placement = gpu.find((p) => p.id === part)?.placements[0];
      if (!placement) return null;
      const back = new THREE.Matrix4().fromArray(placement as number[]).invert();
      // The camera looks along its own −z.
      const [up, towards] = [new THREE.Vector3(), new THREE.Vector3()];
      camera.matrixWorld.extractBasis(new THREE.Vector3(), up, towards);
      towards.transformDirection(back);
      up.transformDirection(back);
      // What was scaled unevenly leaves them askew.
      up.addScaledVector(towards, -up.dot(towards)).normalize();
      return { towards: towards.toArray(), up: up.toArray() };
    };
    return () => {
      into.current = null;
    };
  }, [into, gpu, camera]);
  return null;
}
