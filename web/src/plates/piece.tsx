'use client';

import Box from '@mui/material/Box';
import { useColorScheme } from '@mui/material/styles';
import { Canvas, type ThreeEvent, useThree } from '@react-three/fiber';
import type { MeasureKind } from '@wellmorph/core/form/measure';
import type { Reference } from '@wellmorph/core/form/reference';
import type { PartSection, Wall } from '@wellmorph/core/inspect/section';
import type { Plane } from '@wellmorph/core/mesh/slice';
import type { Material } from '@wellmorph/core/pipeline/document';
import type { SolvedShot } from '@wellmorph/core/shot/shot';
import { drawnOpacity } from '@wellmorph/core/surface/material';
import { memo, useEffect, useMemo, useState } from 'react';
import * as THREE from 'three';
import { NIGHT, PAPER } from '@/theme/theme';
import type { GpuPart, Work } from '@/workers/protocol';
import './quiet';
import { Behind } from './behind';
import { type CameLook, useCame } from './came';
import { Corners, OPEN_AIR, SOLID } from './corners';
import { CutFaces, clipOf } from './cut-faces';
import { pieceArrived, usePieceComing } from './first-look';
import { GroundShade, useGroundShade } from './ground-shade';
import { Limits } from './limits';
import { Dimensions, Measuring } from './lines';
import { type Lookout, LookoutPost } from './lookout';
import { MeasuredPart } from './measured';
import { markAt, type PlaceMarks } from './place-marks';
import { drawsWith, useSoftCorners } from './soft-corners';
import { type Stroking, useStroke } from './stroke';
import { Studio } from './studio';
import { boundsOf, Disc, FIELD, Ground, home, View as Orbit, usePartGeometry } from './view';

type Vec3 = readonly [number, number, number];
type Measured = Work['view']['answer'];

export interface PieceProps {
  gpu: readonly GpuPart[];
  /** Parts that only help others, drawn as lines. */
  aids?: readonly GpuPart[];
  /** Part id → material. */
  materialOf(part: string): Material | undefined;
  edges?: boolean;
  /** Materials that are textured as they came are drawn so: the layouts are the ones their pictures lie on. */
  came?: boolean;
  /** A checker instead of materials: squares of this many texels at the texture's size. */
  checker?: { size: number; texels: number };
  /** Address of a tangent-space normal map, Y up. */
  normalMap?: string | null;
  occlusionMap?: string | null;
  /** Address of a picture shown as it is in place of materials. */
  picture?: string | null;
  selectedPart?: string | null;
  selectedIsland?: { part: string; island: number } | null;
  onPick?(part: string, island: number | null): void;
  /** Faces shown as chosen, by part. */
  regions?: readonly { part: string; faces: readonly number[] }[];
  /** A click on a face, with its place in the part's own space; takes the place of `onPick`. */
  onFace?(part: string, face: number, point: [number, number, number], copy: number): void;
  /** A brush drawn over the piece; with Shift held the view turns as ever. */
  stroking?: Stroking;
  /** Places in a part's own space to show and fly to. */
  marks?: PlaceMarks;
  /** A shot whose limits of sharpness stand across the piece. */
  limits?: SolvedShot;
  /** Where it is first seen from, degrees round from the front. */
  turn?: number;
  /** A line with its length beside the piece. */
  dimension?: boolean;
  plain?: boolean;
  /** Where the layout is cut is drawn as lines. */
  borders?: boolean;
  /** Parts whose seams drawn by hand are shown in place of its own: those of the document as it stands, where what is shown is older. */
  hand?: readonly GpuPart[];
  /** Places shown without flying there. */
  dots?: PlaceMarks;
  /** Pictures behind the piece. */
  references?: readonly Reference[];
  /** What is measured, and places taken so far, in the asset's space. */
  measuring?: { kind: MeasureKind; places: readonly Vec3[] } | null;
  onPlace?(place: Vec3): void;
  /** What is measured on the surface, in place of materials. */
  view?: Measured | null;
  /** Lines round the parts, hidden where the piece hides them. */
  cage?: readonly GpuPart[];
  /** Parts left out of the view, drawn as lines. */
  behind?: readonly GpuPart[];
  /** A plane that cuts it open, and what it cuts. */
  section?: { plane: Plane; cut: readonly PartSection[] } | null;
  onWall?(wall: Wall | null): void;
  onWallPick?(wall: Wall): void;
  /** The value of the view under the pointer. */
  onProbe?(value: number | null): void;
  /** Where it can be asked how the piece is seen. */
  lookout?: Lookout;
}

