import type { Lamp } from '../src/light/lamps';
import { IDENTITY } from '../src/maths/mat4';
import { normalise, scale, type Vec3 } from '../src/maths/vec3';
import type { PolyMesh } from '../src/mesh/polymesh';
import { makeMesh } from '../src/mesh/polymesh';
import { buildScene, plainSceneMaterial, type Scene, type SceneInput, type SceneMaterial } from '../src/render/scene';
import type { Camera } from '../src/shot/shot';
import { viewOf } from '../src/shot/shot';
import { type Material, PLAIN } from '../src/surface/material';

export const sceneMaterial = (more: Partial<Material>): SceneMaterial =>
  plainSceneMaterial({ ...PLAIN, id: 'm', name: 'M', touched: true, ...more });

/** A lamp of radiance `L` whose middle is `centre`, shining along `towards`. Sizes in mm. */
export function lampAt(centre: Vec3, towards: Vec3, width: number, height: number, L = 1): Lamp {
  const n = normalise(towards);
  const side: Vec3 = Math.abs(n[1]) < 0.9 ? [0, 1, 0] : [1, 0, 0];
  const u = normalise([side[1] * n[2] - side[2] * n[1], side[2] * n[0] - side[0] * n[2], side[0] * n[1] - side[1] * n[0]]);
  const v: Vec3 = [n[1] * u[2] - n[2] * u[1], n[2] * u[0] - n[0] * u[2], n[0] * u[1] - n[1] * u[0]];
  return { name: 'lamp', centre, u: scale(u, width / 2), v: scale(v, height / 2), radiance: [L, L, L] };
}

/** A pinhole looking from a place along azimuth and elevation, seeing `tan` to each side. */
export function pinhole(position: Vec3, azimuth: number, elevation: number, tan: number): Camera {
  return { position, ...viewOf(azimuth, elevation), tanX: tan, tanY: tan, focus: 1000, lensRadius: 0 };
}

export function scene(
  meshes: readonly { mesh: PolyMesh; material: SceneMaterial }[],
  more: Partial<SceneInput> & { camera: Camera },
): Scene {
  return buildScene({
    parts: meshes.map(({ mesh }, i) => ({ mesh, placements: [IDENTITY], material: i })),
    materials: meshes.map((m) => m.material),
    textures: [],
    lamps: [],
    environment: [0, 0, 0],
    backdrop: null,
    backdropColour: [1, 1, 1],
    background: 'paper',
    ...more,
  });
}

/** A flat disk of `sides` sides in the plane y = `y`, facing down (−1) or up (1). */
export function disk(radius: number, y: number, facing: 1 | -1, sides = 128): PolyMesh {
  const positions: number[] = [];
  for (let i = 0; i < sides; i++) {
    const a = (-facing * 2 * Math.PI * i) / sides;
    positions.push(radius * Math.cos(a), y, radius * Math.sin(a));
  }
  return makeMesh({ positions, faceStart: [0, sides], faceVert: Array.from({ length: sides }, (_, i) => i) });
}

/** A sphere of `n` by `2n` facets, smooth. */
export function ball(radius: number, centre: Vec3, n = 24): PolyMesh {
  const positions: number[] = [];
  for (let i = 0; i <= n; i++)
    for (let j = 0; j < 2 * n; j++) {
      const [t, p] = [(Math.PI * i) / n, (Math.PI * j) / n];
      positions.push(
        centre[0] + radius * Math.sin(t) * Math.cos(p),
        centre[1] + radius * Math.cos(t),
        centre[2] - radius * Math.sin(t) * Math.sin(p),
      );
    }
  const faceVert: number[] = [];
  const faceStart = [0];
  // One vertex at each pole, so that it is closed.
  const at = (i: number, j: number) => 2 * n * i + (i === 0 || i === n ? 0 : j % (2 * n));
  for (let i = 0; i < n; i++)
    for (let j = 0; j < 2 * n; j++) {
      const [a, b, c, d] = [at(i, j), at(i + 1, j), at(i + 1, j + 1), at(i, j + 1)];
      faceVert.push(...(i === 0 ? [a, b, c] : i === n - 1 ? [a, b, d] : [a, b, c, d]));
      faceStart.push(faceVert.length);
    }
  return makeMesh({ positions, faceStart, faceVert });
}
