import { readFileSync } from 'node:fs';
import bunny from 'bunny';
import draco3d from 'draco3d';
import { BufferAttribute, BufferGeometry, DoubleSide, Ray, Vector3 } from 'three';
import { MeshBVH } from 'three-mesh-bvh';
import { random } from '../src/maths/random';
import { MOST, RayBatch } from '../src/rays/batch';
import { RayQuery } from '../src/rays/query';
import { buildTree } from '../src/rays/tree';
import { median, timed } from './calibrate';

/** How the library is used: its surface-area strategy, which makes its best trees. Its own default builds faster and is slower to ask. */
export const LIBRARY = { strategy: 2, verbose: false } as object;

/** Rays off a surface, 6 numbers each. */
export interface Rays {
  data: Float64Array;
  count: number;
}

/**
 * Cosine-weighted rays from places on a surface into what it encloses, so that nearly all of them meet something: at places chosen at
 * random, or along the mesh as a bake goes through its texels, eight from each place.
 */
export function raysOff(soup: Float32Array, count: number, inOrder: boolean): Rays {
  const next = random(7);
  const triangles = soup.length / 9;
  const order = alongCurve(soup);
  const data = new Float64Array(6 * count);
  const places = Math.ceil(count / 8);
  for (let i = 0; i < count; i++) {
    const t = 9 * (inOrder ? order[Math.floor((Math.floor(i / 8) * triangles) / places)] : Math.floor(next() * triangles));
    let [a, b] = [next(), next()];
    if (a + b > 1) [a, b] = [1 - a, 1 - b];
    const p = [0, 1, 2].map((k) => soup[t + k] + a * (soup[t + 3 + k] - soup[t + k]) + b * (soup[t + 6 + k] - soup[t + k]));
    const e = [0, 1, 2].map((k) => soup[t + 3 + k] - soup[t + k]);
    const f = [0, 1, 2].map((k) => soup[t + 6 + k] - soup[t + k]);
    const n = [e[2] * f[1] - e[1] * f[2], e[0] * f[2] - e[2] * f[0], e[1] * f[0] - e[0] * f[1]];
    const l = Math.hypot(...n) || 1;
    // A point on a sphere round the tip of the normal.
    const [z, turn] = [2 * next() - 1, 2 * Math.PI * next()];
    const r = Math.sqrt(1 - z * z);
    const d = [n[0] / l + r * Math.cos(turn), n[1] / l + r * Math.sin(turn), n[2] / l + z];
    const m = Math.hypot(...d) || 1;
    for (let k = 0; k < 3; k++) {
      data[6 * i + k] = p[k] + (1e-4 * n[k]) / l;
      data[6 * i + 3 + k] = d[k] / m;
    }
  }
  return { data, count };
}

/** Triangles along a space-filling curve, as neighbours lie beside each other in a layout. */
function alongCurve(soup: Float32Array): Uint32Array {
  const [low, high] = [Math.min(...extremes(soup)), Math.max(...extremes(soup))];
  const spread = (x: number) => {
    let v = 0;
    for (let b = 0; b < 10; b++) v += ((x >> b) & 1) * 8 ** b;
    return v;
  };
  const key = Float64Array.from({ length: soup.length / 9 }, (_, t) =>
    [0, 1, 2].reduce((sum, k) => sum + 2 ** k * spread(Math.floor(((soup[9 * t + k] - low) / (high - low)) * 1023)), 0),
  );
  return Uint32Array.from(key.keys()).sort((a, b) => key[a] - key[b]);
}

function extremes(soup: Float32Array): [number, number] {
  let [low, high] = [Infinity, -Infinity];
  for (const x of soup) {
    low = Math.min(low, x);
    high = Math.max(high, x);
  }
  return [low, high];
}

/** Rays from anywhere in a mesh's box in any direction: most of them miss, which flatters whoever leaves a tree early. */
export function raysInBox(soup: Float32Array, count: number): Rays {
  const next = random(7);
  const [low, high] = extremes(soup);
  const data = new Float64Array(6 * count);
  for (let i = 0; i < count; i++) {
    for (let k = 0; k < 3; k++) data[6 * i + k] = low + (high - low) * next();
    const [x, y, z] = [next() - 0.5, next() - 0.5, next() - 0.5];
    const l = Math.hypot(x, y, z);
    data.set([x / l, y / l, z / l], 6 * i + 3);
  }
  return { data, count };
}

