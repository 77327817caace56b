'use client';

import Box from '@mui/material/Box';
import { useColorScheme } from '@mui/material/styles';
import { Canvas, type ThreeEvent, useThree } from '@react-three/fiber';
import { EFFICACY } from '@wellmorph/core/light/exposure';
import type { Mat4 } from '@wellmorph/core/maths/mat4';
import type { Material } from '@wellmorph/core/pipeline/document';
import { memo, useCallback, useEffect, useMemo, useRef, useState } from 'react';
import * as THREE from 'three';
import './quiet';
import { NIGHT, PAPER } from '@/theme/theme';
import type { GpuPart } from '@/workers/protocol';
import { Corners, OPEN_AIR, SOLID } from './corners';
import { GroundShade, useGroundShade } from './ground-shade';
import { drawsWith, useSoftCorners } from './soft-corners';
import { type Stroking, useStroke } from './stroke';
import { Studio } from './studio';
import { boundsOf, Disc, FIELD, Ground, home, usePartGeometry, View } from './view';

/** A texture set at preview size, four bytes a texel, top row first. */
export interface SetPreview {
  size: number;
  baseColour: Uint8Array;
  orm: Uint8Array;
  /** What stands out, laid over what is baked, Y up; null where nothing does. */
  normal?: Uint8Array | null;
}

/** Luminance that this view shows as white, cd/m²: glowing parts are drawn against it. */
const WHITE = 1500;

function dataTexture(bytes: Uint8Array, size: number, colour: boolean): THREE.DataTexture {
  const t = new THREE.DataTexture(bytes, size, size, THREE.RGBAFormat);
  t.flipY = true;
  t.colorSpace = colour ? THREE.SRGBColorSpace : THREE.NoColorSpace;
  t.magFilter = THREE.LinearFilter;
  t.minFilter = THREE.LinearMipmapLinearFilter;
  t.generateMipmaps = true;
  t.needsUpdate = true;
  return t;
}

/** Rows turned over: a data texture takes the lowest first, and not every driver turns it itself. */
function turned(bytes: Uint8Array, size: number): Uint8Array {
  const out = new Uint8Array(bytes.length);
  for (let y = 0; y < size; y++) out.set(bytes.subarray(4 * size * y, 4 * size * (y + 1)), 4 * size * (size - 1 - y));
  return out;
}

/** The set as textures of a fixed size, refilled as it changes so that nothing is built again. */
function useSet(set: SetPreview | null): { map: THREE.DataTexture; orm: THREE.DataTexture; normal: THREE.DataTexture | null } | null {
  const invalidate = useThree((s) => s.invalidate);
  const size = set?.size ?? 0;
  const stands = !!set?.normal;
  const textures = useMemo(() => {
    if (size === 0) return null;
    const blank = (colour: boolean) => {
      const t = dataTexture(new Uint8Array(4 * size * size), size, colour);
      t.flipY = false;
      return t;
    };
    return { map: blank(true), orm: blank(false), normal: stands ? blank(false) : null };
  }, [size, stands]);
  useEffect(() => {
    if (!set || !textures) return;
    (textures.map.image.data as Uint8Array).set(turned(set.baseColour, set.size));
    (textures.orm.image.data as Uint8Array).set(turned(set.orm, set.size));
    if (set.normal && textures.normal) {
      (textures.normal.image.data as Uint8Array).set(turned(set.normal, set.size));
      textures.normal.needsUpdate = true;
    }
    textures.map.needsUpdate = true;
    textures.orm.needsUpdate = true;
    invalidate();
  }, [set, textures, invalidate]);
  useEffect(
    () => () => {
      textures?.map.dispose();
      textures?.orm.dispose();
      textures?.normal?.dispose();
    },
    [textures],
  );
  return textures;
}

interface Props {
  gpu: readonly GpuPart[];
  materialOf(part: string): Material | undefined;
  set: SetPreview | null;
  /** Addresses of the composed set, where it is of the piece as it is: shown in place of the preview once it is there. */
  colours: string | null;
  finish: string | null;
  /** Address of the normal map, Y up. */
  normalMap: string | null;
  onPick?(part: string): void;
  /** A brush drawn over the piece; with Shift held the view turns as ever. */
  stroking?: Stroking;
  /** Lines over a part, 6 numbers each, mm: the border of the print that is looked at. */
  border?: { part: string; lines: Float32Array } | null;
  /** Whether anything is printed on a part: then what is clear or glows is dressed in its set too. */
  isPrinted?(part: string): boolean;
}

