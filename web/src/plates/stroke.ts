'use client';

import { type ThreeEvent, useThree } from '@react-three/fiber';
import { useEffect, useRef } from 'react';
import type * as THREE from 'three';

/** A brush that is drawn over the piece: every place it passes, in the part’s own space, and that it was lifted. */
export interface Stroking {
  /** How far apart places are that are told, mm. */
  spacing: number;
  at(part: string, place: [number, number, number]): void;
  end(): void;
}

interface Begun {
  last: THREE.Vector3;
  part: string;
}

/** What a part’s mesh does with the pointer while something is drawn over the piece: the view stays still until the brush is lifted. */
export function useStroke(part: string, stroking: Stroking | undefined, isThere: (e: ThreeEvent<PointerEvent>) => boolean) {
  const get = useThree((s) => s.get);
  const begun = useRef<Begun | null>(null);
  const lift = useRef<(() => void) | null>(null);
  useEffect(() => () => lift.current?.(), []);
  if (!stroking) return {};
  const put = (e: ThreeEvent<PointerEvent>) => {
    const place = e.object.worldToLocal(e.point.clone());
    begun.current = { last: e.point.clone(), part };
    stroking.at(part, [place.x, place.y, place.z]);
  };
  return {
    onPointerDown(e: ThreeEvent<PointerEvent>) {
      if (e.button !== 0 || e.shiftKey || !isThere(e)) return;
      e.stopPropagation();
      const controls = get().controls as { enabled: boolean } | null;
      if (controls) controls.enabled = false;
      put(e);
      const end = () => {
        window.removeEventListener('pointerup', end);
        window.removeEventListener('pointercancel', end);
        lift.current = null;
        begun.current = null;
        if (controls) controls.enabled = true;
        stroking.end();
      };
      lift.current = end;
      window.addEventListener('pointerup', end);
      window.addEventListener('pointercancel', end);
    },
    onPointerMove(e: ThreeEvent<PointerEvent>) {
      if ((e.buttons & 1) === 0 || !isThere(e) || get().controls === null || (get().controls as { enabled?: boolean }).enabled) return;
      e.stopPropagation();
      if (begun.current && begun.current.last.distanceTo(e.point) < stroking.spacing) return;
      put(e);
    },
  };
}
