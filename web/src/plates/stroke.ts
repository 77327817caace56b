'use client';

import { type ThreeEvent, useThree } from '@react-three/fiber';
import { useEffect, useRef } from 'react';
import type * as THREE from 'three';
import { Vector2 } from 'three';

/** A brush that is drawn over the piece: every place it passes, in the part’s own space, and that it was lifted. */
export interface Stroking {
  /** How far apart places are that are told, mm. */
  spacing: number;
  at(part: string, place: [number, number, number], under: Under): void;
  end(): void;
  /** Radius of the brush, mm: shown round the place under the pointer. */
  radius?: number;
  /** With Alt held a stroke goes straight on from where the last one ended. */
  straight?: boolean;
}
/** What is under the brush. */
export interface Under {
  /** Which triangle of the part’s mesh. */
  triangle: number;
  /** Which way it faces, in the part’s own space. */
  normal: [number, number, number];
  /** How hard it is pressed, 0 … 1; a mouse always is. */
  pressure: number;
}

/** A place of the surface under the pointer. */
type Hit = Pick<THREE.Intersection, 'point' | 'object' | 'faceIndex' | 'face'>;

/** Where the brush is while it is drawn: one pointer draws at a time, over all parts. */
let drawn: { part: string; at: THREE.Vector3 } | null = null;

/** What a part’s mesh does with the pointer while something is drawn over the piece: the view stays still until the brush is lifted. */
export function useStroke(part: string, stroking: Stroking | undefined, isThere: (e: ThreeEvent<PointerEvent>) => boolean) {
  const get = useThree((s) => s.get);
  /** Where a stroke ended on this part, for one that goes straight on. */
  const last = useRef<THREE.Vector3 | null>(null);
  const lift = useRef<(() => void) | null>(null);
  useEffect(() => () => lift.current?.(), []);
  if (!stroking) return {};
  const put = (hit: Hit, pressure: number) => {
    const place = hit.object.worldToLocal(hit.point.clone());
    last.current = hit.point.clone();
    drawn = { part, at: last.current };
    const { x, y, z } = hit.face?.normal ?? { x: 0, y: 0, z: 1 };
    stroking.at(part, [place.x, place.y, place.z], { triangle: hit.faceIndex ?? 0, normal: [x, y, z], pressure });
  };
  const pressureOf = (e: ThreeEvent<PointerEvent>) => (e.pointerType === 'pen' ? Math.min(1, Math.max(0.1, e.pressure)) : 1);
  /** Places of the surface on the straight way, as it is seen, from where the last stroke ended. */
  const straightTo = (e: ThreeEvent<PointerEvent>) => {
    const { camera, raycaster } = get();
    const from = last.current?.clone().project(camera);
    if (!from) return;
    const to = e.point.clone().project(camera);
    const steps = Math.min(400, Math.ceil((last.current?.distanceTo(e.point) ?? 0) / stroking.spacing));
    const begun = last.current as THREE.Vector3;
    for (let i = 0; i < steps; i++) {
      const t = i / steps;
      raycaster.setFromCamera(new Vector2(from.x + t * (to.x - from.x), from.y + t * (to.y - from.y)), camera);
      const hit = raycaster.intersectObject(e.eventObject, false)[0];
      if (hit && (i > 0 || hit.point.distanceTo(begun) < 4 * stroking.spacing)) put(hit, 1);
    }
  };
  return {
    onPointerDown(e: ThreeEvent<PointerEvent>) {
      if (e.button !== 0 || e.shiftKey || !isThere(e)) return;
      e.stopPropagation();
      const controls = get().controls as { enabled: boolean } | null;
      if (controls) controls.enabled = false;
      if (e.altKey && stroking.straight) straightTo(e);
      put(e, pressureOf(e));
      const end = () => {
        window.removeEventListener('pointerup', end);
        window.removeEventListener('pointercancel', end);
        lift.current = null;
        drawn = null;
        if (controls) controls.enabled = true;
        stroking.end();
      };
      lift.current = end;
      window.addEventListener('pointerup', end);
      window.addEventListener('pointercancel', end);
    },
    onPointerMove(e: ThreeEvent<PointerEvent>) {
      // Begun over another part it goes on over this one: while one is drawn the view stays still.
      if ((e.buttons & 1) === 0 || !isThere(e) || get().controls === null || (get().controls as { enabled?: boolean }).enabled) return;
      e.stopPropagation();
      if (drawn?.part === part && drawn.at.distanceTo(e.point) < stroking.spacing) return;
      put(e, pressureOf(e));
    },
  };
}
