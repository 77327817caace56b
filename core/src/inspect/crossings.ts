import { type Crossing, through } from '../mesh/pairs';
import { type PolyMesh, triangleCount } from '../mesh/polymesh';
import { soupOf } from '../mesh/soup';
import { meshTree } from '../rays/of-mesh';
import { selfPairs } from '../rays/pairs';

/**
 * Triangles of one mesh that cross others they share no corner with.
 *
 * @param most after so many it stops
 * @param counts whether two triangles are asked about at all
 */
export function selfCrossings(mesh: PolyMesh, most = Infinity, counts: (s: number, t: number) => boolean = () => true): Crossing[] {
  const soup = soupOf(mesh);
  const out: Crossing[] = [];
  const about = new Int32Array(4 * triangleCount(mesh));
  for (let t = 0; 4 * t < about.length; t++) {
    for (let k = 0; k < 3; k++) about[4 * t + k] = mesh.faceVert[mesh.triangles[3 * t + k]];
    about[4 * t + 3] = mesh.triangleFace[t];
  }
  selfPairs(meshTree(mesh), about, (s, t) => {
    if (!counts(s, t) || aside(soup, 9 * s, 9 * t) || aside(soup, 9 * t, 9 * s)) return false;
    const at = through(soup, 9 * s, soup, 9 * t, [0, 0, 0]);
    if (at) out.push({ a: s, b: t, at });
    return out.length >= most;
  });
  return out.sort((x, y) => x.a - y.a || x.b - y.b);
}

/** Whether a triangle lies wholly on one side of another's plane, or in it (Möller 1997): then they touch at most. */
function aside(p: Float64Array, i: number, j: number): boolean {
  const ux = p[j + 3] - p[j];
  const uy = p[j + 4] - p[j + 1];
  const uz = p[j + 5] - p[j + 2];
  const vx = p[j + 6] - p[j];
  const vy = p[j + 7] - p[j + 1];
  const vz = p[j + 8] - p[j + 2];
  const nx = uy * vz - uz * vy;
  const ny = uz * vx - ux * vz;
  const nz = ux * vy - uy * vx;
  const a = nx * (p[i] - p[j]) + ny * (p[i + 1] - p[j + 1]) + nz * (p[i + 2] - p[j + 2]);
  const b = nx * (p[i + 3] - p[j]) + ny * (p[i + 4] - p[j + 1]) + nz * (p[i + 5] - p[j + 2]);
  const c = nx * (p[i + 6] - p[j]) + ny * (p[i + 7] - p[j + 1]) + nz * (p[i + 8] - p[j + 2]);
  return (a >= 0 && b >= 0 && c >= 0) || (a <= 0 && b <= 0 && c <= 0);
}
