import { cornerNormals, type NormalOptions } from './normals';
import { attribute, type PolyMesh, triangleCount } from './polymesh';
import { mikkTangents } from './tangents';

/** Triangles as a graphics card takes them: an index and one record per vertex. Positions in mm, v up. */
export interface GpuMesh {
  index: Uint32Array;
  position: Float32Array;
  normal: Float32Array;
  /** 2 per vertex; only when the mesh has a layout. */
  uv?: Float32Array;
  /** 4 per vertex; only with a layout. */
  tangent?: Float32Array;
  /** Vertex → one of the corners it stands for. */
  corner: Uint32Array;
}

/**
 * Splits a mesh for the graphics card: a vertex is shared only while position, normal, uv and tangent agree to the last
 * bit of their 32-bit floats. Its vertex count is the exported file's accessor count. Normals are rounded to 10⁻⁶ first,
 * so that equal directions reached by different sums are one.
 */
export function gpuMesh(mesh: PolyMesh, options: NormalOptions = {}): GpuMesh {
  const triangles = triangleCount(mesh);
  const corners = 3 * triangles;
  const normals = cornerNormals(mesh, options);
  const layout = attribute(mesh, 'uv', 'corner')?.data;
  const position = new Float32Array(3 * corners);
  const normal = new Float32Array(3 * corners);
  const uv = layout ? new Float32Array(2 * corners) : undefined;
  for (let i = 0; i < corners; i++) {
    const c = mesh.triangles[i];
    const v = mesh.faceVert[c];
    // A face without area has no direction of its own; files want a unit one all the same.
    const directed = Math.abs(normals[3 * c]) + Math.abs(normals[3 * c + 1]) + Math.abs(normals[3 * c + 2]) > 1e-6;
    for (let k = 0; k < 3; k++) {
      position[3 * i + k] = mesh.positions[3 * v + k];
      normal[3 * i + k] = directed ? Math.round(normals[3 * c + k] * 1e6) / 1e6 : k === 2 ? 1 : 0;
    }
    if (uv && layout) {
      uv[2 * i] = layout[2 * c];
      uv[2 * i + 1] = layout[2 * c + 1];
    }
  }
  const tangent = uv ? mikkTangents(position, normal, uv) : undefined;
  if (tangent)
    for (let i = 0; i < tangent.length; i += 4) {
      if (Math.abs(tangent[i]) + Math.abs(tangent[i + 1]) + Math.abs(tangent[i + 2]) < 1e-6)
        tangent.set(Math.abs(normal[(3 * i) / 4]) < 0.9 ? [1, 0, 0] : [0, 1, 0], i);
      for (let k = 0; k < 4; k++) tangent[i + k] = Math.round(tangent[i + k] * 1e6) / 1e6;
    }

  const width = 6 + (uv ? 2 : 0) + (tangent ? 4 : 0);
  const record = new Float32Array(width);
  const words = new Uint32Array(record.buffer);
  const table = new Map<number, number[]>();
  const records: number[] = [];
  const corner: number[] = [];
  const index = new Uint32Array(corners);
  for (let i = 0; i < corners; i++) {
    for (let k = 0; k < 3; k++) {
      record[k] = position[3 * i + k] + 0;
      record[3 + k] = normal[3 * i + k] + 0;
    }
    if (uv) record.set([uv[2 * i] + 0, uv[2 * i + 1] + 0], 6);
    if (tangent) for (let k = 0; k < 4; k++) record[8 + k] = tangent[4 * i + k] + 0;
    let h = 0x811c9dc5;
    for (let k = 0; k < width; k++) h = Math.imul(h ^ words[k] ^ (words[k] >>> 15), 0x01000193);
    const list = table.get(h);
    let found = -1;
    for (const j of list ?? []) {
      let same = true;
      for (let k = 0; same && k < width; k++) same = records[width * j + k] === record[k];
      if (same) {
        found = j;
        break;
      }
    }
    if (found < 0) {
      found = corner.push(mesh.triangles[i]) - 1;
      for (let k = 0; k < width; k++) records.push(record[k]);
      if (list) list.push(found);
      else table.set(h, [found]);
    }
    index[i] = found;
  }
  const column = (from: number, size: number): Float32Array => {
    const out = new Float32Array(size * corner.length);
    for (let v = 0; v < corner.length; v++) for (let k = 0; k < size; k++) out[size * v + k] = records[width * v + from + k];
    return out;
  };
  return {
    index,
    position: column(0, 3),
    normal: column(3, 3),
    ...(uv && { uv: column(6, 2) }),
    ...(tangent && { tangent: column(8, 4) }),
    corner: Uint32Array.from(corner),
  };
}
