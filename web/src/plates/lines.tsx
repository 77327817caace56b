'use client';

import { Line } from '@react-three/drei/core/Line';
import { useThree } from '@react-three/fiber';
import { type MeasureKind, measure } from '@wellmorph/core/form/measure';
import { mapVec } from '@wellmorph/core/maths/vec3';
import { figure, inUnit } from '@wellmorph/core/units/lengths';
import { useEffect, useMemo, useState } from 'react';
import * as THREE from 'three';
import { useLengthUnit } from '@/session/context';
import { MONO, type PAPER } from '@/theme/theme';
import type { GpuPart } from '@/workers/protocol';
import { type Box3, boundsOf } from './view';

type Vec3 = readonly [number, number, number];
type Colours = typeof PAPER;

/** The height of the piece beside it, or width, height and depth of the part that is chosen. */
export function Dimensions({
  gpu,
  part,
  bounds,
  colours,
}: {
  gpu: readonly GpuPart[];
  part: string | null;
  bounds: Box3;
  colours: Colours;
}) {
  const mine = useMemo(() => {
    const chosen = gpu.filter((g) => g.id === part);
    return chosen.length > 0 ? boundsOf(chosen) : null;
  }, [gpu, part]);
  const r = bounds.radius;
  if (!mine) {
    const [x, z] = [bounds.min.x - r * 0.16, bounds.max.z * 0.5];
    return <Span a={[x, bounds.min.y, z]} b={[x, bounds.max.y, z]} tick={[1, 0, 0]} radius={r} colours={colours} />;
  }
  const off = r * 0.1;
  const { min, max } = mine;
  return (
    <>
      <Span a={[min.x - off, min.y, max.z]} b={[min.x - off, max.y, max.z]} tick={[1, 0, 0]} radius={r} colours={colours} />
      <Span a={[min.x, min.y, max.z + off]} b={[max.x, min.y, max.z + off]} tick={[0, 0, -1]} radius={r} colours={colours} />
      <Span a={[max.x + off, min.y, max.z]} b={[max.x + off, min.y, min.z]} tick={[-1, 0, 0]} radius={r} colours={colours} />
    </>
  );
}

/** A dimension line with its figure across it. */
function Span({ a, b, tick, radius, colours }: { a: Vec3; b: Vec3; tick: Vec3; radius: number; colours: Colours }) {
  const unit = useLengthUnit();
  const t = radius * 0.035;
  const ends = [a, b].map((p) => [mapVec(p, (x, k) => x - tick[k] * t), mapVec(p, (x, k) => x + tick[k] * t * 2.4)]);
  const long = Math.hypot(...a.map((x, k) => x - b[k]));
  const upright = Math.abs(a[1] - b[1]) > long * 0.7;
  const middle = mapVec(a, (x, k) => (x + b[k]) / 2);
  return (
    <>
      <Line points={[a, b]} color={colours.ink} lineWidth={1} />
      {ends.map((points, i) => (
        <Line key={i} points={points} color={colours.ink} lineWidth={1} />
      ))}
      <Label text={inUnit(long, unit, 1)} at={middle} upright={upright} height={Math.min(radius * 0.085, long * 0.32)} colours={colours} />
    </>
  );
}

/** Places taken so far, the lines between them, and what they come to. */
export function Measuring({
  kind,
  places,
  radius,
  colours,
}: {
  kind: MeasureKind;
  places: readonly Vec3[];
  radius: number;
  colours: Colours;
}) {
  const unit = useLengthUnit();
  const result = measure(kind, places);
  const at = places[kind === 'distance' ? places.length - 1 : 1];
  return (
    <>
      {places.map((p, i) => (
        <mesh key={i} position={[p[0], p[1], p[2]]} renderOrder={7}>
          <sphereGeometry args={[radius * 0.012, 12, 8]} />
          <meshBasicMaterial color={colours.accent} depthTest={false} transparent />
        </mesh>
      ))}
      {places.length > 1 && <Line points={[...places]} color={colours.accent} lineWidth={2} depthTest={false} />}
      {result && at && (
        <Label
          text={`${kind === 'radius' ? 'R ' : ''}${result.unit === 'mm' ? inUnit(result.value, unit, 2) : `${figure(result.value, 2)}°`}`}
          at={[at[0], at[1] + radius * 0.08, at[2]]}
          upright={false}
          height={radius * 0.085}
          colours={colours}
        />
      )}
    </>
  );
}

function Label({ text, at, upright, height, colours }: { text: string; at: Vec3; upright: boolean; height: number; colours: Colours }) {
  const label = useLabel(text, colours);
  if (!label) return null;
  return (
    <sprite position={[at[0], at[1], at[2]]} scale={[height * label.aspect, height, 1]} renderOrder={8}>
      <spriteMaterial map={label.texture} depthTest={false} toneMapped={false} rotation={upright ? Math.PI / 2 : 0} />
    </sprite>
  );
}

/** Words as a texture, in the sheet's own type, once that has been loaded. */
function useLabel(text: string, colours: typeof PAPER): { texture: THREE.Texture; aspect: number } | null {
  const [label, setLabel] = useState<{ texture: THREE.Texture; aspect: number } | null>(null);
  const invalidate = useThree((s) => s.invalidate);
  useEffect(() => {
    let gone = false;
    const font = `500 44px ${MONO}`;
    void document.fonts.load(font).then(() => {
      if (gone) return;
      const canvas = document.createElement('canvas');
      const c = canvas.getContext('2d') as CanvasRenderingContext2D;
      c.font = font;
      canvas.width = Math.ceil(c.measureText(text).width) + 36;
      canvas.height = 64;
      c.fillStyle = colours.plate;
      c.fillRect(0, 0, canvas.width, 64);
      c.font = font;
      c.fillStyle = colours.ink;
      c.textBaseline = 'middle';
      c.fillText(text, 18, 34);
      const texture = new THREE.CanvasTexture(canvas);
      texture.colorSpace = THREE.SRGBColorSpace;
      setLabel({ texture, aspect: canvas.width / 64 });
      invalidate();
    });
    return () => {
      gone = true;
    };
  }, [text, colours, invalidate]);
  useEffect(() => () => label?.texture.dispose(), [label]);
  return label;
}