/**
 * The real thing on paper: turn it, look close, pick a part or an island. Draws only when something changed, and is not even
 * looked at again while its own properties stay the same: a drawing takes the processor from whatever is being computed.
 */
export default memo(function Piece(props: PieceProps) {
  const { mode } = useColorScheme();
  const night = mode === 'dark';
  const colours = night ? NIGHT : PAPER;
  const bounds = useMemo(() => boundsOf(props.gpu), [props.gpu]);
  const [there, setThere] = useState(false);
  usePieceComing(!there);
  const plane = props.section?.plane;
  const clip = useMemo(() => (plane ? [clipOf(plane)] : null), [plane]);
  const corners = useSoftCorners();
  const shade = useGroundShade(props.gpu, (part) => !isClear(props.materialOf(part)));
  return (
    <Box sx={{ position: 'absolute', inset: 0, touchAction: 'none' }} data-plate="piece">
      <Canvas
        frameloop="demand"
        dpr={[1, 2]}
        gl={{ antialias: true, toneMapping: THREE.NeutralToneMapping }}
        camera={{ fov: FIELD, near: bounds.radius * 0.02, far: bounds.radius * 40, position: home(bounds) }}
        onCreated={({ gl }) => {
          gl.setClearColor(colours.plate);
          gl.localClippingEnabled = true;
          drawsWith(gl.getContext());
          // Its first picture is made in the frame that follows.
          requestAnimationFrame(() =>
            requestAnimationFrame(() => {
              setThere(true);
              pieceArrived();
            }),
          );
        }}
      >
        <Ground colour={colours.plate} />
        <Studio intensity={night ? 0.65 : 0.85} />
        <directionalLight position={[-0.8, 1.4, 1]} intensity={1.2} />
        {props.lookout && <LookoutPost into={props.lookout} gpu={props.gpu} />}
        <Orbit bounds={bounds} marks={props.marks} gpu={props.gpu} turn={props.turn} />
        <Disc bounds={bounds} colour={night ? '#1d2a31' : '#e9e4d7'} />
        {shade && <GroundShade shade={shade} />}
        {props.view ? (
          props.gpu.map((p) => (
            <MeasuredPart
              key={p.id}
              part={p}
              view={(props.view as Measured).view}
              mine={props.view?.view.parts.find((v) => v.id === p.id)}
              drawn={props.view?.drawn[p.id]}
              colours={colours}
              edges={props.edges}
              onProbe={props.onProbe}
            />
          ))
        ) : (
          <Parts {...props} colours={colours} clip={clip} />
        )}
        {corners && !props.view && <Corners radius={bounds.radius} clip={clip} />}
        {props.section && (
          <CutFaces
            {...props.section}
            radius={bounds.radius}
            materialOf={props.materialOf}
            colours={colours}
            onWall={props.onWall}
            onPick={props.onWallPick}
          />
        )}
        {props.cage?.map((a) => (
          <Aid key={a.id} part={a} colour={colours.info} hidden />
        ))}
        {props.behind?.map((a) => (
          <Aid key={a.id} part={a} colour={colours.ink} />
        ))}
        {props.aids?.map((a) => (
          <Aid key={a.id} part={a} colour={colours.info} />
        ))}
        <Marks {...props} colour={colours.over} radius={bounds.radius} />
        {props.limits && <Limits shot={props.limits} radius={bounds.radius} colours={colours} />}
        {props.references?.map((r) => (
          <Behind key={r.id} picture={r} bounds={bounds} />
        ))}
        {props.measuring && <Measuring {...props.measuring} radius={bounds.radius} colours={colours} />}
        {props.dimension && <Dimensions gpu={props.gpu} part={props.selectedPart ?? null} bounds={bounds} colours={colours} />}
      </Canvas>
    </Box>
  );
});

/** A cutter or another helper: its edges, seen through the piece unless they are hidden by it. */
function Aid({ part, colour, hidden = false }: { part: GpuPart; colour: string; hidden?: boolean }) {
  const lines = useMemo(() => {
    const g = new THREE.BufferGeometry();
    g.setAttribute('position', new THREE.BufferAttribute(part.edges, 3));
    return g;
  }, [part]);
  useEffect(() => () => lines.dispose(), [lines]);
  return part.placements.map((m, i) => (
    <lineSegments key={i} geometry={lines} matrixAutoUpdate={false} matrix={new THREE.Matrix4().fromArray(m as number[])}>
      <lineBasicMaterial color={colour} transparent opacity={hidden ? 0.55 : 0.4} depthTest={hidden} />
    </lineSegments>
  ));
}

