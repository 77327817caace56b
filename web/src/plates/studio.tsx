'use client';

import { useThree } from '@react-three/fiber';
import { useEffect } from 'react';
import * as THREE from 'three';

/**
 * A soft studio to be mirrored: paper below, light above, a window to the left and a narrow one behind. Drawn in numbers, so
 * that it needs no file.
 */
function studio(): THREE.DataTexture {
  const [w, h] = [64, 32];
  const data = new Float32Array(4 * w * h);
  for (let y = 0; y < h; y++)
    for (let x = 0; x < w; x++) {
      const up = 1 - (2 * (y + 0.5)) / h;
      let v = up > 0 ? 0.55 + 0.35 * up : 0.42 + 0.1 * up;
      if (x > 8 && x < 17 && up > 0.1 && up < 0.72) v = 5.5;
      if (x > 34 && x < 46 && up > -0.05 && up < 0.5) v = 1.5;
      if (x > 56 && x < 60 && up > 0 && up < 0.8) v = 4.5;
      // Row 0 of a texture is its lowest.
      data.set([v, 0.985 * v, 0.95 * v, 1], 4 * ((h - 1 - y) * w + x));
    }
  const t = new THREE.DataTexture(data, w, h, THREE.RGBAFormat, THREE.FloatType);
  t.mapping = THREE.EquirectangularReflectionMapping;
  t.magFilter = THREE.LinearFilter;
  t.minFilter = THREE.LinearFilter;
  t.needsUpdate = true;
  return t;
}

/** Lights what is drawn by the studio all round it. */
export function Studio({ intensity = 1 }: { intensity?: number }) {
  const { gl, scene, invalidate } = useThree();
  useEffect(() => {
    const source = studio();
    const generator = new THREE.PMREMGenerator(gl);
    const made = generator.fromEquirectangular(source);
    scene.environment = made.texture;
    generator.dispose();
    source.dispose();
    invalidate();
    return () => {
      scene.environment = null;
      made.dispose();
    };
  }, [gl, scene, invalidate]);
  useEffect(() => {
    scene.environmentIntensity = intensity;
    invalidate();
  }, [scene, intensity, invalidate]);
  return null;
}
