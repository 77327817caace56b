import { edgesOf, edgeValence } from './connectivity';
import { type Attribute, attribute, cornerCount, faceCount, makeMesh, type PolyMesh, vertexCount } from './polymesh';

/** How {@link subdivide} treats the surface. */
export interface SubdivideOptions {
  /** Catmull–Clark; otherwise faces are only divided and nothing moves. */
  smooth?: boolean;
}

/**
 * One level of subdivision: every face of n corners becomes n quads.
 *
 * Smooth: Catmull & Clark 1978 with semi-sharp creases (DeRose, Kass & Truong 1998): the corner attribute `crease` holds an
 * edge's sharpness, which falls by one a level; edges with one face are creases that stay. Corner values that are coordinates
 * (`patchUv`, `uv`) are carried along the faces; face values are copied.
 *
 * @returns V + E + F vertices, Σ deg(f) faces
 */
export function subdivide(mesh: PolyMesh, { smooth = true }: SubdivideOptions = {}): PolyMesh {
  const edges = edgesOf(mesh);
  const [V, E, F, C] = [vertexCount(mesh), edges.count, faceCount(mesh), cornerCount(mesh)];
  const p = mesh.positions;
  const crease = attribute(mesh, 'crease', 'corner')?.data;
  const sharpness = new Float64Array(E);
  for (let c = 0; c < C; c++) sharpness[edges.ofCorner[c]] = Math.max(sharpness[edges.ofCorner[c]], crease?.[c] ?? 0);
  for (let e = 0; e < E; e++) if (edgeValence(edges, e) !== 2) sharpness[e] = Infinity;

  const out = new Float64Array(3 * (V + E + F));
  const middle = (f: number) => 3 * (V + E + f);
  for (let f = 0; f < F; f++) {
    const n = mesh.faceStart[f + 1] - mesh.faceStart[f];
    for (let c = mesh.faceStart[f]; c < mesh.faceStart[f + 1]; c++)
      for (let k = 0; k < 3; k++) out[middle(f) + k] += p[3 * mesh.faceVert[c] + k] / n;
  }
  for (let e = 0; e < E; e++) {
    const [a, b] = [3 * edges.ends[2 * e], 3 * edges.ends[2 * e + 1]];
    // Sharp below one is a mixture of the smooth and the sharp rule.
    const sharp = smooth ? Math.min(1, sharpness[e]) : 1;
    for (let k = 0; k < 3; k++) {
      const half = (p[a + k] + p[b + k]) / 2;
      let soft = half;
      if (sharp < 1) {
        const [f, g] = [edges.corners[edges.start[e]], edges.corners[edges.start[e] + 1]].map((c) => edges.faceOf[c]);
        soft = (p[a + k] + p[b + k] + out[middle(f) + k] + out[middle(g) + k]) / 4;
      }
      out[3 * (V + e) + k] = sharp * half + (1 - sharp) * soft;
    }
  }
  if (smooth) moveVertices(mesh, edges, sharpness, out);
  else out.set(p.subarray(0, 3 * V));

  const previous = new Uint32Array(C);
  for (let f = 0; f < F; f++) for (let c = mesh.faceStart[f]; c < mesh.faceStart[f + 1]; c++) previous[edges.next[c]] = c;
  const faceVert = new Uint32Array(4 * C);
  for (let c = 0; c < C; c++)
    faceVert.set([mesh.faceVert[c], V + edges.ofCorner[c], V + E + edges.faceOf[c], V + edges.ofCorner[previous[c]]], 4 * c);
  return makeMesh({
    positions: out,
    faceStart: Uint32Array.from({ length: C + 1 }, (_, i) => 4 * i),
    faceVert,
    patches: mesh.patches,
    attributes: mesh.attributes
      .filter((a) => a.domain !== 'vertex')
      .map((a) => carried(mesh, a, edges.faceOf, edges.next, previous, smooth)),
  });
}