/** The library with its own order of triangles led back to ours. */
export function libraryFor(soup: Float32Array): { bvh: MeshBVH; geometry: BufferGeometry } {
  const geometry = new BufferGeometry();
  geometry.setAttribute('position', new BufferAttribute(soup.slice(), 3));
  return { bvh: new MeshBVH(geometry, LIBRARY), geometry };
}

/** What is asked: single calls, or batches that are sorted inside. */
export type How = 'one by one' | 'in batches';

/** The project's rays against the library's `raycastFirst`, medians of five runs taken in turn. */
export function benchRays(
  soup: Float32Array,
  { data, count }: Rays,
  how: How,
): { closest: number; any: number; perSecond: number; hits: number; apart: number } {
  const { bvh } = libraryFor(soup);
  const query = new RayQuery(buildTree(soup));
  const mine = new Float64Array(count);
  const theirs = new Float64Array(count);
  const ray = new Ray(new Vector3(), new Vector3());
  const own = (any: boolean) => () => {
    if (how === 'in batches') {
      const batch = new RayBatch(query);
      for (let from = 0; from < count; from += MOST) {
        const to = Math.min(count, from + MOST);
        for (let i = from, o = 6 * from; i < to; i++, o += 6)
          batch.put(data[o], data[o + 1], data[o + 2], data[o + 3], data[o + 4], data[o + 5], 0, Infinity);
        const hits = batch.run(any);
        for (let i = from, o = 6 * from; i < to; i++, o += 6) {
          if (hits[i - from] < 0) mine[i] = -1;
          else if (!any) {
            query.meet(hits[i - from], data[o], data[o + 1], data[o + 2], data[o + 3], data[o + 4], data[o + 5]);
            mine[i] = query.t;
          }
        }
      }
      return;
    }
    for (let i = 0, o = 0; i < count; i++, o += 6) {
      const hit = any
        ? query.any(data[o], data[o + 1], data[o + 2], data[o + 3], data[o + 4], data[o + 5], 0, Infinity)
        : query.closest(data[o], data[o + 1], data[o + 2], data[o + 3], data[o + 4], data[o + 5], 0, Infinity);
      mine[i] = hit ? query.t : -1;
    }
  };
  const library = () => {
    for (let i = 0, o = 0; i < count; i++, o += 6) {
      ray.origin.set(data[o], data[o + 1], data[o + 2]);
      ray.direction.set(data[o + 3], data[o + 4], data[o + 5]);
      theirs[i] = bvh.raycastFirst(ray, DoubleSide)?.distance ?? -1;
    }
  };
  const runs = Array.from({ length: 5 }, () => [timed(1, own(true)), timed(1, own(false)), timed(1, library)]);
  const [low, high] = extremes(soup);
  let hits = 0;
  let apart = 0;
  for (let i = 0; i < count; i++) {
    if (mine[i] >= 0) hits++;
    if (Math.abs(mine[i] - theirs[i]) > 1e-4 * (high - low)) apart++;
  }
  return {
    any: median(runs.map(([a, , l]) => l / a)),
    closest: median(runs.map(([, c, l]) => l / c)),
    perSecond: count / median(runs.map(([, c]) => c)),
    hits: hits / count,
    apart,
  };
}

/** Building, ours against the library's, medians of five. */
export function benchBuild(soup: Float32Array): { ratio: number; ms: number } {
  const { geometry } = libraryFor(soup);
  const runs = Array.from({ length: 5 }, () => {
    const copy = geometry.clone();
    copy.setIndex(null);
    return [timed(1, () => buildTree(soup)), timed(1, () => new MeshBVH(copy, LIBRARY))];
  });
  return { ratio: median(runs.map(([a, b]) => a / b)), ms: 1000 * median(runs.map(([a]) => a)) };
}