/** The piece in its materials, physically shaded, on paper. A quick likeness; the picture itself is traced. */
export default memo(function Surfaced(props: Props) {
  const { mode } = useColorScheme();
  const night = mode === 'dark';
  const bounds = useMemo(() => boundsOf(props.gpu), [props.gpu]);
  const corners = useSoftCorners();
  const shade = useGroundShade(props.gpu, (part) => !isClear(props.materialOf(part)));
  return (
    <Box sx={{ position: 'absolute', inset: 0, touchAction: 'none' }} data-plate="surfaced">
      <Canvas
        frameloop="demand"
        dpr={[1, 2]}
        gl={{ antialias: true, toneMapping: THREE.NeutralToneMapping }}
        camera={{ fov: FIELD, near: bounds.radius * 0.02, far: bounds.radius * 40, position: home(bounds) }}
        onCreated={({ gl }) => drawsWith(gl.getContext())}
      >
        <Ground colour={night ? NIGHT.plate : PAPER.plate} />
        <Studio />
        <View bounds={bounds} gpu={props.gpu} />
        <Disc bounds={bounds} colour={night ? '#1d2a31' : '#e9e4d7'} />
        {shade && <GroundShade shade={shade} />}
        {corners && <Corners radius={bounds.radius} clip={null} />}
        <Parts {...props} />
      </Canvas>
    </Box>
  );
});

/** The brush, seen from where it is pressed: a circle of radius 1. */
const CIRCLE = new THREE.BufferGeometry().setFromPoints(
  Array.from({ length: 48 }, (_, i) => new THREE.Vector3(Math.cos((i * Math.PI) / 24), Math.sin((i * Math.PI) / 24), 0)),
);
const FORWARD = new THREE.Vector3(0, 0, 1);

function Parts({ gpu, materialOf, set, colours, finish, normalMap, onPick, stroking, border, isPrinted }: Props) {
  const preview = useSet(set);
  const map = usePicture(colours, true);
  const orm = usePicture(finish, false);
  const textures = useMemo(() => (map && orm ? { map, orm } : preview), [map, orm, preview]);
  const baked = usePicture(normalMap, false);
  const normals = (textures === preview ? preview?.normal : null) ?? baked;
  const ring = useRef<THREE.LineLoop>(null);
  const invalidate = useThree((s) => s.invalidate);
  const onOver = useCallback(
    (e: ThreeEvent<PointerEvent> | null) => {
      const loop = ring.current;
      if (!loop) return;
      loop.visible = e !== null;
      if (e?.face) {
        const normal = e.face.normal.clone().transformDirection(e.object.matrixWorld);
        loop.position.copy(e.point).addScaledVector(normal, 0.02 * loop.scale.x);
        loop.quaternion.setFromUnitVectors(FORWARD, normal);
      }
      invalidate();
    },
    [invalidate],
  );
  return (
    <>
      {gpu.map((p) => (
        <PartMesh
          key={p.id}
          part={p}
          material={materialOf(p.id)}
          textures={textures}
          normals={normals}
          onPick={onPick}
          stroking={stroking}
          onOver={onOver}
          isPrinted={isPrinted?.(p.id) ?? false}
        />
      ))}
      {border && <Border lines={border.lines} placements={gpu.find((p) => p.id === border.part)?.placements ?? []} />}
      {stroking?.radius !== undefined && (
        <lineLoop ref={ring} visible={false} scale={stroking.radius} geometry={CIRCLE} renderOrder={5}>
          <lineBasicMaterial color="#b23240" depthTest={false} />
        </lineLoop>
      )}
    </>
  );
}

/** Where a print ends, over the piece: seen through what stands before it, so that one behind isn’t lost. */
function Border({ lines, placements }: { lines: Float32Array; placements: readonly Mat4[] }) {
  const invalidate = useThree((s) => s.invalidate);
  const geometry = useMemo(() => new THREE.BufferGeometry().setAttribute('position', new THREE.BufferAttribute(lines, 3)), [lines]);
  useEffect(() => {
    invalidate();
    return () => {
      geometry.dispose();
      invalidate();
    };
  }, [geometry, invalidate]);
  return placements.map((placement, i) => (
    <lineSegments
      key={i}
      geometry={geometry}
      renderOrder={5}
      matrixAutoUpdate={false}
      matrix={new THREE.Matrix4().fromArray(placement as number[])}
    >
      <lineBasicMaterial color="#b23240" depthTest={false} transparent opacity={0.8} />
    </lineSegments>
  ));
}

/** A stored picture as a texture, unpacked away from the interface’s thread; null until it is there. */
function usePicture(url: string | null, colour: boolean): THREE.Texture | null {
  const [texture, setTexture] = useState<THREE.Texture | null>(null);
  const invalidate = useThree((s) => s.invalidate);
  useEffect(() => {
    setTexture(null);
    if (!url) return;
    let gone = false;
    const loader = new THREE.ImageBitmapLoader();
    loader.setOptions({ imageOrientation: 'flipY', colorSpaceConversion: 'none', premultiplyAlpha: 'none' });
    loader.load(url, (bitmap) => {
      if (gone) return;
      const t = new THREE.Texture(bitmap);
      t.flipY = false;
      if (colour) t.colorSpace = THREE.SRGBColorSpace;
      t.anisotropy = 4;
      t.generateMipmaps = true;
      t.needsUpdate = true;
      setTexture(t);
      invalidate();
    });
    return () => {
      gone = true;
    };
  }, [url, colour, invalidate]);
  useEffect(() => () => texture?.dispose(), [texture]);
  return texture;
}

