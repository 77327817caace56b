'use client';

import { useThree } from '@react-three/fiber';
import { isKtx2 } from '@wellmorph/core/io/head';
import type { Material } from '@wellmorph/core/pipeline/document';
import { drawnOpacity } from '@wellmorph/core/surface/material';
import {
  isClearTexturing,
  isColour,
  placed,
  type Slot,
  type TextureUse,
  type Texturing,
  textureIn,
  type Wrap,
} from '@wellmorph/core/surface/texturing';
import { useEffect, useMemo, useState } from 'react';
import * as THREE from 'three';
import { useSession } from '@/session/context';
import type { Pool } from '@/workers/pool';

/** What a material that is textured as it came is drawn with. */
export type CameLook = Pick<
  THREE.MeshStandardMaterialParameters,
  | 'map'
  | 'normalMap'
  | 'roughnessMap'
  | 'metalnessMap'
  | 'emissiveMap'
  | 'aoMap'
  | 'alphaMap'
  | 'color'
  | 'roughness'
  | 'metalness'
  | 'emissive'
  | 'aoMapIntensity'
  | 'alphaTest'
  | 'transparent'
  | 'opacity'
  | 'side'
  | 'vertexColors'
> & { normalScale?: [number, number] };

/** Slots that the plate draws, and what they are there. */
const DRAWN = {
  baseColour: 'map',
  normal: 'normalMap',
  roughness: 'roughnessMap',
  metallic: 'metalnessMap',
  emission: 'emissiveMap',
  occlusion: 'aoMap',
} as const satisfies Partial<Record<Slot, keyof CameLook>>;

const WRAP: Record<Wrap, THREE.Wrapping> = {
  repeat: THREE.RepeatWrapping,
  mirror: THREE.MirroredRepeatWrapping,
  clamp: THREE.ClampToEdgeWrapping,
};

const keyOf = (use: TextureUse): string =>
  JSON.stringify([use.picture, isColour(use.slot), use.layout, use.offset, use.turn, use.scale, use.wrap, use.nearest]);

/** How a use lies on its layout, v up, as the matrix that a texture is drawn through. */
function laid(use: TextureUse): THREE.Matrix3 {
  const [o, x, y] = [placed(use, 0, 0), placed(use, 1, 0), placed(use, 0, 1)];
  return new THREE.Matrix3().set(x[0] - o[0], y[0] - o[0], o[0], x[1] - o[1], y[1] - o[1], o[1], 0, 0, 1);
}

/** A stored picture as it is, bottom row first; what the browser can’t read is unpacked by a worker. */
async function bitmapOf(blob: string, pool: Pool): Promise<ImageBitmap> {
  const answer = await fetch(`/api/blobs/${blob}`);
  if (!answer.ok) throw new Error(`no picture ${blob}`);
  const as = { imageOrientation: 'flipY', colorSpaceConversion: 'none', premultiplyAlpha: 'none' } as const;
  const bytes = new Uint8Array(await answer.arrayBuffer());
  if (!isKtx2(bytes)) return createImageBitmap(new Blob([bytes]), as);
  const { width, height, rgba } = await pool.run('texels', { name: blob, bytes });
  return createImageBitmap(new ImageData(rgba, width, height), as);
}

/** A picture as a texture laid as a use says; data are not converted. */
function textureOf(use: TextureUse, bitmap: ImageBitmap): THREE.Texture {
  const t = new THREE.Texture(bitmap);
  t.flipY = false;
  t.colorSpace = isColour(use.slot) ? THREE.SRGBColorSpace : THREE.NoColorSpace;
  [t.wrapS, t.wrapT] = (use.wrap ?? ['repeat', 'repeat']).map((w) => WRAP[w]);
  if (use.nearest) t.magFilter = THREE.NearestFilter;
  t.anisotropy = 8;
  t.channel = use.layout;
  t.matrixAutoUpdate = false;
  t.matrix.copy(laid(use));
  t.needsUpdate = true;
  return t;
}

