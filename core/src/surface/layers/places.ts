import { fillTriangle } from '../../image/raster';
import { hash32 } from '../../maths/random';
import { shellsOf } from '../../mesh/connectivity';
import { cornerNormals } from '../../mesh/normals';
import { attribute, faceCount, type PolyMesh } from '../../mesh/polymesh';
import { twinFaces } from '../../uv/twins';
import { edgeLines } from './edges';
import type { Shell } from './place';

/** A part that is composed. */
export interface PlacedPart {
  id: string;
  mesh: PolyMesh;
}

/** What fields are laid by, of all parts: worked out once for their meshes. */
export interface Boards {
  shells: readonly Shell[];
  /** Of each part its edges that stick out. */
  lines: readonly Float32Array[];
  /** What strokes by hand lie on. */
  parts: readonly PlacedPart[];
  /** Of each part the shell of each face, by number. */
  ofFace: readonly Uint32Array[];
}
/** The same with what places are drawn from. */
export interface BoardsDrawn extends Boards {
  normals: readonly Float64Array[];
}

/** Sharper edges keep which way each side faces, marked hard or not, degrees. */
const HARD = 40;
const seedOf = (text: string): number => [...text].reduce((h, c) => hash32(h ^ c.charCodeAt(0)), 0x9e3779b9);

/** Pieces, edges and normals of parts. */
export function boardsOf(parts: readonly PlacedPart[]): BoardsDrawn {
  const shells: Shell[] = [];
  const ofFace: Uint32Array[] = [];
  for (const [part, { id, mesh }] of parts.entries()) {
    const found = shellsOf(mesh);
    const first = shells.length;
    const boxes = Array.from({ length: found.count }, () => ({ min: [1e9, 1e9, 1e9], max: [-1e9, -1e9, -1e9] }));
    for (let f = 0; f < faceCount(mesh); f++) {
      const { min, max } = boxes[found.ofFace[f]];
      for (let c = mesh.faceStart[f]; c < mesh.faceStart[f + 1]; c++)
        for (let k = 0; k < 3; k++) {
          const v = mesh.positions[3 * mesh.faceVert[c] + k];
          if (v < min[k]) min[k] = v;
          if (v > max[k]) max[k] = v;
        }
    }
    for (const [n, { min, max }] of boxes.entries()) {
      const sides = [0, 1, 2].map((k) => max[k] - min[k]);
      // Equal sides keep their order, to a thousandth, so that rounding has no say.
      const axes = [0, 1, 2].sort((a, b) => (Math.abs(sides[a] - sides[b]) < 1e-3 ? a - b : sides[b] - sides[a]));
      shells.push({
        part,
        number: first + n,
        seed: hash32(seedOf(id) + n),
        centre: [0, 1, 2].map((k) => (min[k] + max[k]) / 2) as [number, number, number],
        axes: axes as [number, number, number],
      });
    }
    ofFace.push(found.ofFace.map((s) => s + first));
  }
  return {
    shells,
    ofFace,
    parts: parts.map(({ id, mesh }) => ({ id, mesh })),
    normals: parts.map((p) => cornerNormals(p.mesh, { hardAngle: HARD })),
    lines: parts.map((p) => edgeLines(p.mesh)),
  };
}

/** Where the texels of some rows lie on the surface. */
export interface Places {
  size: number;
  from: number;
  to: number;
  /** 3 a texel, mm. */
  position: Float32Array;
  /** 3 a texel, unit. */
  normal: Float32Array;
  /** Number of its shell + 1; 0 outside the islands. */
  shell: Uint32Array;
  /** Side of a texel on the surface, mm. */
  footprint: Float32Array;
}

export const emptyPlaces = (
  size: number,
  from: number,
  to: number,
  allocate: (bytes: number) => ArrayBufferLike = (n) => new ArrayBuffer(n),
): Places => {
  const n = size * (to - from);
  return {
    size,
    from,
    to,
    position: new Float32Array(allocate(12 * n)),
    normal: new Float32Array(allocate(12 * n)),
    shell: new Uint32Array(allocate(4 * n)),
    footprint: new Float32Array(allocate(4 * n)),
  };
};

/** Fills rows `from` … `to` of `places`, which have to lie in it and to be empty. */
export function fillPlaces(parts: readonly PlacedPart[], boards: BoardsDrawn, places: Places, from = places.from, to = places.to): void {
  const { size } = places;
  for (const [n, { mesh }] of parts.entries()) {
    const uv = attribute(mesh, 'uv', 'corner')?.data;
    if (!uv) continue;
    const twins = twinFaces(mesh);
    const [ofFace, normals] = [boards.ofFace[n], boards.normals[n]];
    const p = mesh.positions;
    for (let t = 0; t < mesh.triangles.length; t += 3) {
      const face = mesh.triangleFace[t / 3];
      if (twins?.[face]) continue;
      const [a, b, c] = [mesh.triangles[t], mesh.triangles[t + 1], mesh.triangles[t + 2]];
      const [ay, by, cy] = [(1 - uv[2 * a + 1]) * size, (1 - uv[2 * b + 1]) * size, (1 - uv[2 * c + 1]) * size];
      if (Math.max(ay, by, cy) < from || Math.min(ay, by, cy) > to) continue;
      const [ax, bx, cx] = [uv[2 * a] * size, uv[2 * b] * size, uv[2 * c] * size];
      const [va, vb, vc] = [3 * mesh.faceVert[a], 3 * mesh.faceVert[b], 3 * mesh.faceVert[c]];
      const [ux, uy, uz] = [p[vb] - p[va], p[vb + 1] - p[va + 1], p[vb + 2] - p[va + 2]];
      const [wx, wy, wz] = [p[vc] - p[va], p[vc + 1] - p[va + 1], p[vc + 2] - p[va + 2]];
      const area = Math.hypot(uy * wz - uz * wy, uz * wx - ux * wz, ux * wy - uy * wx);
      const texels = Math.abs((bx - ax) * (cy - ay) - (by - ay) * (cx - ax));
      const footprint = texels > 0 ? Math.sqrt(area / texels) : 0;
      const shell = ofFace[face] + 1;
      fillTriangle(
        ax,
        ay,
        bx,
        by,
        cx,
        cy,
        size,
        to,
        (x, y, w0, w1, w2) => {
          const i = (y - places.from) * size + x;
          const o = 3 * i;
          for (let k = 0; k < 3; k++) places.position[o + k] = w0 * p[va + k] + w1 * p[vb + k] + w2 * p[vc + k];
          const nx = w0 * normals[3 * a] + w1 * normals[3 * b] + w2 * normals[3 * c];
          const ny = w0 * normals[3 * a + 1] + w1 * normals[3 * b + 1] + w2 * normals[3 * c + 1];
          const nz = w0 * normals[3 * a + 2] + w1 * normals[3 * b + 2] + w2 * normals[3 * c + 2];
          const long = Math.sqrt(nx * nx + ny * ny + nz * nz) || 1;
          places.normal[o] = nx / long;
          places.normal[o + 1] = ny / long;
          places.normal[o + 2] = nz / long;
          places.shell[i] = shell;
          places.footprint[i] = footprint;
        },
        from,
      );
    }
  }
}