function moveVertices(mesh: PolyMesh, edges: ReturnType<typeof edgesOf>, sharpness: Float64Array, out: Float64Array): void {
  const [V, E, F] = [vertexCount(mesh), edges.count, faceCount(mesh)];
  const p = mesh.positions;
  const valence = new Uint32Array(V);
  const faces = new Uint32Array(V);
  const facePoint = new Float64Array(3 * V);
  const edgeMiddle = new Float64Array(3 * V);
  const creases: number[][] = Array.from({ length: V }, () => []);
  for (let f = 0; f < F; f++)
    for (let c = mesh.faceStart[f]; c < mesh.faceStart[f + 1]; c++) {
      const v = mesh.faceVert[c];
      faces[v]++;
      for (let k = 0; k < 3; k++) facePoint[3 * v + k] += out[3 * (V + E + f) + k];
    }
  for (let e = 0; e < E; e++)
    for (const end of [0, 1]) {
      const [v, w] = [edges.ends[2 * e + end], edges.ends[2 * e + 1 - end]];
      valence[v]++;
      if (sharpness[e] > 0) creases[v].push(e);
      for (let k = 0; k < 3; k++) edgeMiddle[3 * v + k] += (p[3 * v + k] + p[3 * w + k]) / 2;
    }
  for (let v = 0; v < V; v++) {
    const n = valence[v];
    const sharp = creases[v];
    // One crease alone is a dart and moves smoothly; three and more make a corner.
    const mean = sharp.reduce((s, e) => s + Math.min(sharpness[e], 1e3), 0) / Math.max(sharp.length, 1);
    const weight = sharp.length >= 2 ? Math.min(1, mean) : 0;
    for (let k = 0; k < 3; k++) {
      const at = p[3 * v + k];
      let smooth = at;
      if (n > 0 && faces[v] > 0) smooth = (facePoint[3 * v + k] / faces[v] + (2 * edgeMiddle[3 * v + k]) / n + (n - 3) * at) / n;
      let held = at;
      if (sharp.length === 2) {
        const other = (e: number) => p[3 * (edges.ends[2 * e] === v ? edges.ends[2 * e + 1] : edges.ends[2 * e]) + k];
        held = (6 * at + other(sharp[0]) + other(sharp[1])) / 8;
      }
      out[3 * v + k] = weight * held + (1 - weight) * smooth;
    }
  }
}

/** Quad of corner c: its own corner, the middle of the edge it starts, the face's middle, the middle of the edge before. */
function carried(mesh: PolyMesh, a: Attribute, faceOf: Uint32Array, next: Uint32Array, previous: Uint32Array, smooth: boolean): Attribute {
  const C = cornerCount(mesh);
  const Kind = a.data.constructor as new (n: number) => Attribute['data'];
  if (a.domain === 'face') {
    const data = new Kind(C * a.size);
    for (let c = 0; c < C; c++) for (let k = 0; k < a.size; k++) data[c * a.size + k] = a.data[faceOf[c] * a.size + k];
    return { ...a, data };
  }
  const data = new Kind(4 * C * a.size);
  if (a.name === 'hard' || a.name === 'seam' || a.name === 'crease') {
    // Each half of an edge keeps what the edge had; a crease is one weaker. Edges inside the old face have none.
    const fade = (x: number) => (a.name === 'crease' && smooth ? Math.max(0, x - 1) : x);
    for (let c = 0; c < C; c++) {
      data[4 * c] = fade(a.data[c]);
      data[4 * c + 3] = fade(a.data[previous[c]]);
    }
    return { ...a, data };
  }
  for (let f = 0; f < faceCount(mesh); f++) {
    const [from, to] = [mesh.faceStart[f], mesh.faceStart[f + 1]];
    for (let k = 0; k < a.size; k++) {
      let mean = 0;
      for (let c = from; c < to; c++) mean += a.data[c * a.size + k] / (to - from);
      for (let c = from; c < to; c++) {
        const at = (i: number) => a.data[i * a.size + k];
        const base = 4 * c * a.size + k;
        data[base] = at(c);
        data[base + a.size] = (at(c) + at(next[c])) / 2;
        data[base + 2 * a.size] = mean;
        data[base + 3 * a.size] = (at(c) + at(previous[c])) / 2;
      }
    }
  }
  return { ...a, data };
}