const drawnUses = (t: Texturing): TextureUse[] =>
  (Object.keys(DRAWN) as (keyof typeof DRAWN)[]).flatMap((slot) => textureIn(t, slot) ?? []).concat(separateAlpha(t) ?? []);
/** Alpha that lies in a picture of its own. */
function separateAlpha(t: Texturing): TextureUse | undefined {
  const [alpha, base] = [textureIn(t, 'alpha'), textureIn(t, 'baseColour')];
  return alpha && !(base && alpha.picture === base.picture && alpha.channel === 3) ? alpha : undefined;
}

/**
 * What each material that is textured as it came is drawn with, by id, once its pictures are there; each is decoded once, away from the
 * interface’s thread. One that can’t be shown leaves its material’s numbers in view.
 */
export function useCame(materials: readonly Material[]): ReadonlyMap<string, CameLook> {
  const invalidate = useThree((s) => s.invalidate);
  const { pool } = useSession().bench;
  // Equal uses are one object as long as nothing of them changes, so that nothing is decoded again.
  const wanted = useMemo(() => {
    const uses = new Map<string, TextureUse>();
    for (const m of materials) if (m.texturing) for (const u of drawnUses(m.texturing)) uses.set(keyOf(u), u);
    return JSON.stringify([...uses].sort(([a], [b]) => (a < b ? -1 : 1)));
  }, [materials]);
  const [textures, setTextures] = useState<ReadonlyMap<string, THREE.Texture>>(NONE);
  useEffect(() => {
    let gone = false;
    const uses = JSON.parse(wanted) as [string, TextureUse][];
    const made = new Map<string, THREE.Texture>();
    const bitmaps = new Map<string, Promise<ImageBitmap>>();
    const load = (blob: string): Promise<ImageBitmap> => {
      const known = bitmaps.get(blob);
      if (known) return known;
      const loading = bitmapOf(blob, pool);
      bitmaps.set(blob, loading);
      return loading;
    };
    void Promise.allSettled(uses.map(async ([key, use]) => made.set(key, textureOf(use, await load(use.picture))))).then(() => {
      if (gone) for (const t of made.values()) t.dispose();
      else {
        setTextures(made);
        invalidate();
      }
    });
    return () => {
      gone = true;
      for (const t of made.values()) t.dispose();
    };
  }, [wanted, invalidate, pool]);
  return useMemo(
    () => new Map(materials.flatMap((m) => (m.texturing ? [[m.id, lookOf(m.texturing, textures)] as const] : []))),
    [materials, textures],
  );
}

const NONE: ReadonlyMap<string, THREE.Texture> = new Map();

function lookOf(t: Texturing, textures: ReadonlyMap<string, THREE.Texture>): CameLook {
  const [r, g, b, a] = t.baseColour;
  const look: CameLook = {
    color: new THREE.Color(r, g, b),
    roughness: t.roughness,
    metalness: t.metallic,
    emissive: new THREE.Color(...t.emission),
    aoMapIntensity: t.occlusionStrength,
    normalScale: [t.normalScale, t.normalScale],
    alphaTest: t.alpha === 'mask' ? t.cutoff : 0,
    transparent: isClearTexturing(t),
    opacity: (t.alpha === 'opaque' ? 1 : a) * drawnOpacity({ transmission: t.transmission ?? 0 }),
    side: t.twoSided ? THREE.DoubleSide : THREE.FrontSide,
    vertexColors: t.vertexColours,
  };
  for (const [slot, name] of Object.entries(DRAWN) as [Slot, (typeof DRAWN)[keyof typeof DRAWN]][]) {
    const use = textureIn(t, slot);
    const texture = use && textures.get(keyOf(use));
    if (texture) look[name] = texture;
  }
  const alpha = separateAlpha(t);
  const texture = alpha && textures.get(keyOf(alpha));
  if (texture) look.alphaMap = texture;
  return look;
}
