import type { Vec3 } from '../maths/vec3';
import { MeshBuilder, type PolyMesh } from '../mesh/polymesh';
import { UNLAID } from '../mesh/rework';
import { newell } from '../mesh/triangulate';

/** What a face of a loft carries. Corners in order: (i, j), (i + 1, j), (i + 1, j + 1), (i, j + 1). */
export interface LoftFace {
  patch: string;
  u: readonly [number, number];
  v: readonly [number, number];
  /** Its first, second, third and fourth edge are hard. */
  hard?: readonly [boolean, boolean, boolean, boolean];
  /** Island of the maker's own layout and where its four corners lie in it, mm; left to the flattening when absent. */
  chart?: number;
  flat?: readonly (readonly [number, number])[];
}

/** Loops of points joined one after the other by quads. */
export interface Loft {
  /** Counter-clockwise about the way they follow each other; all of one length, or single points (poles). */
  loops: readonly (readonly Vec3[])[];
  /** The last loop joins the first. */
  closed?: boolean;
  face(j: number, i: number): LoftFace;
  /** Patches of the flat faces that close the first and the last loop; open where absent. */
  start?: string;
  end?: string;
}

/** Builds a loft: quads between loops, triangles at poles, n-gons at its ends. */
export function loft({ loops, closed, face, start, end }: Loft): PolyMesh {
  const mesh = new Lofting();
  mesh.put({ loops, closed, face, start, end });
  return mesh.build();
}

/** Several lofts in one mesh. */
export class Lofting {
  readonly builder = new MeshBuilder();
  private chart: number[] = [];
  private flat: number[] = [];
  private caps = 0;
  private readonly points: Vec3[] = [];

  vertex(p: Vec3): number {
    this.points.push(p);
    return this.builder.vertex(p[0], p[1], p[2]);
  }

  put({ loops, closed, face, start, end }: Loft): number[][] {
    const ids = loops.map((loop) => loop.map((p) => this.vertex(p)));
    const n = Math.max(...loops.map((l) => l.length));
    const bands = closed ? loops.length : loops.length - 1;
    const at = (loop: number[], i: number) => (loop.length === 1 ? loop[0] : loop[i % loop.length]);
    for (let j = 0; j < bands; j++) {
      const [lower, upper] = [ids[j], ids[(j + 1) % ids.length]];
      for (let i = 0; i < n; i++) {
        const f = face(j, i);
        const corners: [number, number, number, boolean, number][] = [
          [at(lower, i), f.u[0], f.v[0], f.hard?.[0] ?? false, 0],
          [at(lower, i + 1), f.u[1], f.v[0], f.hard?.[1] ?? false, 1],
          [at(upper, i + 1), f.u[1], f.v[1], f.hard?.[2] ?? false, 2],
          [at(upper, i), f.u[0], f.v[1], f.hard?.[3] ?? false, 3],
        ];
        if (lower.length === 1) corners.splice(0, 2, [lower[0], (f.u[0] + f.u[1]) / 2, f.v[0], f.hard?.[1] ?? false, 0]);
        if (upper.length === 1) corners.splice(-2, 2, [upper[0], (f.u[0] + f.u[1]) / 2, f.v[1], f.hard?.[3] ?? false, 2]);
        this.face(corners, f);
      }
    }
    if (start) this.cap([...ids[0]].reverse(), start);
    if (end) this.cap(ids[ids.length - 1], end);
    return ids;
  }

  private face(corners: readonly [number, number, number, boolean, number][], f: LoftFace): void {
    this.builder.face(
      corners.map((c) => c[0]),
      this.builder.patch(f.patch),
      corners.flatMap((c) => [c[1], c[2]]),
      corners.map((c) => c[3]),
    );
    this.chart.push(f.chart ?? UNLAID);
    for (const c of corners) this.flat.push(...(f.flat?.[c[4]] ?? [0, 0]));
  }

  /** A flat face with hard edges, laid out as it is; its patch coordinates fill its box. @param ring counter-clockwise from outside */
  cap(ring: readonly number[], patch: string, hard: readonly boolean[] = ring.map(() => true)): void {
    const laid = this.planed(ring);
    const [x0, x1] = [Math.min(...laid.map((p) => p[0])), Math.max(...laid.map((p) => p[0]))];
    const [y0, y1] = [Math.min(...laid.map((p) => p[1])), Math.max(...laid.map((p) => p[1]))];
    this.builder.face(
      ring,
      this.builder.patch(patch),
      laid.flatMap(([x, y]) => [(x - x0) / Math.max(x1 - x0, 1e-12), (y - y0) / Math.max(y1 - y0, 1e-12)]),
      hard,
    );
    this.chart.push(CAPS - this.caps++);
    for (const p of laid) this.flat.push(...p);
  }

  /** A quad or triangle with its own coordinates, left to the flattening. */
  facet(ring: readonly number[], patch: string, coordinates: readonly number[], hard?: readonly boolean[]): void {
    this.builder.face(ring, this.builder.patch(patch), coordinates, hard);
    this.chart.push(UNLAID);
    for (let i = 0; i < 2 * ring.length; i++) this.flat.push(0);
  }

  private planed(ring: readonly number[]): [number, number][] {
    const flat = ring.flatMap((v) => [...this.points[v]]);
    const order = ring.map((_, i) => i);
    const n = newell(flat, order, 0, order.length);
    const long = Math.hypot(...n) || 1;
    const w: Vec3 = [n[0] / long, n[1] / long, n[2] / long];
    const helper: Vec3 = Math.abs(w[1]) < 0.9 ? [0, 1, 0] : [0, 0, -1];
    const u0: Vec3 = [helper[1] * w[2] - helper[2] * w[1], helper[2] * w[0] - helper[0] * w[2], helper[0] * w[1] - helper[1] * w[0]];
    const l = Math.hypot(...u0) || 1;
    const u = u0.map((x) => x / l);
    const v = [w[1] * u[2] - w[2] * u[1], w[2] * u[0] - w[0] * u[2], w[0] * u[1] - w[1] * u[0]];
    return ring.map((r) => {
      const p = this.points[r];
      return [p[0] * u[0] + p[1] * u[1] + p[2] * u[2], p[0] * v[0] + p[1] * v[1] + p[2] * v[2]];
    });
  }

  build(): PolyMesh {
    const mesh = this.builder.build();
    // Charts of caps were numbered from below; give all of them numbers from 0, in order of appearance.
    const numbers = new Map<number, number>([[UNLAID, UNLAID]]);
    const chart = Int32Array.from(this.chart, (c) => {
      if (!numbers.has(c)) numbers.set(c, numbers.size - 1);
      return numbers.get(c) as number;
    });
    return {
      ...mesh,
      attributes: [
        ...mesh.attributes,
        { name: 'chart', domain: 'face', size: 1, data: chart },
        { name: 'flat', domain: 'corner', size: 2, data: Float64Array.from(this.flat) },
      ],
    };
  }
}
const CAPS = -2;