function checkerTexture(squares: number): THREE.Texture {
  const canvas = document.createElement('canvas');
  canvas.width = canvas.height = 64;
  const c = canvas.getContext('2d') as CanvasRenderingContext2D;
  c.fillStyle = '#F8F4E9';
  c.fillRect(0, 0, 64, 64);
  c.fillStyle = '#4E8C88';
  c.fillRect(0, 0, 32, 32);
  c.fillRect(32, 32, 32, 32);
  const t = new THREE.CanvasTexture(canvas);
  t.wrapS = t.wrapT = THREE.RepeatWrapping;
  t.repeat.set(squares / 2, squares / 2);
  t.colorSpace = THREE.SRGBColorSpace;
  t.anisotropy = 8;
  return t;
}

/** All parts, sharing one copy of each picture on the card. */
function Parts(props: PieceProps & { colours: typeof PAPER; clip: THREE.Plane[] | null }) {
  const { checker, gpu } = props;
  const map = useMemo(() => (checker ? checkerTexture(checker.size / checker.texels) : null), [checker?.size, checker?.texels]);
  const normals = useTexture(props.normalMap, FLAT);
  const occlusion = useTexture(props.occlusionMap, OPEN);
  const picture = useTexture(props.picture, OPEN, THREE.SRGBColorSpace);
  const { materialOf, came, plain } = props;
  const shown = useMemo(
    () => (came && !plain && !checker ? [...new Set(gpu.flatMap((p) => materialOf(p.id) ?? []))].filter((m) => m.texturing) : NO_MATERIALS),
    [came, plain, checker, gpu, materialOf],
  );
  const looks = useCame(shown);
  useEffect(() => () => map?.dispose(), [map]);
  return gpu.map((part) => (
    <PartView key={part.id} part={part} {...props} map={map} normals={normals} occlusion={occlusion} drawn={picture} looks={looks} />
  ));
}

const NO_MATERIALS: readonly Material[] = [];

interface Pictures {
  map: THREE.Texture | null;
  normals: THREE.Texture | null;
  occlusion: THREE.Texture | null;
  /** Shown as it is. */
  drawn: THREE.Texture | null;
  /** Materials that are drawn as they came, by id. */
  looks: ReadonlyMap<string, CameLook>;
}

/** Maps that change nothing: they stand in until the real ones are there, so that no shader has to be built again then. */
const FLAT = single(128, 128, 255);
const OPEN = single(255, 255, 255);

function single(r: number, g: number, b: number): THREE.Texture {
  const t = new THREE.DataTexture(new Uint8Array([r, g, b, 255]), 1, 1);
  t.needsUpdate = true;
  return t;
}

/** A map as a texture, decoded away from the interface's thread; `neutral` until it is there, null where none is wanted. */
function useTexture(
  url: string | null | undefined,
  neutral: THREE.Texture,
  space: THREE.ColorSpace = THREE.NoColorSpace,
): THREE.Texture | null {
  const [texture, setTexture] = useState<THREE.Texture | null>(null);
  const invalidate = useThree((s) => s.invalidate);
  useEffect(() => {
    if (!url) {
      setTexture(null);
      return;
    }
    let gone = false;
    const loader = new THREE.ImageBitmapLoader();
    loader.setOptions({ imageOrientation: 'flipY', colorSpaceConversion: 'none', premultiplyAlpha: 'none' });
    loader.load(url, (bitmap) => {
      if (gone) return;
      const t = new THREE.Texture(bitmap);
      // The bitmap is the right way up already, and data is not to be converted.
      t.flipY = false;
      t.colorSpace = space;
      t.generateMipmaps = true;
      t.needsUpdate = true;
      setTexture(t);
      invalidate();
    });
    return () => {
      gone = true;
    };
  }, [url, space, invalidate]);
  useEffect(() => () => texture?.dispose(), [texture]);
  return url === undefined ? null : (texture ?? neutral);
}

const isClear = (m: Material | undefined): boolean => m !== undefined && drawnOpacity(m) < 1;

/** As the library draws it. */
const PLAINLY = () => {};

/**
 * Glass is seen by its rims and by what it mirrors: a wall that is looked along hides more of what lies behind it, and a highlight hides
 * it all.
 */