/** The larger of the registry's two bunnies, 69 451 triangles, from the file that the Draco package ships. */
async function largeBunny(): Promise<Float32Array> {
  const d = await draco3d.createDecoderModule();
  const bytes = readFileSync(new URL(import.meta.resolve('draco3d/bunny.drc')));
  const buffer = new d.DecoderBuffer();
  buffer.Init(new Int8Array(bytes), bytes.length);
  const mesh = new d.Mesh();
  const decoder = new d.Decoder();
  decoder.DecodeBufferToMesh(buffer, mesh);
  const places = new d.DracoFloat32Array();
  decoder.GetAttributeFloatForAllPoints(mesh, decoder.GetAttribute(mesh, decoder.GetAttributeId(mesh, d.POSITION)), places);
  const face = new d.DracoInt32Array();
  const out = new Float32Array(9 * mesh.num_faces());
  for (let t = 0; t < mesh.num_faces(); t++) {
    decoder.GetFaceFromMesh(mesh, t, face);
    for (let i = 0; i < 9; i++) out[9 * t + i] = 100 * places.GetValue(3 * face.GetValue(Math.floor(i / 3)) + (i % 3));
  }
  return out;
}

/** A closed surface of so many triangles that bends in on itself: a tube along a torus knot, wound five times. */
function knot(along: number, round: number): Float32Array {
  const at = (i: number, j: number): number[] => {
    const middle = (s: number) => {
      const r = 2 + Math.cos((3 * s) / 1);
      return [r * Math.cos(2 * s), r * Math.sin(2 * s), -Math.sin(3 * s)].map((x) => 3 * x);
    };
    const s = (2 * Math.PI * (i % along)) / along;
    const [a, b] = [middle(s), middle(s + 1e-3)];
    const t = b.map((x, k) => x - a[k]);
    const n = [t[1], -t[0], 0].map((x) => x / Math.hypot(t[0], t[1]));
    const l = Math.hypot(...t);
    const c = [t[1] * n[2] - t[2] * n[1], t[2] * n[0] - t[0] * n[2], t[0] * n[1] - t[1] * n[0]].map((x) => x / l);
    const turn = (2 * Math.PI * (j % round)) / round;
    return a.map((x, k) => x + 0.9 * (Math.cos(turn) * n[k] + Math.sin(turn) * c[k]));
  };
  const out = new Float32Array(18 * along * round);
  for (let i = 0, o = 0; i < along; i++)
    for (let j = 0; j < round; j++, o += 18) {
      const [a, b, c, d] = [at(i, j), at(i + 1, j), at(i + 1, j + 1), at(i, j + 1)];
      out.set([...a, ...c, ...b, ...a, ...d, ...c], o);
    }
  return out;
}

/** Prints the table of rays: ours against the library, with its options, at three sizes. */
export async function rayTable(): Promise<void> {
  const small = new Float32Array(bunny.cells.flat().flatMap((i) => bunny.positions[i]));
  const meshes = [
    ['bunny', await largeBunny()],
    ['knot', knot(2000, 50)],
  ] as const;
  console.log(`rays against three-mesh-bvh 0.9.17, raycastFirst, its surface-area strategy, leaves of ten (its defaults elsewhere)`);
  for (const [name, soup] of meshes) {
    const size = `${name}, ${(soup.length / 9).toLocaleString('en')} triangles`;
    for (const [order, inOrder] of [
      ['random', false],
      ['bake order', true],
    ] as const)
      for (const how of ['one by one', 'in batches'] as const) {
        const r = benchRays(soup, raysOff(soup, 200_000, inOrder), how);
        console.log(
          `${size}, ${order}, ${how}: closest ${r.closest.toFixed(1)} ×, any ${r.any.toFixed(1)} × (wanted ≥ ${inOrder ? 10 : 8}); ${Math.round(r.perSecond / 1000)} 000 a second; ${r.apart} of 200 000 apart, ${(100 * r.hits).toFixed(0)} % hit`,
        );
      }
    const b = benchBuild(soup);
    console.log(`${size}: built in ${b.ms.toFixed(0)} ms, ${b.ratio.toFixed(2)} × the library’s time (wanted ≤ 1)`);
  }
  const weak = benchRays(small, raysInBox(small, 100_000), 'one by one');
  console.log(
    `bunny in its box, ${(100 * weak.hits).toFixed(0)} % hit: closest ${weak.closest.toFixed(1)} ×, any ${weak.any.toFixed(1)} ×, ${weak.apart} of 100 000 apart`,
  );
}
