'use client';

import { useThree } from '@react-three/fiber';
import { useLayoutEffect } from 'react';
import * as THREE from 'three';
import { LEVELS, SIDE } from './studio-levels';
import { LIGHT } from './studio-light';

/** Daylight is a little warm on paper. */
const TINT = [1, 0.985, 0.95];

let light: THREE.CompressedCubeTexture | null = null;

/**
 * The light all round as the drawing library wants it, ready blurred: its own blurring takes three seconds in which the page stands still
 * where a processor draws.
 */
function studioLight(): THREE.CompressedCubeTexture {
  if (light) return light;
  const bytes = Uint8Array.from(atob(LIGHT), (c) => c.charCodeAt(0));
  const halves = new Uint16Array(bytes.buffer);
  const faces = Array.from({ length: 6 }, () => ({
    width: SIDE,
    height: SIDE,
    mipmaps: [] as { data: Uint16Array; width: number; height: number }[],
  }));
  const one = THREE.DataUtils.toHalfFloat(1);
  let at = 0;
  for (let level = 0; level < LEVELS; level++) {
    const side = SIDE >> level;
    for (const face of faces) {
      const data = new Uint16Array(4 * side * side);
      for (let i = 0; i < side * side; i++) {
        const v = THREE.DataUtils.fromHalfFloat(halves[at++]);
        data.set([...TINT.map((t) => THREE.DataUtils.toHalfFloat(t * v)), one], 4 * i);
      }
      face.mipmaps.push({ data, width: side, height: side });
    }
  }
  // Levels of its own is what this kind of texture is for; that they hold plain half floats is as good.
  const format = THREE.RGBAFormat as unknown as THREE.CompressedPixelFormat;
  light = new THREE.CompressedCubeTexture(faces as unknown as THREE.CompressedTextureImageData[], format, THREE.HalfFloatType);
  light.minFilter = THREE.LinearMipmapLinearFilter;
  light.colorSpace = THREE.LinearSRGBColorSpace;
  Object.assign(light, { isPMREMTexture: true, name: 'studio' });
  light.needsUpdate = true;
  return light;
}

/** Lights what is drawn by the studio all round it. */
export function Studio({ intensity = 1 }: { intensity?: number }) {
  const { scene, invalidate } = useThree();
  // Before anything is drawn: shaders are built for it.
  useLayoutEffect(() => {
    scene.environment = studioLight();
    scene.environmentIntensity = intensity;
    invalidate();
    return () => {
      scene.environment = null;
    };
  }, [scene, intensity, invalidate]);
  return null;
}