function glassy(shader: THREE.WebGLProgramParametersWithUniforms) {
  shader.fragmentShader = shader.fragmentShader.replace(
    '#include <opaque_fragment>',
    `float along = 1.0 - abs(dot(normal, normalize(vViewPosition)));
    float mirrored = max(totalSpecular.r, max(totalSpecular.g, totalSpecular.b));
    diffuseColor.a = clamp(max(mix(diffuseColor.a, 0.85, along * along * along), mirrored), 0.0, 1.0);
    #include <opaque_fragment>`,
  );
}

function PartView({
  part,
  materialOf,
  edges,
  checker,
  map,
  normals,
  occlusion,
  drawn,
  looks,
  selectedPart,
  selectedIsland,
  onPick,
  onFace,
  stroking,
  onPlace,
  regions,
  plain,
  borders,
  hand,
  colours,
  clip,
}: PieceProps & Pictures & { part: GpuPart; colours: typeof PAPER; clip: THREE.Plane[] | null }) {
  const invalidate = useThree((s) => s.invalidate);
  const geometry = usePartGeometry(part);
  const lines = useMemo(() => {
    const g = new THREE.BufferGeometry();
    g.setAttribute('position', new THREE.BufferAttribute(part.edges, 3));
    return g;
  }, [part]);
  const island = useMemo(() => {
    if (!selectedIsland || selectedIsland.part !== part.id || !part.island) return null;
    const index: number[] = [];
    for (let t = 0; t < part.island.length; t++)
      if (part.island[t] === selectedIsland.island) index.push(part.index[3 * t], part.index[3 * t + 1], part.index[3 * t + 2]);
    const g = geometry.clone();
    g.setIndex(index);
    return g;
  }, [part, selectedIsland, geometry]);
  const region = useMemo(() => {
    const faces = new Set(regions?.filter((r) => r.part === part.id).flatMap((r) => r.faces));
    if (faces.size === 0) return null;
    const index: number[] = [];
    for (let t = 0; t < part.face.length; t++)
      if (faces.has(part.face[t])) index.push(part.index[3 * t], part.index[3 * t + 1], part.index[3 * t + 2]);
    const g = geometry.clone();
    g.setIndex(index);
    return g;
  }, [part, regions, geometry]);
  const own = hand?.find((h) => h.id === part.id) ?? part;
  const seams = useLines(own.seams);
  const closed = useLines(own.closed);
  const cuts = useLines(borders ? part.borders : undefined);
  useEffect(() => () => region?.dispose(), [region]);
  useEffect(() => () => lines.dispose(), [lines]);
  useEffect(invalidate);
  const m = materialOf(part.id);
  const chosen = selectedPart === part.id;
  // Without a layout a picture has nowhere to lie.
  const look = m && part.uv ? looks.get(m.id) : undefined;
  const opacity = m ? drawnOpacity(m) : 1;
  const clear = !checker && !plain && (look ? look.transparent === true : isClear(m));
  const colour = checker ? '#ffffff' : plain ? '#e8e1cf' : m ? `rgb(${m.colour.map((c) => Math.round(c * 255)).join(',')})` : '#b9b7b0';
  // What the section has cut away is not there to be clicked.
  const isThere = (e: ThreeEvent<MouseEvent>) => !clip?.some((c) => c.distanceToPoint(e.point) < 0);
  const stroke = useStroke(part.id, stroking, isThere);
  const pick = (e: ThreeEvent<MouseEvent>, copy: number) => {
    if (stroking || (!onPick && !onFace && !onPlace) || e.delta > 4 || !isThere(e)) return;
    e.stopPropagation();
    if (onPlace) {
      onPlace(nearestCorner(e));
      return;
    }
    if (onFace) {
      if (e.faceIndex == null) return;
      const local = e.object.worldToLocal(e.point.clone());
      onFace(part.id, part.face[e.faceIndex], [local.x, local.y, local.z], copy);
      return;
    }
    if (!onPick) return;
    onPick(part.id, part.island && e.faceIndex !== undefined && e.faceIndex !== null ? part.island[e.faceIndex] : null);
  };
  return (
    <>
      {part.placements.map((placement, i) => (
        <group key={i} matrixAutoUpdate={false} matrix={new THREE.Matrix4().fromArray(placement as number[])}>
          <mesh geometry={geometry} onClick={(e) => pick(e, i)} {...stroke} renderOrder={clear ? 2 : 0} layers={clear ? OPEN_AIR : SOLID}>
            <meshStandardMaterial
              key={`${Boolean(drawn)}${Boolean(map)}${Boolean(normals)}${Boolean(occlusion)}${clear}${Boolean(part.open)}${look ? Object.keys(look) : ''}`}
              color={drawn ? '#000000' : colour}
              map={part.uv ? map : null}
              normalMap={part.uv ? normals : null}
              aoMap={part.uv ? occlusion : null}
              metalness={checker || plain ? 0 : (m?.metallic ?? 0)}
              roughness={checker || plain ? 0.75 : Math.max(0.3, m?.roughness ?? 0.6)}
              emissive={drawn ? '#ffffff' : !plain && !checker && m && m.emission > 0 ? colour : '#000000'}
              emissiveMap={part.uv ? drawn : null}
              emissiveIntensity={drawn ? 1 : 0.55}
              transparent={clear}
              opacity={clear ? opacity : 1}
              onBeforeCompile={clear ? glassy : PLAINLY}
              depthWrite={!clear}
              side={clear || clip || part.open ? THREE.DoubleSide : THREE.FrontSide}
              clippingPlanes={clip}
              polygonOffset
              polygonOffsetFactor={1}
              polygonOffsetUnits={1}
              {...look}
            />
          </mesh>
          {(edges || chosen) && part.edges.length > 0 && (
            <lineSegments geometry={lines} renderOrder={1}>
              <lineBasicMaterial
                color={chosen ? colours.accent : colours.ink}
                transparent
                opacity={chosen ? 0.85 : 0.28}
                clippingPlanes={clip}
              />
            </lineSegments>
          )}
          {region && (
            <mesh geometry={region} renderOrder={3}>
              <meshBasicMaterial color={colours.accent} transparent opacity={0.6} depthWrite={false} clippingPlanes={clip} />
            </mesh>
          )}
          {cuts && (
            <lineSegments geometry={cuts} renderOrder={3}>
              <lineBasicMaterial color={colours.ink} />
            </lineSegments>
          )}
          {seams && (
            <lineSegments geometry={seams} renderOrder={4}>
              <lineBasicMaterial color={colours.over} />
            </lineSegments>
          )}
          {closed && (
            <lineSegments geometry={closed} renderOrder={4}>
              <lineBasicMaterial color={colours.info} />
            </lineSegments>
          )}
          {island && (
            <mesh geometry={island} renderOrder={3}>
              <meshBasicMaterial color={colours.accent} transparent opacity={0.55} depthWrite={false} />
            </mesh>
          )}
        </group>
      ))}
    </>
  );
}

