'use client';

import { type ThreeEvent, useThree } from '@react-three/fiber';
import { type PartSection, type Wall, wallAt } from '@wellmorph/core/inspect/section';
import { frameOf } from '@wellmorph/core/mesh/planar';
import type { Plane } from '@wellmorph/core/mesh/slice';
import type { Material } from '@wellmorph/core/pipeline/document';
import { useEffect, useMemo } from 'react';
import * as THREE from 'three';
import type { PAPER } from '@/theme/theme';

/** The plane as drawing clips by it: what it cuts off is on the side its normal points to. */
export const clipOf = ({ normal, offset }: Plane): THREE.Plane =>
  new THREE.Plane(new THREE.Vector3(-normal[0], -normal[1], -normal[2]), offset);

/** Hatching as on a drawing: one stroke across a square that repeats. */
function hatching(): THREE.Texture {
  const canvas = document.createElement('canvas');
  canvas.width = canvas.height = 32;
  const c = canvas.getContext('2d') as CanvasRenderingContext2D;
  c.fillStyle = '#ffffff';
  c.fillRect(0, 0, 32, 32);
  c.strokeStyle = '#8d8d8d';
  c.lineWidth = 3;
  for (const at of [-32, 0, 32]) {
    c.beginPath();
    c.moveTo(at, 32);
    c.lineTo(at + 32, 0);
    c.stroke();
  }
  const t = new THREE.CanvasTexture(canvas);
  t.wrapS = t.wrapT = THREE.RepeatWrapping;
  t.colorSpace = THREE.SRGBColorSpace;
  t.anisotropy = 8;
  return t;
}

/** The faces a section cuts, filled and hatched, with their outlines; a wall is measured where one is pointed at. */
export function CutFaces({
  plane,
  cut,
  radius,
  materialOf,
  colours,
  onWall,
  onPick,
}: {
  plane: Plane;
  cut: readonly PartSection[];
  radius: number;
  materialOf(part: string): Material | undefined;
  colours: typeof PAPER;
  /** The wall under the pointer. */
  onWall?(wall: Wall | null): void;
  onPick?(wall: Wall): void;
}) {
  const hatch = useMemo(hatching, []);
  const invalidate = useThree((s) => s.invalidate);
  useEffect(() => () => hatch.dispose(), [hatch]);
  useEffect(invalidate);
  return cut.map((c) => (
    <CutFace
      key={c.part}
      section={c}
      plane={plane}
      spacing={radius * 0.05}
      hatch={hatch}
      colour={materialOf(c.part)?.colour ?? [0.72, 0.72, 0.7]}
      ink={colours.ink}
      onWall={onWall}
      onPick={onPick}
    />
  ));
}

function CutFace({
  section,
  plane,
  spacing,
  hatch,
  colour,
  ink,
  onWall,
  onPick,
}: {
  section: PartSection;
  plane: Plane;
  spacing: number;
  hatch: THREE.Texture;
  colour: readonly number[];
  ink: string;
  onWall?(wall: Wall | null): void;
  onPick?(wall: Wall): void;
}) {
  const { faces, lines } = useMemo(() => {
    const faces = new THREE.BufferGeometry();
    faces.setAttribute('position', new THREE.BufferAttribute(section.triangles, 3));
    const { u, v } = frameOf(plane.normal);
    const p = section.triangles;
    const uv = new Float32Array((p.length / 3) * 2);
    for (let i = 0; i < p.length / 3; i++) {
      const at = (w: readonly number[]) => (p[3 * i] * w[0] + p[3 * i + 1] * w[1] + p[3 * i + 2] * w[2]) / spacing;
      uv.set([at(u), at(v)], 2 * i);
    }
    faces.setAttribute('uv', new THREE.BufferAttribute(uv, 2));
    const lines = new THREE.BufferGeometry();
    lines.setAttribute('position', new THREE.BufferAttribute(section.lines, 3));
    return { faces, lines };
  }, [section, plane, spacing]);
  useEffect(
    () => () => {
      faces.dispose();
      lines.dispose();
    },
    [faces, lines],
  );
  const wall = (e: ThreeEvent<PointerEvent | MouseEvent>) => wallAt(section.lines, [e.point.x, e.point.y, e.point.z], plane.normal);
  return (
    <>
      <mesh
        geometry={faces}
        renderOrder={1}
        onPointerMove={(e) => onWall?.(wall(e))}
        onPointerOut={() => onWall?.(null)}
        onClick={(e) => {
          if (e.delta > 4) return;
          const found = wall(e);
          if (!found || !onPick) return;
          e.stopPropagation();
          onPick(found);
        }}
      >
        <meshBasicMaterial
          color={`rgb(${colour.map((c) => Math.round(c * 255)).join(',')})`}
          map={hatch}
          side={THREE.DoubleSide}
          toneMapped={false}
        />
      </mesh>
      <lineSegments geometry={lines} renderOrder={2}>
        <lineBasicMaterial color={ink} />
      </lineSegments>
    </>
  );
}
