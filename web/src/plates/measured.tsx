'use client';

import { type ThreeEvent, useThree } from '@react-three/fiber';
import { FLOW_TONES, type PartView, type View } from '@wellmorph/core/inspect/views';
import { useEffect, useMemo } from 'react';
import * as THREE from 'three';
import { linear } from '@/shared/ramp';
import type { PAPER } from '@/theme/theme';
import type { DrawnView, GpuPart } from '@/workers/protocol';
import { usePartGeometry } from './view';

type Colours = typeof PAPER;

/** One part as a view shows it: values as colours, lines and points over it. */
export function MeasuredPart({
  part,
  view,
  mine,
  drawn,
  colours,
  edges,
  onProbe,
}: {
  part: GpuPart;
  view: View;
  mine: PartView | undefined;
  /** Its triangles with the colours of their values. */
  drawn: DrawnView | undefined;
  colours: Colours;
  edges?: boolean;
  /** The value under the pointer, or null where there is none. */
  onProbe?(value: number | null): void;
}) {
  const invalidate = useThree((s) => s.invalidate);
  const smooth = usePartGeometry(part);
  const coloured = useMemo(() => (drawn ? colouredGeometry(drawn) : null), [drawn]);
  const lines = useMemo(() => (mine?.lines && mine.lines.length > 0 ? lineGeometry(mine, view, colours) : null), [mine, view, colours]);
  const sides = useMemo(() => {
    if (!edges || view.kind === 'flow' || view.kind === 'reflection') return null;
    const g = new THREE.BufferGeometry();
    g.setAttribute('position', new THREE.BufferAttribute(part.edges, 3));
    return g;
  }, [edges, view.kind, part]);
  useEffect(() => () => sides?.dispose(), [sides]);
  const points = useMemo(() => (mine?.points && mine.points.length > 0 ? pointGeometry(mine, colours) : null), [mine, colours]);
  const material = useMemo(() => shaderFor(view, colours), [view, colours]);
  useEffect(() => () => coloured?.dispose(), [coloured]);
  useEffect(() => () => lines?.dispose(), [lines]);
  useEffect(() => () => points?.dispose(), [points]);
  useEffect(() => () => material?.dispose(), [material]);
  useEffect(invalidate);
  const probe = (e: ThreeEvent<PointerEvent>) => {
    if (!onProbe || !mine?.values || e.faceIndex == null) return;
    e.stopPropagation();
    const v = mine.values.subarray(3 * e.faceIndex, 3 * e.faceIndex + 3);
    onProbe((v[0] + v[1] + v[2]) / 3);
  };
  return part.placements.map((placement, i) => (
    <group key={i} matrixAutoUpdate={false} matrix={new THREE.Matrix4().fromArray(placement as number[])}>
      {coloured ? (
        <mesh geometry={coloured} onPointerMove={probe} onPointerOut={() => onProbe?.(null)}>
          <meshLambertMaterial
            vertexColors
            emissive="#ffffff"
            emissiveIntensity={0.12}
            side={THREE.DoubleSide}
            polygonOffset
            polygonOffsetFactor={1}
            polygonOffsetUnits={1}
          />
        </mesh>
      ) : (
        material && <mesh geometry={smooth} material={material} />
      )}
      {sides && (
        <lineSegments geometry={sides} renderOrder={1}>
          <lineBasicMaterial color={colours.ink} transparent opacity={0.14} />
        </lineSegments>
      )}
      {lines && (
        <lineSegments geometry={lines} renderOrder={2}>
          <lineBasicMaterial vertexColors transparent opacity={0.95} />
        </lineSegments>
      )}
      {points && (
        <points geometry={points} renderOrder={3}>
          <pointsMaterial vertexColors size={5} sizeAttenuation={false} />
        </points>
      )}
    </group>
  ));
}

function colouredGeometry({ position, normal, colour }: DrawnView): THREE.BufferGeometry {
  const g = new THREE.BufferGeometry();
  g.setAttribute('position', new THREE.BufferAttribute(position, 3));
  g.setAttribute('normal', new THREE.BufferAttribute(normal, 3));
  g.setAttribute('color', new THREE.BufferAttribute(colour, 3));
  return g;
}