/** Segments as a geometry, 6 numbers each; null where there are none. */
function useLines(segments: Float32Array | undefined): THREE.BufferGeometry | null {
  const geometry = useMemo(() => {
    if (!segments || segments.length === 0) return null;
    const g = new THREE.BufferGeometry();
    g.setAttribute('position', new THREE.BufferAttribute(segments, 3));
    return g;
  }, [segments]);
  useEffect(() => () => geometry?.dispose(), [geometry]);
  return geometry;
}

function Marks({ marks = [], dots = [], gpu, colour, radius }: PieceProps & { colour: string; radius: number }) {
  return [...marks, ...dots].map(({ part, points }) =>
    points.map((p, i) => (
      <mesh key={`${part} ${i}`} position={markAt(gpu, part, p)} renderOrder={5}>
        <sphereGeometry args={[radius * 0.011, 12, 8]} />
        <meshBasicMaterial color={colour} depthTest={false} transparent />
      </mesh>
    )),
  );
}

/** The place that was hit, or a corner of the triangle when the pointer is within a few pixels of one. */
function nearestCorner(e: ThreeEvent<MouseEvent>): Vec3 {
  const hit = e.point;
  const mesh = e.object as THREE.Mesh<THREE.BufferGeometry>;
  const position = mesh.geometry.getAttribute('position');
  // What one pixel is at that distance, seen through this lens on a plate some 600 px high.
  const px = (2 * e.distance * Math.tan((FIELD * Math.PI) / 360)) / 600;
  let best = hit;
  let off = 8 * px;
  for (const i of e.face ? [e.face.a, e.face.b, e.face.c] : []) {
    const corner = mesh.localToWorld(new THREE.Vector3().fromBufferAttribute(position as THREE.BufferAttribute, i));
    const d = corner.distanceTo(hit);
    if (d < off) [best, off] = [corner, d];
  }
  return [best.x, best.y, best.z];
}
