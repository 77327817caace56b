import { readdirSync, readFileSync } from 'node:fs';
import { createRequire } from 'node:module';
import { dirname, join } from 'node:path';
import {
  BoxGeometry,
  type BufferGeometry,
  CapsuleGeometry,
  CylinderGeometry,
  ExtrudeGeometry,
  LatheGeometry,
  Path,
  Shape,
  TorusGeometry,
  Vector2,
} from 'three';
import { RoundedBoxGeometry } from 'three/examples/jsm/geometries/RoundedBoxGeometry.js';
import { RECIPES } from '../../../demo/src/pieces';
import { readModel } from '../../src/io/read';
import { merge } from '../../src/mesh/merge';
import { makeMesh, type PolyMesh, triangleCount } from '../../src/mesh/polymesh';
import { transform } from '../../src/mesh/transform';
import { weld } from '../../src/mesh/weld';
import { formAsset } from '../../src/pipeline/form';
import { testKit } from '../../test/kit';
import { asTriangles, MOST_VERTICES } from './library';

/** A mesh to be laid out by both, as nothing but triangles. */
export interface BenchMesh {
  name: string;
  of: 'demo' | 'open' | 'made up';
  mesh: PolyMesh;
}

const none = () => {
  throw new Error('pieces of recipes need no stored mesh');
};

/** The demo’s pieces as they are formed, all their parts where they stand. */
export async function demoMeshes(): Promise<BenchMesh[]> {
  const kit = await testKit();
  return Object.entries(RECIPES).flatMap(([name, make]): BenchMesh[] => {
    const { parts } = formAsset(make(), 'low', none, undefined, kit);
    const mesh = asTriangles(merge(parts.map((p) => transform(p.mesh, p.placements[0]))));
    return mesh.positions.length / 3 <= MOST_VERTICES ? [{ name, of: 'demo', mesh }] : [];
  });
}

/** Open models of the registry (`@webxr-input-profiles/assets`, MIT), welded as an import is. */
export async function openMeshes(most = 12): Promise<BenchMesh[]> {
  const home = join(dirname(createRequire(import.meta.url).resolve('@webxr-input-profiles/assets/package.json')), 'dist/profiles');
  const out: BenchMesh[] = [];
  for (const folder of readdirSync(home).sort())
    for (const file of folder.includes('.')
      ? []
      : readdirSync(join(home, folder)).filter((f) => f.endsWith('.glb') && !f.includes('right'))) {
      if (out.length >= most) return out;
      const model = await readModel(file, readFileSync(join(home, folder, file)));
      const mesh = asTriangles(weld(merge(model.parts.map((p) => transform(p.mesh, p.placements[0]))), { within: 1e-3 }));
      const known = out.some((m) => triangleCount(m.mesh) === triangleCount(mesh));
      if (!known && triangleCount(mesh) > 500 && mesh.positions.length / 3 <= MOST_VERTICES) out.push({ name: folder, of: 'open', mesh });
    }
  return out;
}

const fromGeometry = (geometry: BufferGeometry): PolyMesh => {
  const at = geometry.getAttribute('position');
  const index = geometry.index ? [...geometry.index.array] : Array.from({ length: at.count }, (_, i) => i);
  const mesh = makeMesh({
    positions: Float64Array.from(at.array),
    faceVert: index,
    faceStart: Array.from({ length: index.length / 3 + 1 }, (_, t) => 3 * t),
  });
  return asTriangles(weld(mesh, { within: 1e-4 }));
};

const bevelled = { bevelEnabled: true, bevelThickness: 2, bevelSize: 2, bevelSegments: 3, curveSegments: 8 };

/** A letter of straight strokes, as tall as 100. */
function letter(strokes: readonly (readonly [number, number])[]): Shape {
  return new Shape(strokes.map(([x, y]) => new Vector2(x, y)));
}

function washer(): Shape {
  const shape = new Shape();
  shape.absarc(0, 0, 60, 0, 2 * Math.PI);
  const hole = new Path();
  hole.absarc(0, 0, 25, 0, 2 * Math.PI, true);
  shape.holes.push(hole);
  return shape;
}

/** Ten made-up hard-surface meshes: what such models are put together from. */
export function madeUpMeshes(): BenchMesh[] {
  const turned = [
    [0, 0],
    [40, 0],
    [44, 4],
    [44, 20],
    [30, 36],
    [30, 90],
    [38, 104],
    [38, 110],
    [34, 114],
    [0, 114],
  ].map(([x, y]) => new Vector2(x, y));
  const made: Record<string, PolyMesh> = {
    'bevelled box': fromGeometry(
      new ExtrudeGeometry(
        letter([
          [0, 0],
          [160, 0],
          [160, 90],
          [0, 90],
        ]),
        { ...bevelled, bevelSegments: 1, depth: 60 },
      ),
    ),
    'rounded box': fromGeometry(new RoundedBoxGeometry(120, 80, 60, 6, 12)),
    'letters F and L': merge([
      fromGeometry(
        new ExtrudeGeometry(
          letter([
            [0, 0],
            [20, 0],
            [20, 40],
            [50, 40],
            [50, 58],
            [20, 58],
            [20, 82],
            [60, 82],
            [60, 100],
            [0, 100],
          ]),
          { ...bevelled, depth: 14 },
        ),
      ),
      transform(
        fromGeometry(
          new ExtrudeGeometry(
            letter([
              [0, 0],
              [60, 0],
              [60, 18],
              [20, 18],
              [20, 100],
              [0, 100],
            ]),
            { ...bevelled, depth: 14 },
          ),
        ),
        [1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0, 90, 0, 0, 1],
      ),
    ]),
    capsule: fromGeometry(new CapsuleGeometry(30, 80, 12, 32)),
    'turned mesh': fromGeometry(new LatheGeometry(turned, 48)),
    ring: fromGeometry(new TorusGeometry(60, 14, 24, 64)),
    washer: fromGeometry(new ExtrudeGeometry(washer(), { ...bevelled, depth: 8, curveSegments: 40 })),
    'long strips': merge(
      Array.from({ length: 12 }, (_, i) =>
        transform(fromGeometry(new BoxGeometry(400, 8, 3)), [1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0, 0, 12 * i, 0, 1]),
      ),
    ),
    'pipe and flange': merge([
      fromGeometry(new CylinderGeometry(20, 20, 200, 40, 8, true)),
      transform(fromGeometry(new CylinderGeometry(46, 46, 12, 40, 1)), [1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0, 0, 106, 0, 1]),
    ]),
    'crate of rivets': merge([
      fromGeometry(new BoxGeometry(200, 120, 140)),
      ...Array.from({ length: 64 }, (_, i) =>
        transform(fromGeometry(new CapsuleGeometry(4, 3, 4, 10)), [
          1,
          0,
          0,
          0,
          0,
          1,
          0,
          0,
          0,
          0,
          1,
          0,
          -90 + 12 * (i % 16),
          -50 + 33 * (i >> 4),
          71,
          1,
        ]),
      ),
    ]),
  };
  return Object.entries(made).map(([name, mesh]) => ({ name, of: 'made up', mesh: asTriangles(mesh) }));
}
