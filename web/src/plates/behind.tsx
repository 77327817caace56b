'use client';

import { useThree } from '@react-three/fiber';
import { type Reference, viewAxes } from '@wellmorph/core/form/reference';
import { useEffect, useMemo, useState } from 'react';
import * as THREE from 'three';
import type { Box3 } from './view';

/** A picture standing behind the piece as its view sees it, in true millimetres. Seen from its own side only. */
export function Behind({ picture, bounds }: { picture: Reference; bounds: Box3 }) {
  const [texture, setTexture] = useState<THREE.Texture | null>(null);
  const invalidate = useThree((s) => s.invalidate);
  useEffect(() => {
    let gone = false;
    new THREE.TextureLoader().load(`/api/blobs/${picture.blob}`, (t) => {
      if (gone) {
        t.dispose();
        return;
      }
      t.colorSpace = THREE.SRGBColorSpace;
      setTexture(t);
      invalidate();
    });
    return () => {
      gone = true;
    };
  }, [picture.blob, invalidate]);
  useEffect(() => () => texture?.dispose(), [texture]);
  useEffect(invalidate);
  const geometry = useMemo(() => {
    const { across, up, eye } = viewAxes(picture.view);
    const [w, h] = [picture.widthPx * picture.mmPerPx, picture.heightPx * picture.mmPerPx];
    // As far back as the piece goes, and a little farther.
    const depths = [bounds.min, bounds.max].map((p) => p.x * eye[0] + p.y * eye[1] + p.z * eye[2]);
    const back = Math.min(...depths) - bounds.radius * 0.02;
    const corner = (x: number, y: number) => [0, 1, 2].map((k) => across[k] * x + up[k] * y + eye[k] * back);
    const [x0, y0] = [picture.x, picture.y];
    const corners = [corner(x0, y0), corner(x0 + w, y0), corner(x0 + w, y0 + h), corner(x0, y0 + h)];
    const g = new THREE.BufferGeometry();
    g.setAttribute('position', new THREE.Float32BufferAttribute(corners.flat(), 3));
    g.setAttribute('uv', new THREE.Float32BufferAttribute([0, 0, 1, 0, 1, 1, 0, 1], 2));
    g.setIndex([0, 1, 2, 0, 2, 3]);
    return g;
  }, [picture, bounds]);
  useEffect(() => () => geometry.dispose(), [geometry]);
  if (!texture) return null;
  return (
    <mesh geometry={geometry} renderOrder={-1}>
      <meshBasicMaterial map={texture} transparent opacity={picture.opacity} depthWrite={false} toneMapped={false} />
    </mesh>
  );
}
