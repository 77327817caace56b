'use client';

import { Line } from '@react-three/drei/core/Line';
import type { SolvedShot } from '@wellmorph/core/shot/shot';
import { useMemo } from 'react';
import * as THREE from 'three';

/** The planes of a shot where sharpness begins, is best and ends, standing across the piece. */
export function Limits({ shot, radius, colours }: { shot: SolvedShot; radius: number; colours: { accent: string; near: string } }) {
  const planes = useMemo(() => {
    const { position: p, forward: f, right: r, up: u } = shot.camera;
    const v = (a: readonly number[]) => new THREE.Vector3(a[0], a[1], a[2]);
    const middle = (shot.nearest + shot.farthest) / 2;
    return [
      { d: shot.focus.near, colour: colours.near },
      { d: shot.focus.at, colour: colours.accent },
      { d: shot.focus.far, colour: colours.near },
    ]
      .filter(({ d }) => Number.isFinite(d) && Math.abs(d - middle) < 4 * radius)
      .map(({ d, colour }) => {
        // In the middle of what the camera sees at that distance, which is where the piece is.
        const c = v(p).addScaledVector(v(f), d);
        const [h, w] = [radius * 1.06, radius * 0.8];
        const corner = (x: number, y: number) =>
          c
            .clone()
            .addScaledVector(v(r), x * w)
            .addScaledVector(v(u), y * h);
        const corners = [corner(-1, -1), corner(1, -1), corner(1, 1), corner(-1, 1)];
        const geometry = new THREE.BufferGeometry().setFromPoints(corners);
        geometry.setIndex([0, 1, 2, 0, 2, 3]);
        return { colour, corners: [...corners, corners[0]], geometry };
      });
  }, [shot, radius, colours]);
  return planes.map((p, i) => (
    <group key={i}>
      <mesh geometry={p.geometry} renderOrder={4}>
        <meshBasicMaterial color={p.colour} transparent opacity={0.13} side={THREE.DoubleSide} depthWrite={false} />
      </mesh>
      <Line points={p.corners} color={p.colour} lineWidth={1} />
    </group>
  ));
}
