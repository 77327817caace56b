import type { PolyMesh } from '../../mesh/polymesh';

/** A piece of surface to be laid flat: triangles over vertices numbered from 0. */
export interface Chart {
  /** Faces of the mesh. */
  faces: number[];
  /** 3 local vertices per triangle. */
  triangles: Uint32Array;
  /** 3 numbers per local vertex, mm. */
  points: Float64Array;
  /** Corner of the mesh → local vertex, for the chart's corners. */
  local: Map<number, number>;
}

/** Cuts a set of faces out of a mesh. Vertices on which the chart touches itself across a cut stay one. */
export function chartOf(mesh: PolyMesh, faces: number[], trianglesOfFace: readonly number[][]): Chart {
  const ids = new Map<number, number>();
  const local = new Map<number, number>();
  const points: number[] = [];
  const triangles: number[] = [];
  for (const f of faces) {
    for (let c = mesh.faceStart[f]; c < mesh.faceStart[f + 1]; c++) {
      const v = mesh.faceVert[c];
      let id = ids.get(v);
      if (id === undefined) {
        id = ids.size;
        ids.set(v, id);
        points.push(mesh.positions[3 * v], mesh.positions[3 * v + 1], mesh.positions[3 * v + 2]);
      }
      local.set(c, id);
    }
    for (const t of trianglesOfFace[f]) for (let k = 0; k < 3; k++) triangles.push(local.get(mesh.triangles[3 * t + k]) as number);
  }
  return { faces, triangles: Uint32Array.from(triangles), points: Float64Array.from(points), local };
}

/**
 * The rim of a chart as one loop of local vertices, or null when the chart is not a disk: an edge with more than two
 * triangles or mixed winding, several rims, a rim that touches itself, or an Euler characteristic other than 1.
 */
export function diskRim(chart: Chart): number[] | null {
  const { triangles } = chart;
  const vertices = chart.points.length / 3;
  const directed = new Set<number>();
  for (let i = 0; i < triangles.length; i += 3)
    for (let k = 0; k < 3; k++) {
      const key = triangles[i + k] * vertices + triangles[i + ((k + 1) % 3)];
      if (directed.has(key)) return null;
      directed.add(key);
    }
  const next = new Map<number, number>();
  let inner = 0;
  for (const key of directed) {
    const [a, b] = [Math.floor(key / vertices), key % vertices];
    if (directed.has(b * vertices + a)) inner++;
    else {
      if (next.has(a)) return null;
      next.set(a, b);
    }
  }
  if (next.size === 0) return null;
  const loop: number[] = [];
  const first = next.keys().next().value as number;
  for (let v = first; ; ) {
    loop.push(v);
    v = next.get(v) as number;
    if (v === first) break;
    if (v === undefined || loop.length > next.size) return null;
  }
  if (loop.length !== next.size) return null;
  const edges = inner / 2 + next.size;
  return vertices - edges + triangles.length / 3 === 1 ? loop : null;
}

/** Area of a triangle of the chart in space, mm². */
export function areaInSpace(chart: Chart, t: number): number {
  const p = chart.points;
  const [a, b, c] = [0, 1, 2].map((k) => 3 * chart.triangles[3 * t + k]);
  const u = [p[b] - p[a], p[b + 1] - p[a + 1], p[b + 2] - p[a + 2]];
  const v = [p[c] - p[a], p[c + 1] - p[a + 1], p[c + 2] - p[a + 2]];
  return 0.5 * Math.hypot(u[1] * v[2] - u[2] * v[1], u[2] * v[0] - u[0] * v[2], u[0] * v[1] - u[1] * v[0]);
}

/** Signed area of a triangle laid flat: negative when folded over. */
export function areaLaid(chart: Chart, uv: Float64Array, t: number): number {
  const [a, b, c] = [0, 1, 2].map((k) => 2 * chart.triangles[3 * t + k]);
  return 0.5 * ((uv[b] - uv[a]) * (uv[c + 1] - uv[a + 1]) - (uv[b + 1] - uv[a + 1]) * (uv[c] - uv[a]));
}

/** Scales a layout so that it covers as much as the surface does. */
export function matchArea(chart: Chart, uv: Float64Array): Float64Array {
  let space = 0;
  let laid = 0;
  for (let t = 0; t < chart.triangles.length / 3; t++) {
    space += areaInSpace(chart, t);
    laid += Math.abs(areaLaid(chart, uv, t));
  }
  const k = laid > 0 ? Math.sqrt(space / laid) : 1;
  return uv.map((x) => x * k);
}