/** Tones of edge flow: five that can be told apart on paper and at night. */
const TONES = ['#0C706F', '#A2650A', '#38588A', '#8A3F6B', '#4F6B2A'].slice(0, FLOW_TONES);

function lineGeometry(mine: PartView, view: View, colours: Colours): THREE.BufferGeometry {
  const g = new THREE.BufferGeometry();
  g.setAttribute('position', new THREE.BufferAttribute(mine.lines as Float32Array, 3));
  const values = mine.lineValues as Float32Array;
  const colour = new Float32Array(6 * values.length);
  const tones = TONES.map(linear);
  const over = linear(colours.over);
  for (let i = 0; i < values.length; i++) {
    const c = view.kind === 'flow' ? tones[values[i]] : over;
    colour.set(c, 6 * i);
    colour.set(c, 6 * i + 3);
  }
  g.setAttribute('color', new THREE.BufferAttribute(colour, 3));
  return g;
}

function pointGeometry(mine: PartView, colours: Colours): THREE.BufferGeometry {
  const g = new THREE.BufferGeometry();
  g.setAttribute('position', new THREE.BufferAttribute(mine.points as Float32Array, 3));
  const values = mine.pointValues as Float32Array;
  const colour = new Float32Array(3 * values.length);
  const [few, many] = [linear(colours.info), linear(colours.over)];
  for (let i = 0; i < values.length; i++) colour.set(values[i] < 4 ? few : many, 3 * i);
  g.setAttribute('color', new THREE.BufferAttribute(colour, 3));
  return g;
}

const VERTEX = /* glsl */ `
varying vec3 vNormal;
varying vec3 vFrom;
void main() {
  vec4 world = modelMatrix * vec4(position, 1.0);
  vNormal = normalize(mat3(modelMatrix) * normal);
  vFrom = cameraPosition - world.xyz;
  gl_Position = projectionMatrix * viewMatrix * world;
}`;

/** Bands of a striped room, mirrored: where the surface bends evenly they run evenly. */
const STRIPES = /* glsl */ `
uniform vec3 dark;
uniform vec3 light;
varying vec3 vNormal;
varying vec3 vFrom;
void main() {
  vec3 n = normalize(vNormal);
  vec3 r = reflect(-normalize(vFrom), n);
  float around = 0.5 + 0.5 * r.y;
  float s = sin(around * 75.0);
  float w = fwidth(around) * 75.0;
  float t = smoothstep(-w, w, s);
  // Stripes finer than a pixel are grey, not noise.
  t = mix(t, 0.5, smoothstep(1.2, 3.0, w));
  gl_FragColor = vec4(mix(dark, light, t), 1.0);
  #include <colorspace_fragment>
}`;

const FACING = /* glsl */ `
uniform vec3 dark;
uniform vec3 light;
varying vec3 vNormal;
varying vec3 vFrom;
void main() {
  float lit = 0.55 + 0.45 * abs(dot(normalize(vNormal), normalize(vFrom)));
  gl_FragColor = vec4((gl_FrontFacing ? light : dark) * lit, 1.0);
  #include <colorspace_fragment>
}`;

function shaderFor(view: View, colours: Colours): THREE.ShaderMaterial | null {
  if (view.kind !== 'reflection' && view.kind !== 'facing') return null;
  const stripes = view.kind === 'reflection';
  return new THREE.ShaderMaterial({
    vertexShader: VERTEX,
    fragmentShader: stripes ? STRIPES : FACING,
    uniforms: {
      dark: { value: new THREE.Color(stripes ? colours.ink : colours.over) },
      light: { value: new THREE.Color(stripes ? colours.sheet : '#cfe0d8') },
    },
    side: stripes ? THREE.FrontSide : THREE.DoubleSide,
    polygonOffset: true,
    polygonOffsetFactor: 1,
    polygonOffsetUnits: 1,
  });
}
