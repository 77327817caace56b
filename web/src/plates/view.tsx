'use client';

import { OrbitControls } from '@react-three/drei/core/OrbitControls';
import { useThree } from '@react-three/fiber';
import { type ComponentRef, useEffect, useMemo, useRef } from 'react';
import * as THREE from 'three';
import { isTyping } from '@/sheet/typing';
import type { GpuPart } from '@/workers/protocol';
import { markAt, type PlaceMarks } from './place-marks';

export interface Box3 {
  centre: THREE.Vector3;
  radius: number;
  min: THREE.Vector3;
  max: THREE.Vector3;
}

export function boundsOf(gpu: readonly GpuPart[]): Box3 {
  const box = new THREE.Box3();
  const p = new THREE.Vector3();
  for (const part of gpu)
    for (const placement of part.placements) {
      const m = new THREE.Matrix4().fromArray(placement as number[]);
      const step = Math.max(3, 3 * Math.floor(part.position.length / 3 / 4000));
      for (let i = 0; i < part.position.length; i += step) box.expandByPoint(p.fromArray(part.position, i).applyMatrix4(m));
    }
  if (box.isEmpty()) box.set(new THREE.Vector3(-1, -1, -1), new THREE.Vector3(1, 1, 1));
  const sphere = box.getBoundingSphere(new THREE.Sphere());
  return { centre: box.getCenter(new THREE.Vector3()), radius: Math.max(sphere.radius, 0.1), min: box.min, max: box.max };
}

export const FIELD = 24;

/** Where the whole piece is seen from, `turn` degrees round from the front: far enough for its height and its width on a plate of this shape. */
export function home(b: Box3, aspect = 1, turn = 25.5): [number, number, number] {
  const half = new THREE.Vector3().subVectors(b.max, b.min).multiplyScalar(0.5);
  const across = Math.hypot(half.x, half.z);
  const up = half.y + 0.2 * across;
  const tangent = Math.tan((FIELD * Math.PI) / 360);
  const d = across + 1.12 * Math.max(up / tangent, across / (tangent * aspect));
  const a = (turn * Math.PI) / 180;
  return [b.centre.x + d * 0.975 * Math.sin(a), b.centre.y + d * 0.2, b.centre.z + d * 0.975 * Math.cos(a)];
}

export function Ground({ colour }: { colour: string }) {
  const { gl, invalidate } = useThree();
  useEffect(() => {
    gl.setClearColor(colour);
    invalidate();
  }, [gl, colour, invalidate]);
  return null;
}

/** Turning, sliding, going nearer; W shows the whole piece; a chosen finding is flown to. */
export function View({ bounds, marks, gpu, turn }: { bounds: Box3; marks?: PlaceMarks; gpu: readonly GpuPart[]; turn?: number }) {
  const controls = useRef<ComponentRef<typeof OrbitControls>>(null);
  const { camera, invalidate, get } = useThree();
  const whole = useRef<() => void>(() => {});
  whole.current = () => {
    const { width, height } = get().size;
    camera.position.set(...home(bounds, width / Math.max(1, height), turn));
    camera.near = bounds.radius * 0.02;
    camera.far = bounds.radius * 40;
    camera.updateProjectionMatrix();
    controls.current?.target.copy(bounds.centre);
    controls.current?.update();
    invalidate();
  };
  // A new piece, or one of another size, is shown whole; an edit leaves the view where it was.
  const scale = useRef(0);
  useEffect(() => {
    const change = scale.current === 0 || Math.abs(bounds.radius / scale.current - 1) > 0.25;
    if (change) {
      scale.current = bounds.radius;
      whole.current();
    }
  }, [bounds]);
  useEffect(() => {
    const onKey = (e: KeyboardEvent) => {
      if (e.key.toLowerCase() === 'w' && !e.ctrlKey && !e.metaKey && !isTyping(e.target)) whole.current();
    };
    window.addEventListener('keydown', onKey);
    return () => window.removeEventListener('keydown', onKey);
  }, []);
  useEffect(() => {
    const first = marks?.find((m) => m.points.length > 0);
    if (!first || !controls.current) return;
    const to = markAt(gpu, first.part, first.points[0]);
    const away = camera.position.clone().sub(controls.current.target).normalize();
    camera.position.copy(to).addScaledVector(away, bounds.radius * 2.2);
    controls.current.target.copy(to);
    controls.current.update();
    invalidate();
  }, [marks, gpu, bounds, camera, invalidate]);
  return (
    <OrbitControls
      ref={controls}
      makeDefault
      enableDamping={false}
      target={bounds.centre}
      minDistance={bounds.radius * 0.15}
      maxDistance={bounds.radius * 20}
    />
  );
}

/** A soft patch of shade the piece stands on. */
export function Disc({ bounds, colour }: { bounds: Box3; colour: string }) {
  const size = Math.max(bounds.max.x - bounds.min.x, bounds.max.z - bounds.min.z) * 0.85;
  return (
    <mesh
      position={[bounds.centre.x, bounds.min.y - bounds.radius * 0.004, bounds.centre.z]}
      rotation={[-Math.PI / 2, 0, 0]}
      renderOrder={-1}
    >
      <circleGeometry args={[size, 64]} />
      <meshBasicMaterial color={colour} depthWrite={false} toneMapped={false} />
    </mesh>
  );
}

/** A part's triangles on the card, given back when the part is another. */
export function usePartGeometry(part: GpuPart): THREE.BufferGeometry {
  const geometry = useMemo(() => {
    const g = new THREE.BufferGeometry();
    g.setIndex(new THREE.BufferAttribute(part.index, 1));
    g.setAttribute('position', new THREE.BufferAttribute(part.position, 3));
    g.setAttribute('normal', new THREE.BufferAttribute(part.normal, 3));
    if (part.uv) g.setAttribute('uv', new THREE.BufferAttribute(part.uv, 2));
    for (const { name, size, data } of part.more ?? [])
      g.setAttribute(name === 'colour' ? 'color' : `uv${Number(name.slice(2)) - 1}`, new THREE.BufferAttribute(data, size));
    if (part.tangent) g.setAttribute('tangent', new THREE.BufferAttribute(part.tangent, 4));
    return g;
  }, [part]);
  useEffect(() => () => geometry.dispose(), [geometry]);
  return geometry;
}
