import TinyQueue from 'tinyqueue';
import { add, at, cross, dot, length, normalise, scale, sub, type Vec3 } from '../maths/vec3';
import type { PolyMesh } from '../mesh/polymesh';
import type { Flat } from './carrier';

/**
 * A surface laid flat round a point: every vertex gets the place that one comes to who walks to it straight over the surface (the discrete
 * exponential map, Schmidt, Grimm and Wyvill 2006: “Interactive decal compositing with discrete exponential maps”, with the mean over all
 * neighbours that are placed already). Near the point nothing is stretched; farther away, where the surface can’t be unrolled, it is.
 */
export class Draping {
  private readonly places = new Map<number, Flat>();
  private readonly ring = new Map<number, Set<number>>();

  /** @param up the way on the surface that becomes up @param reach what lies farther away isn’t placed, mm */
  constructor(
    private readonly mesh: PolyMesh,
    private readonly faces: readonly number[],
    face: number,
    private readonly point: Vec3,
    private readonly up: Vec3,
    reach: number,
  ) {
    const normals = this.connect();
    const right = normalise(cross(up, normalise(this.normalOf(face))));
    interface Stand {
      vertex: number;
      far: number;
    }
    const queue = new TinyQueue<Stand>([], (a, b) => a.far - b.far || a.vertex - b.vertex);
    const tentative = new Map<number, { at: Flat; up: Vec3; far: number }>();
    const propose = (vertex: number, place: Flat, way: Vec3) => {
      const far = Math.hypot(...place);
      const had = tentative.get(vertex);
      if (had && had.far <= far) return;
      tentative.set(vertex, { at: place, up: way, far });
      queue.push({ vertex, far });
    };
    for (let c = mesh.faceStart[face]; c < mesh.faceStart[face + 1]; c++) {
      const v = mesh.faceVert[c];
      const d = sub(at(mesh.positions, v), point);
      propose(v, [dot(d, right), dot(d, up)], carried(up, normals.get(v) as Vec3));
    }
    const ups = new Map<number, Vec3>();
    for (let next = queue.pop(); next; next = queue.pop()) {
      const { vertex } = next;
      if (this.places.has(vertex)) continue;
      const { at: place, up: way } = tentative.get(vertex) as { at: Flat; up: Vec3 };
      // Of all neighbours that are placed, those nearby more: one alone would carry its own error on.
      const placed = [...(this.ring.get(vertex) ?? [])].filter((w) => ups.has(w));
      let [x, y, weight] = [0, 0, 0];
      for (const w of placed) {
        const d = Math.max(1e-9, length(sub(at(mesh.positions, vertex), at(mesh.positions, w))));
        const step = this.step(w, vertex, normals.get(w) as Vec3, ups.get(w) as Vec3);
        x += step[0] / d;
        y += step[1] / d;
        weight += 1 / d;
      }
      this.places.set(vertex, placed.length > 0 && weight > 0 ? [x / weight, y / weight] : place);
      ups.set(vertex, way);
      if (next.far > reach) continue;
      for (const w of this.ring.get(vertex) ?? []) {
        if (this.places.has(w)) continue;
        propose(w, this.step(vertex, w, normals.get(vertex) as Vec3, way), carried(way, normals.get(w) as Vec3));
      }
    }
  }

  /** The place of a vertex, mm. */
  of(vertex: number): Flat {
    return this.places.get(vertex) ?? [Infinity, Infinity];
  }

  /** The place of a point of the surface, mm. */
  at(p: Vec3): Flat {
    if (length(sub(p, this.point)) < 1e-9) return [0, 0];
    let [best, far] = [[Infinity, Infinity] as Flat, Infinity];
    const mine = new Set(this.faces);
    const { mesh } = this;
    for (let t = 0; t < mesh.triangles.length / 3; t++) {
      if (!mine.has(mesh.triangleFace[t])) continue;
      const v = [0, 1, 2].map((k) => mesh.faceVert[mesh.triangles[3 * t + k]]);
      const w = weightsIn(p, ...(v.map((i) => at(mesh.positions, i)) as [Vec3, Vec3, Vec3]));
      const on = [0, 1, 2].reduce<Vec3>((s, k) => add(s, scale(at(mesh.positions, v[k]), w[k])), [0, 0, 0]);
      const d = length(sub(on, p));
      if (d >= far) continue;
      far = d;
      best = [0, 1].map((k) => v.reduce((s, i, n) => s + w[n] * this.of(i)[k], 0)) as [number, number];
    }
    return best;
  }

  /** Where one comes to from a vertex that is placed. */
  private step(from: number, to: number, normal: Vec3, up: Vec3): Flat {
    const d = sub(at(this.mesh.positions, to), at(this.mesh.positions, from));
    const right = cross(up, normal);
    const [x, y] = [dot(d, right), dot(d, up)];
    const flat = Math.hypot(x, y);
    const k = flat > 1e-12 ? length(d) / flat : 0;
    const here = this.places.get(from) as Flat;
    return [here[0] + k * x, here[1] + k * y];
  }

  private normalOf(f: number): Vec3 {
    const { mesh } = this;
    const start = mesh.faceStart[f];
    const o = at(mesh.positions, mesh.faceVert[start]);
    let n: Vec3 = [0, 0, 0];
    for (let c = start + 1; c + 1 < mesh.faceStart[f + 1]; c++)
      n = add(n, cross(sub(at(mesh.positions, mesh.faceVert[c]), o), sub(at(mesh.positions, mesh.faceVert[c + 1]), o)));
    return n;
  }

  /** Which vertices share a face, and which way the surface looks at each. */
  private connect(): Map<number, Vec3> {
    const { mesh } = this;
    const sums = new Map<number, Vec3>();
    for (const f of this.faces) {
      const n = this.normalOf(f);
      const mine = mesh.faceVert.subarray(mesh.faceStart[f], mesh.faceStart[f + 1]);
      for (const v of mine) {
        sums.set(v, add(sums.get(v) ?? [0, 0, 0], n));
        const ring = this.ring.get(v) ?? new Set();
        this.ring.set(v, ring);
        for (const w of mine) if (w !== v) ring.add(w);
      }
    }
    return new Map([...sums].map(([v, n]) => [v, length(n) > 0 ? normalise(n) : this.up]));
  }
}

/** A way on one surface as the same on another that looks elsewhere, unit. */
function carried(up: Vec3, normal: Vec3): Vec3 {
  const flat = sub(up, scale(normal, dot(up, normal)));
  return length(flat) > 1e-6 ? normalise(flat) : up;
}

/** Weights of a triangle’s corners at the place of it that is nearest to a point. */
export function weightsIn(p: Vec3, a: Vec3, b: Vec3, c: Vec3): [number, number, number] {
  const [e, f, d] = [sub(b, a), sub(c, a), sub(p, a)];
  const [ee, ef, ff, de, df] = [dot(e, e), dot(e, f), dot(f, f), dot(d, e), dot(d, f)];
  const det = ee * ff - ef * ef;
  if (det <= 0) return [1, 0, 0];
  let [u, v] = [(de * ff - df * ef) / det, (df * ee - de * ef) / det];
  u = Math.max(0, u);
  v = Math.max(0, v);
  if (u + v > 1) [u, v] = [u / (u + v), v / (u + v)];
  return [1 - u - v, u, v];
}
