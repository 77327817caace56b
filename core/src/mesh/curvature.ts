import { type Edges, edgesOf, edgeValence } from './connectivity';
import { type PolyMesh, triangleCount, vertexCount } from './polymesh';

/** How a surface bends at its vertices. NaN on rims and at vertices without faces. */
export interface Curvature {
  /** What is missing of a full turn round the vertex, radians: curvature gathered there. */
  defect: Float64Array;
  /** Gaussian curvature, 1/mm². */
  gauss: Float64Array;
  /** Mean curvature, 1/mm; positive where the surface is round outward. */
  mean: Float64Array;
  /** The surface a vertex stands for, mm². */
  area: Float64Array;
}

/**
 * Curvature at vertices by Meyer, Desbrun, Schröder & Barr (2003): the angle defect and the cotangent normal, over mixed
 * Voronoi areas.
 */
export function vertexCurvature(mesh: PolyMesh, edges: Edges = edgesOf(mesh)): Curvature {
  const n = vertexCount(mesh);
  const p = mesh.positions;
  const defect = new Float64Array(n).fill(2 * Math.PI);
  const area = new Float64Array(n);
  const bend = new Float64Array(3 * n);
  const facing = new Float64Array(3 * n);
  for (let t = 0; t < triangleCount(mesh); t++) {
    const a = mesh.faceVert[mesh.triangles[3 * t]];
    const b = mesh.faceVert[mesh.triangles[3 * t + 1]];
    const c = mesh.faceVert[mesh.triangles[3 * t + 2]];
    const ux = p[3 * b] - p[3 * a];
    const uy = p[3 * b + 1] - p[3 * a + 1];
    const uz = p[3 * b + 2] - p[3 * a + 2];
    const vx = p[3 * c] - p[3 * a];
    const vy = p[3 * c + 1] - p[3 * a + 1];
    const vz = p[3 * c + 2] - p[3 * a + 2];
    const nx = uy * vz - uz * vy;
    const ny = uz * vx - ux * vz;
    const nz = ux * vy - uy * vx;
    const twice = Math.sqrt(nx * nx + ny * ny + nz * nz);
    if (twice < 1e-18) continue;
    const uu = ux * ux + uy * uy + uz * uz;
    const vv = vx * vx + vy * vy + vz * vz;
    const uv = ux * vx + uy * vy + uz * vz;
    // Dot products at b and c of the sides that leave them.
    const atB = uu - uv;
    const atC = vv - uv;
    const ww = atB + atC;
    const [cotA, cotB, cotC] = [uv / twice, atB / twice, atC / twice];
    defect[a] -= Math.atan2(twice, uv);
    defect[b] -= Math.atan2(twice, atB);
    defect[c] -= Math.atan2(twice, atC);
    if (uv >= 0 && atB >= 0 && atC >= 0) {
      area[a] += (uu * cotC + vv * cotB) / 8;
      area[b] += (uu * cotC + ww * cotA) / 8;
      area[c] += (vv * cotB + ww * cotA) / 8;
    } else {
      const half = twice / 2;
      area[a] += uv < 0 ? half / 2 : half / 4;
      area[b] += atB < 0 ? half / 2 : half / 4;
      area[c] += atC < 0 ? half / 2 : half / 4;
    }
    for (let k = 0; k < 3; k++) {
      const u = k === 0 ? ux : k === 1 ? uy : uz;
      const v = k === 0 ? vx : k === 1 ? vy : vz;
      const m = k === 0 ? nx : k === 1 ? ny : nz;
      bend[3 * a + k] -= cotC * u + cotB * v;
      bend[3 * b + k] += cotC * u - cotA * (v - u);
      bend[3 * c + k] += cotB * v + cotA * (v - u);
      facing[3 * a + k] += m;
      facing[3 * b + k] += m;
      facing[3 * c + k] += m;
    }
  }
  const mean = new Float64Array(n).fill(Number.NaN);
  const gauss = new Float64Array(n).fill(Number.NaN);
  const rim = new Uint8Array(n);
  for (let e = 0; e < edges.count; e++) if (edgeValence(edges, e) !== 2) rim[edges.ends[2 * e]] = rim[edges.ends[2 * e + 1]] = 1;
  for (let v = 0; v < n; v++) {
    if (rim[v] || area[v] === 0) {
      defect[v] = Number.NaN;
      continue;
    }
    const [x, y, z] = [bend[3 * v], bend[3 * v + 1], bend[3 * v + 2]];
    const outward = x * facing[3 * v] + y * facing[3 * v + 1] + z * facing[3 * v + 2];
    mean[v] = (Math.sign(outward) * Math.hypot(x, y, z)) / (4 * area[v]);
    gauss[v] = defect[v] / area[v];
  }
  return { defect, gauss, mean, area };
}

/** The stronger of the two principal curvatures, 1/mm: H ± √(H² − K), with H's sign. */
export function principal({ mean, gauss }: Curvature, v: number): number {
  const h = mean[v];
  const root = Math.sqrt(Math.max(0, h * h - gauss[v]));
  return h >= 0 ? h + root : h - root;
}

/** How far a surface turns over each edge, radians: positive where it is round outward; NaN where there is no other side. */
export function edgeTurns(mesh: PolyMesh, normals: Float64Array, edges: Edges = edgesOf(mesh)): Float64Array {
  const out = new Float64Array(edges.count).fill(Number.NaN);
  const p = mesh.positions;
  for (let e = 0; e < edges.count; e++) {
    if (edgeValence(edges, e) !== 2) continue;
    const a = edges.corners[edges.start[e]];
    const b = edges.corners[edges.start[e] + 1];
    const f = 3 * edges.faceOf[a];
    const g = 3 * edges.faceOf[b];
    const cx = normals[f + 1] * normals[g + 2] - normals[f + 2] * normals[g + 1];
    const cy = normals[f + 2] * normals[g] - normals[f] * normals[g + 2];
    const cz = normals[f] * normals[g + 1] - normals[f + 1] * normals[g];
    const dot = normals[f] * normals[g] + normals[f + 1] * normals[g + 1] + normals[f + 2] * normals[g + 2];
    const from = 3 * mesh.faceVert[a];
    const to = 3 * mesh.faceVert[edges.next[a]];
    // Along the edge as the first face runs: from its normal to the other's turns right-handed where it is round.
    const along = cx * (p[to] - p[from]) + cy * (p[to + 1] - p[from + 1]) + cz * (p[to + 2] - p[from + 2]);
    out[e] = (along >= 0 ? 1 : -1) * Math.atan2(Math.sqrt(cx * cx + cy * cy + cz * cz), dot);
  }
  return out;
}
