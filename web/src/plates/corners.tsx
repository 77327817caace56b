'use client';

import { useFrame, useThree } from '@react-three/fiber';
import { useEffect, useMemo, useRef, useState } from 'react';
import * as THREE from 'three';
import type { GTAOPass } from 'three/addons/postprocessing/GTAOPass.js';
import type { FullScreenQuad } from 'three/addons/postprocessing/Pass.js';
import { afterFirstLook } from './first-look';

/** What shades corners and is shaded in them lies in this layer as well: solid parts, neither glass nor lines. */
const LAYER = 1;
export const SOLID = new THREE.Layers();
SOLID.enable(LAYER);
/** Where glass lies: it shades no corner. */
export const OPEN_AIR = new THREE.Layers();

/** So long nothing moves before corners are shaded, ms. */
const STILL = 120;
/** How far from a corner its shade reaches, in radii of the piece, and how much of it is drawn. */
const [REACH, STRENGTH] = [0.12, 1];

interface Passes {
  GTAOPass: typeof GTAOPass;
  FullScreenQuad: typeof FullScreenQuad;
}

/**
 * Shades corners and gaps by how much of what is round them they see: ground-truth ambient occlusion (Jimenez, Wu, Pesce & Jarabo 2016) by
 * the drawing library, laid over the picture once the view stands still. While it turns the picture is drawn as it is.
 */
export function Corners({ radius, clip }: { radius: number; clip: THREE.Plane[] | null }) {
  const { gl, scene, camera, size, viewport, invalidate } = useThree();
  const [passes, setPasses] = useState<Passes | null>(null);
  useEffect(() => {
    let gone = false;
    const back = afterFirstLook(() => {
      void Promise.all([import('three/addons/postprocessing/GTAOPass.js'), import('three/addons/postprocessing/Pass.js')]).then(
        ([a, b]) => {
          if (!gone) setPasses({ GTAOPass: a.GTAOPass, FullScreenQuad: b.FullScreenQuad });
        },
        // Without it the picture stays as it is drawn.
        () => {},
      );
    });
    return () => {
      gone = true;
      back();
    };
  }, []);
  const own = useMemo(() => (passes ? make(passes, scene) : null), [passes, scene]);
  useEffect(() => {
    invalidate();
    return () => {
      own?.pass.dispose();
      own?.over.dispose();
      own?.quad.dispose();
    };
  }, [own, invalidate]);
  useEffect(() => {
    own?.pass.setSize(size.width * viewport.dpr, size.height * viewport.dpr);
    own?.pass.updateGtaoMaterial({
      radius: REACH * radius,
      thickness: REACH * radius,
      distanceExponent: 1,
      distanceFallOff: 0.6,
      samples: 16,
    });
    own?.pass.updatePdMaterial({ lumaPhi: 10, depthPhi: radius, normalPhi: 3, radius: 6, rings: 2, samples: 16 });
    invalidate();
  }, [own, size, viewport.dpr, radius, invalidate]);
  const still = useRef(false);
  const timer = useRef<ReturnType<typeof setTimeout>>(undefined);
  useEffect(() => () => clearTimeout(timer.current), []);
  useFrame(() => {
    gl.render(scene, camera);
    if (!own) return;
    clearTimeout(timer.current);
    if (still.current) {
      still.current = false;
      lay(own, gl, camera as THREE.PerspectiveCamera, clip);
      return;
    }
    timer.current = setTimeout(() => {
      still.current = true;
      invalidate();
    }, STILL);
  }, 1);
  return null;
}

function make({ GTAOPass, FullScreenQuad }: Passes, scene: THREE.Scene) {
  const eye = new THREE.PerspectiveCamera();
  const pass = new GTAOPass(scene, eye, 2, 2);
  // It is laid over what is drawn already.
  pass.output = -1 as typeof pass.output;
  const over = new THREE.ShaderMaterial({
    uniforms: { seen: { value: pass.gtaoMap }, strength: { value: STRENGTH } },
    vertexShader: 'varying vec2 at; void main() { at = uv; gl_Position = vec4(position.xy, 0.0, 1.0); }',
    fragmentShader: `
      varying vec2 at;
      uniform sampler2D seen;
      uniform float strength;
      void main() { gl_FragColor = vec4(vec3(mix(1.0, texture2D(seen, at).r, strength)), 1.0); }`,
    blending: THREE.CustomBlending,
    blendSrc: THREE.ZeroFactor,
    blendDst: THREE.SrcColorFactor,
    blendSrcAlpha: THREE.ZeroFactor,
    blendDstAlpha: THREE.OneFactor,
    depthTest: false,
    depthWrite: false,
    toneMapped: false,
  });
  return { eye, pass, over, quad: new FullScreenQuad(over) };
}

function lay(own: ReturnType<typeof make>, gl: THREE.WebGLRenderer, camera: THREE.PerspectiveCamera, clip: THREE.Plane[] | null) {
  const { eye, pass, quad } = own;
  eye.copy(camera, false);
  eye.layers.set(LAYER);
  const [clears, planes] = [gl.autoClear, gl.clippingPlanes];
  gl.clippingPlanes = clip ?? [];
  const unused = null as unknown as THREE.WebGLRenderTarget;
  pass.render(gl, unused, unused, 0, false);
  gl.clippingPlanes = planes;
  gl.setRenderTarget(null);
  gl.autoClear = false;
  quad.render(gl);
  gl.autoClear = clears;
}
