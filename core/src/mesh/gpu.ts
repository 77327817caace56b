import { cornerNormals, type NormalOptions } from './normals';
import { type Attribute, attribute, type PolyMesh, triangleCount } from './polymesh';
import { Records } from './records';
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
  /** What a file brought beside those: more layouts, colours. */
  more: { name: string; size: number; data: Float32Array }[];
  /** Vertex → one of the corners it stands for. */
  corner: Uint32Array;
}

/** What a mesh for the card is made with. */
export interface GpuOptions extends NormalOptions {
  /** Tangents are wanted with the layout; they part vertices where its directions do. */
  tangents?: boolean;
}

/** Layouts beside the first and colours, as a file brought them: they are carried along and written again. */
export const isCarried = (a: Attribute): boolean => a.domain === 'corner' && /^(uv[2-4]|colour)$/.test(a.name);

/**
 * Splits a mesh for the graphics card: a vertex is shared only while everything it carries agrees to the last bit of its 32-bit floats.
 * Its vertex count is the exported file's accessor count. Normals are rounded to 10⁻⁶ first, so that equal directions reached by
 * different sums are one.
 */
export function gpuMesh(mesh: PolyMesh, { tangents = true, ...options }: GpuOptions = {}): GpuMesh {
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
  const tangent = uv && tangents ? roundedTangents(position, normal, uv) : undefined;
  const columns = [
    { size: 3, at: (i: number, k: number) => position[3 * i + k] },
    { size: 3, at: (i: number, k: number) => normal[3 * i + k] },
    ...(uv ? [{ size: 2, at: (i: number, k: number) => uv[2 * i + k] }] : []),
    ...(tangent ? [{ size: 4, at: (i: number, k: number) => tangent[4 * i + k] }] : []),
    ...mesh.attributes.filter(isCarried).map((a) => ({
      size: a.size,
      name: a.name,
      at: (i: number, k: number) => a.data[a.size * mesh.triangles[i] + k],
    })),
  ];
  const records = new Records(
    columns.reduce((n, c) => n + c.size, 0),
    Math.ceil(corners / 4),
  );
  const corner: number[] = [];
  const index = new Uint32Array(corners);
  for (let i = 0; i < corners; i++) {
    let from = 0;
    for (const { size, at } of columns) for (let k = 0; k < size; k++) records.set(from++, at(i, k));
    index[i] = records.number();
    if (index[i] === corner.length) corner.push(mesh.triangles[i]);
  }
  let from = 0;
  const taken = columns.map((c) => {
    const data = records.column(from, c.size);
    from += c.size;
    return data;
  });
  return {
    index,
    position: taken[0],
    normal: taken[1],
    ...(uv && { uv: taken[2] }),
    ...(tangent && { tangent: taken[3] }),
    more: columns.flatMap((c, i) => ('name' in c ? [{ name: c.name, size: c.size, data: taken[i] }] : [])),
    corner: Uint32Array.from(corner),
  };
}

/** One tangent per corner, rounded as normals are; where there is none, any across the normal. */
function roundedTangents(position: Float32Array, normal: Float32Array, uv: Float32Array): Float32Array {
  const tangent = Float32Array.from(mikkTangents(position, normal, uv));
  for (let i = 0; i < tangent.length; i += 4) {
    if (Math.abs(tangent[i]) + Math.abs(tangent[i + 1]) + Math.abs(tangent[i + 2]) < 1e-6)
      tangent.set(Math.abs(normal[(3 * i) / 4]) < 0.9 ? [1, 0, 0] : [0, 1, 0], i);
    for (let k = 0; k < 4; k++) tangent[i + k] = Math.round(tangent[i + k] * 1e6) / 1e6;
  }
  return tangent;
}
