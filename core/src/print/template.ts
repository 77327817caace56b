import { edgesOf, twin } from '../mesh/connectivity';
import { hardEdges } from '../mesh/normals';
import { attribute, type PolyMesh } from '../mesh/polymesh';
import type { Flat } from './carrier';
import { clippedLine } from './judge';
import { type LaidPrint, turned } from './lay';

/** Edges that turn by more than this are drawn, degrees. */
const SHARP = 30;

/**
 * What lies under a print, as a sheet of its own size to paint on: the edges of its face, seams of the layout, what is to be kept clear. Painted
 * over and brought in its place it lies where it was painted, to the pixel: sheet and print are one rectangle.
 *
 * @returns SVG in mm, y down
 */
export function printTemplate(mesh: PolyMesh, laid: LaidPrint): string {
  const { print, triangles, corners, carrier } = laid;
  const { width, height, keepClear = 0 } = print;
  const edges = edgesOf(mesh);
  const hard = hardEdges(mesh, { hardAngle: SHARP }, edges);
  const uv = attribute(mesh, 'uv', 'corner')?.data;
  const mine = new Set(carrier.faces);
  const lines: Record<'edge' | 'seam', string[]> = { edge: [], seam: [] };
  for (let n = 0; n < triangles.length; n++)
    for (let k = 0; k < 3; k++) {
      const c = mesh.triangles[3 * triangles[n] + k];
      const l = (k + 1) % 3;
      const d = mesh.triangles[3 * triangles[n] + l];
      // A diagonal of a face is none of its edges.
      if (edges.next[c] !== d) continue;
      const other = twin(edges, c);
      const isEdge = other < 0 || hard[edges.ofCorner[c]] === 1 || !mine.has(edges.faceOf[other]);
      const isSeam = !isEdge && uv !== undefined && !meets(uv, c, d, edges.next[other], other);
      if (!isEdge && !isSeam) continue;
      const [p, q] = [k, l].map((i) => turned(print, [corners[6 * n + 2 * i], corners[6 * n + 2 * i + 1]]));
      const line = clippedLine(p, q, print);
      if (line) lines[isEdge ? 'edge' : 'seam'].push(`M${at(line[0])}L${at(line[1])}`);
    }
  function at([x, y]: Flat): string {
    return `${n4(x + width / 2)} ${n4(height / 2 - y)}`;
  }
  const thin = Math.max(0.05, Math.min(width, height) / 400);
  const clear =
    keepClear > 0 && 2 * keepClear < Math.min(width, height)
      ? `<rect x="${n4(keepClear)}" y="${n4(keepClear)}" width="${n4(width - 2 * keepClear)}" height="${n4(height - 2 * keepClear)}" stroke="#0b6e6e" stroke-dasharray="${n4(4 * thin)}"/>`
      : '';
  return `<svg xmlns="http://www.w3.org/2000/svg" width="${n4(width)}mm" height="${n4(height)}mm" viewBox="0 0 ${n4(width)} ${n4(height)}"><title>${escaped(print.name)}</title><desc>${n4(width)} × ${n4(height)} mm</desc><rect width="${n4(width)}" height="${n4(height)}" fill="#fcfaf4"/><g fill="none" stroke-width="${n4(thin)}"><path stroke="#1b2a33" d="${lines.edge.join('')}"/><path stroke="#b23240" stroke-dasharray="${n4(6 * thin)} ${n4(3 * thin)}" d="${lines.seam.join('')}"/>${clear}<rect x="${n4(thin / 2)}" y="${n4(thin / 2)}" width="${n4(width - thin)}" height="${n4(height - thin)}" stroke="#1b2a33"/></g></svg>`;
}

const n4 = (x: number): string => String(Math.round(x * 1e4) / 1e4);
const escaped = (words: string): string => words.replace(/[<>&]/g, (c) => `&#${c.charCodeAt(0)};`);
/** Whether both sides of an edge have its ends in the same places of the layout: the neighbour comes the other way. */
const meets = (uv: ArrayLike<number>, c: number, d: number, c2: number, d2: number): boolean =>
  [0, 1].every((k) => Math.abs(uv[2 * c + k] - uv[2 * c2 + k]) < 1e-9 && Math.abs(uv[2 * d + k] - uv[2 * d2 + k]) < 1e-9);
