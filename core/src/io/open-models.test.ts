import { readdirSync, readFileSync } from 'node:fs';
import { createRequire } from 'node:module';
import { dirname, join } from 'node:path';
import { type Node, WebIO } from '@gltf-transform/core';
import { ALL_EXTENSIONS } from '@gltf-transform/extensions';
import type { ManifoldToplevel } from 'manifold-3d';
import { beforeAll, describe, expect, it } from 'vitest';
import { testKit } from '../../test/kit';
import { areaOf, boundsOf, isWatertight, volumeOf } from '../mesh/measures';
import { triangleCount } from '../mesh/polymesh';
import { transform } from '../mesh/transform';
import { readModel } from './read';

/**
 * Open models of a general-purpose package (`@webxr-input-profiles/assets`, MIT), made by others with other programs: nested nodes with
 * scales and mirrors, normals, layouts, pictures. Counted again here from the raw accessors by the open standard's own library, and for
 * closed ones by the solids library.
 */
const home = join(dirname(createRequire(import.meta.url).resolve('@webxr-input-profiles/assets/package.json')), 'dist/profiles');
const files = readdirSync(home)
  .filter((d) => d.startsWith('generic-'))
  .flatMap((d) => readdirSync(join(home, d)).flatMap((f) => (f.endsWith('.glb') ? [join(d, f)] : [])));

interface Counted {
  triangles: number;
  area: number;
  min: number[];
  max: number[];
  /** Corners of all triangles where they stand, mm, of each primitive of each node. */
  soups: Float64Array[];
}

/** Everything as it stands in the scene, from the accessors and the library's own world matrices. */
async function counted(bytes: Uint8Array): Promise<Counted> {
  const document = await new WebIO().registerExtensions(ALL_EXTENSIONS).readBinary(bytes);
  const out: Counted = { triangles: 0, area: 0, min: [Infinity, Infinity, Infinity], max: [-Infinity, -Infinity, -Infinity], soups: [] };
  const visit = (node: Node) => {
    const m = node.getWorldMatrix();
    const turned = m[0] * (m[5] * m[10] - m[6] * m[9]) - m[4] * (m[1] * m[10] - m[2] * m[9]) + m[8] * (m[1] * m[6] - m[2] * m[5]);
    for (const p of node.getMesh()?.listPrimitives() ?? []) {
      const [position, indices] = [p.getAttribute('POSITION'), p.getIndices()];
      if (!position || p.getMode() !== 4) continue;
      const soup: number[] = [];
      for (let i = 0; i < (indices?.getCount() ?? position.getCount()); i += 3) {
        const raw = [0, 1, 2].map((k) => position.getElement(indices ? indices.getScalar(i + k) : i + k, []));
        // A triangle with two corners in one place is none.
        if (new Set(raw.map((x) => x.join())).size < 3) continue;
        const at = raw.map(([x, y, z]) => [0, 1, 2].map((k) => 1000 * (m[k] * x + m[4 + k] * y + m[8 + k] * z + m[12 + k])));
        const [u, v] = [1, 2].map((c) => [0, 1, 2].map((k) => at[c][k] - at[0][k]));
        out.area += Math.hypot(u[1] * v[2] - u[2] * v[1], u[2] * v[0] - u[0] * v[2], u[0] * v[1] - u[1] * v[0]) / 2;
        out.triangles++;
        // Under a mirror faces run the other way (glTF 2.0 §3.7.4).
        for (const c of turned < 0 ? at.reverse() : at) {
          soup.push(...c);
          for (let k = 0; k < 3; k++) {
            out.min[k] = Math.min(out.min[k], c[k]);
            out.max[k] = Math.max(out.max[k], c[k]);
          }
        }
      }
      out.soups.push(Float64Array.from(soup));
    }
    for (const child of node.listChildren()) visit(child);
  };
  for (const child of document.getRoot().listScenes()[0].listChildren()) visit(child);
  return out;
}

describe('open models from elsewhere', () => {
  let solids: ManifoldToplevel;
  beforeAll(async () => {
    solids = (await testKit()).solids as ManifoldToplevel;
  });
  /** Volume by the solids library; null where it is no solid to it. */
  const solidVolume = (soup: Float64Array): number | null => {
    const known = new Map<string, number>();
    const points: number[] = [];
    const index = Uint32Array.from({ length: soup.length / 3 }, (_, i) => {
      const at = [soup[3 * i], soup[3 * i + 1], soup[3 * i + 2]].map((x) => Math.fround(x));
      const key = at.join();
      const n = known.get(key) ?? points.push(...at) / 3 - 1;
      known.set(key, n);
      return n;
    });
    try {
      const solid = solids.Manifold.ofMesh(new solids.Mesh({ numProp: 3, vertProperties: Float32Array.from(points), triVerts: index }));
      const volume = solid.volume();
      solid.delete();
      return volume;
    } catch {
      return null;
    }
  };

  it('are there, enough of them', () => expect(files.length).toBeGreaterThan(20));

  let solid = 0;
  it.each(files)('%s: triangles, size, area and volume are those of an independent count', async (file) => {
    const bytes = new Uint8Array(readFileSync(join(home, file)));
    const [model, theirs] = [await readModel(file.replace(/.*\//, ''), bytes), await counted(bytes)];
    const stands = model.parts.flatMap((p) => p.placements.map((m) => transform(p.mesh, m)));
    expect(stands.reduce((n, m) => n + triangleCount(m), 0)).toBe(theirs.triangles);
    const boxes = stands.map(boundsOf);
    const size = Math.max(...[0, 1, 2].map((k) => theirs.max[k] - theirs.min[k]));
    for (let k = 0; k < 3; k++) {
      expect(Math.abs(Math.min(...boxes.map((b) => b.min[k])) - theirs.min[k])).toBeLessThan(1e-5 * size);
      expect(Math.abs(Math.max(...boxes.map((b) => b.max[k])) - theirs.max[k])).toBeLessThan(1e-5 * size);
    }
    expect(stands.reduce((a, m) => a + areaOf(m), 0) / theirs.area).toBeCloseTo(1, 5);
    // Of what is closed, the volume; parts and primitives come in the same order.
    if (stands.length !== theirs.soups.length) return;
    for (const mesh of stands.filter(isWatertight)) {
      const volumes = theirs.soups.map(solidVolume).filter((v) => v !== null);
      const nearest = Math.min(...volumes.map((v) => Math.abs(volumeOf(mesh) / v - 1)));
      if (volumes.length === 0) continue;
      solid++;
      expect(nearest).toBeLessThan(1e-4);
    }
  });
  it('some of them are closed', () => expect(solid).toBeGreaterThan(0));
});
