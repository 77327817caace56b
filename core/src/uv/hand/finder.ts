import { add, at, cross, distance, dot, length, scale as scaled, sub, type Vec3 } from '../../maths/vec3';
import { boundsOf } from '../../mesh/measures';
import { nearestOnTriangle } from '../../mesh/pairs';
import { type PolyMesh, triangleCount } from '../../mesh/polymesh';

/** A place is on a face when it is no farther off it than this, as a share of the part’s size, and faces about the same way. */
const OFF = 0.01;
const SAME_WAY = 0.5;

/** The places of a triangle’s corners, mm. */
export function cornersOf(mesh: PolyMesh, t: number): [Vec3, Vec3, Vec3] {
  return [0, 1, 2].map((k) => at(mesh.positions, mesh.faceVert[mesh.triangles[3 * t + k]])) as [Vec3, Vec3, Vec3];
}

/** The triangles of a mesh, to be found from places. */
export class FaceFinder {
  /** A ball round each: x, y, z and radius. */
  private readonly balls: Float64Array;
  private readonly reach: number;

  constructor(private readonly mesh: PolyMesh) {
    this.balls = new Float64Array(4 * triangleCount(mesh));
    for (let t = 0; t < triangleCount(mesh); t++) {
      const corners = cornersOf(mesh, t);
      const middle = scaled(add(add(corners[0], corners[1]), corners[2]), 1 / 3);
      this.balls.set(middle, 4 * t);
      this.balls[4 * t + 3] = Math.max(...corners.map((p) => distance(p, middle)));
    }
    const { min, max } = boundsOf(mesh);
    this.reach = OFF * Math.max(...max.map((x, k) => x - min[k]));
  }

  /** The triangle nearest to a place that faces about as it did; −1 when none is near. */
  at({ from, facing }: { from: Vec3; facing: Vec3 }): number {
    const { balls, mesh } = this;
    let [best, off] = [-1, this.reach];
    for (let t = 0; t < balls.length / 4; t++) {
      const [x, y, z] = [balls[4 * t] - from[0], balls[4 * t + 1] - from[1], balls[4 * t + 2] - from[2]];
      const within = off + balls[4 * t + 3];
      if (x * x + y * y + z * z > within * within) continue;
      const [a, b, c] = cornersOf(mesh, t);
      const n = cross(sub(b, a), sub(c, a));
      if (dot(n, facing) <= SAME_WAY * length(n)) continue;
      const d = distance(nearestOnTriangle(from, a, b, c), from);
      if (d < off) [best, off] = [t, d];
    }
    return best;
  }
}