/** What a material is drawn with whose colour and finish are in textures. */
const dress = ({ map, orm }: { map: THREE.Texture; orm: THREE.Texture }): THREE.MeshPhysicalMaterialParameters => ({
  color: '#ffffff',
  metalness: 1,
  roughness: 1,
  map,
  metalnessMap: orm,
  roughnessMap: orm,
});

const isClear = (m: Material | undefined): boolean => (m?.transmission ?? 0) > 0;

/** A material's own numbers, for parts without a set and for what a set doesn't carry. */
export function physical(m: Material | undefined): THREE.MeshPhysicalMaterialParameters {
  if (!m) return { color: '#b9b7b0', roughness: 0.6 };
  const colour = new THREE.Color().setRGB(m.colour[0], m.colour[1], m.colour[2], THREE.SRGBColorSpace);
  const clear = isClear(m);
  return {
    color: colour,
    metalness: m.metallic,
    roughness: m.roughness,
    ior: Math.min(2.333, m.ior),
    clearcoat: m.coat,
    clearcoatRoughness: m.coatRoughness,
    emissive: m.emission > 0 ? colour : new THREE.Color(0, 0, 0),
    emissiveIntensity: (m.emission * EFFICACY) / WHITE,
    // Real transmission draws the scene twice; a thin wall is as well shown by what it mirrors over what is behind.
    transparent: clear,
    opacity: clear ? 0.16 : 1,
    depthWrite: !clear,
    side: clear ? THREE.DoubleSide : THREE.FrontSide,
  };
}

function PartMesh({
  part,
  material,
  textures,
  normals,
  onPick,
  stroking,
  onOver,
  isPrinted,
}: {
  part: GpuPart;
  isPrinted: boolean;
  material: Material | undefined;
  textures: { map: THREE.Texture; orm: THREE.Texture } | null;
  normals: THREE.Texture | null;
  onPick?(part: string): void;
  stroking?: Stroking;
  /** Hears what a brush is over; null when it leaves. */
  onOver(e: ThreeEvent<PointerEvent> | null): void;
}) {
  const invalidate = useThree((s) => s.invalidate);
  const geometry = usePartGeometry(part);
  const own = useMemo(() => {
    const parameters = physical(material);
    const dressed =
      textures !== null &&
      part.uv !== undefined &&
      material !== undefined &&
      ((material.transmission === 0 && material.emission === 0) || material.layers.some((l) => l.on) || isPrinted);
    return new THREE.MeshPhysicalMaterial({
      ...parameters,
      ...(part.open && { side: THREE.DoubleSide }),
      ...(dressed && { ...dress(textures), aoMap: textures.orm }),
      ...(normals && part.uv && { normalMap: normals }),
    });
  }, [material, textures, normals, part.uv, part.open, isPrinted]);
  useEffect(() => {
    invalidate();
    return () => own.dispose();
  }, [own, invalidate]);
  const clear = isClear(material);
  const stroke = useStroke(part.id, stroking, () => true);
  const over = stroking && {
    onPointerMove(e: ThreeEvent<PointerEvent>) {
      onOver(e);
      stroke.onPointerMove?.(e);
    },
    onPointerOut: () => onOver(null),
  };
  return part.placements.map((placement, i) => (
    <group key={i} matrixAutoUpdate={false} matrix={new THREE.Matrix4().fromArray(placement as number[])}>
      <mesh
        geometry={geometry}
        material={own}
        renderOrder={clear ? 2 : 0}
        layers={clear ? OPEN_AIR : SOLID}
        {...stroke}
        {...over}
        onClick={(e) => {
          if (stroking || !onPick || e.delta > 4) return;
          e.stopPropagation();
          onPick(part.id);
        }}
      />
    </group>
  ));
}

/** One material by itself, on a ball. @param set its layers laid round it, where it has some */
export const Swatch = memo(function Swatch({ material, set }: { material: Material; set: SetPreview | null }) {
  const { mode } = useColorScheme();
  return (
    <Canvas
      frameloop="demand"
      dpr={[1, 2]}
      gl={{ antialias: true, toneMapping: THREE.NeutralToneMapping }}
      camera={{ fov: 28, position: [0, 0.5, 4.6] }}
    >
      <Ground colour={mode === 'dark' ? NIGHT.plate : PAPER.plate} />
      <Studio />
      <Ball material={material} set={set} />
    </Canvas>
  );
});

function Ball({ material, set }: { material: Material; set: SetPreview | null }) {
  const invalidate = useThree((s) => s.invalidate);
  const textures = useSet(set);
  const own = useMemo(
    () =>
      new THREE.MeshPhysicalMaterial({
        ...physical(material),
        ...(textures && dress(textures)),
      }),
    [material, textures],
  );
  useEffect(() => {
    invalidate();
    return () => own.dispose();
  }, [own, invalidate]);
  return (
    <mesh material={own}>
      <sphereGeometry args={[1, 64, 48]} />
    </mesh>
  );
}
