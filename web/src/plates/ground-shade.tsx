'use client';

import { useThree } from '@react-three/fiber';
import type { GroundShade as Shade } from '@wellmorph/core/inspect/ground';
import { useEffect, useMemo, useState } from 'react';
import * as THREE from 'three';
import { useBench } from '@/session/context';
import { useAnswered } from '@/sheet/answered';
import type { GpuPart } from '@/workers/protocol';
import { afterFirstLook } from './first-look';

/** Of the shade, how much is drawn: paper is not black under a piece. */
const DEEPEST = 0.62;
/** Of more triangles than this none is computed: handing them over would be felt on the page. */
const MOST = 600_000;
/** Where it begins to fade towards its edge, in halves of its side. */
const FADES = 0.6;

/** The shade of a piece on its ground, computed beside the page once the piece lies there. */
export function useGroundShade(gpu: readonly GpuPart[], blocks: (part: string) => boolean): Shade | null {
  const bench = useBench();
  const [ready, setReady] = useState(false);
  useEffect(() => afterFirstLook(() => setReady(true)), []);
  const solid = gpu.filter((p) => blocks(p.id));
  const triangles = solid.reduce((n, p) => n + p.triangles * p.placements.length, 0);
  const key = solid.map((p) => p.id).join();
  // Which parts block is said by the key.
  const ask = useMemo(
    () =>
      ready && triangles > 0 && triangles <= MOST
        ? { parts: solid.map(({ position, index, placements }) => ({ position, index, placements })) }
        : null,
    [gpu, key, ready],
  );
  return useAnswered(ask, (of) => bench.pool.run('shade', of))?.answer ?? null;
}

/** It, on the paper. */
export function GroundShade({ shade }: { shade: Shade }) {
  const invalidate = useThree((s) => s.invalidate);
  const map = useMemo(() => {
    const { size, hidden } = shade;
    const rgba = new Uint8Array(4 * size * size);
    for (let i = 0; i < hidden.length; i++) {
      const [x, z] = [i % size, Math.floor(i / size)].map((k) => (2 * (k + 0.5)) / size - 1);
      const edge = 1 - THREE.MathUtils.smoothstep(Math.hypot(x, z), FADES, 1);
      rgba[4 * i + 3] = DEEPEST * edge * hidden[i];
    }
    const t = new THREE.DataTexture(rgba, size, size, THREE.RGBAFormat);
    t.magFilter = THREE.LinearFilter;
    t.minFilter = THREE.LinearFilter;
    t.needsUpdate = true;
    return t;
  }, [shade]);
  const geometry = useMemo(() => {
    const { x, y, z, side } = shade;
    const g = new THREE.BufferGeometry();
    const corners = [x, y, z, x, y, z + side, x + side, y, z + side, x + side, y, z];
    g.setAttribute('position', new THREE.Float32BufferAttribute(corners, 3));
    g.setAttribute('uv', new THREE.Float32BufferAttribute([0, 0, 0, 1, 1, 1, 1, 0], 2));
    g.setIndex([0, 1, 2, 0, 2, 3]);
    return g;
  }, [shade]);
  useEffect(() => {
    invalidate();
    return () => {
      map.dispose();
      geometry.dispose();
    };
  }, [map, geometry, invalidate]);
  return (
    <mesh geometry={geometry} renderOrder={-0.5}>
      <meshBasicMaterial map={map} color="#000000" transparent depthWrite={false} toneMapped={false} />
    </mesh>
  );
}
