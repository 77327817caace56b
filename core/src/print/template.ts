import { linesPath, mmText, rectPath, type SheetLayer, type VectorSheet } from '../drawing/vector-sheet';
import { edgesOf, isJoined, twin } from '../mesh/connectivity';
import { hardEdges } from '../mesh/normals';
import { attribute, type PolyMesh } from '../mesh/polymesh';
import type { Flat } from './carrier';
import { clippedLine } from './judge';
import { type LaidPrint, turned } from './lay';

/** Edges that turn by more than this are drawn, degrees. */
const SHARP = 30;
const PAPER = [252, 250, 244] as const;
const INK = [27, 42, 51] as const;
const SEAM = [178, 50, 64] as const;
const CLEAR = [11, 110, 110] as const;

/**
 * What lies under a print, as a sheet of its own size to paint on: the edges of its face, seams of the layout, what is to be kept clear. Painted
 * over and brought in its place it lies where it was painted, to the pixel: sheet and print are one rectangle.
 *
 * @returns a drawing of the print’s size
 */
export function printTemplate(mesh: PolyMesh, laid: LaidPrint): VectorSheet {
  const { print, triangles, corners, carrier } = laid;
  const { width, height, keepClear = 0 } = print;
  const edges = edgesOf(mesh);
  const hard = hardEdges(mesh, { hardAngle: SHARP }, edges);
  const uv = attribute(mesh, 'uv', 'corner')?.data;
  const mine = new Set(carrier.faces);
  const lines: Record<'edge' | 'seam', number[]> = { edge: [], seam: [] };
  for (let n = 0; n < triangles.length; n++)
    for (let k = 0; k < 3; k++) {
      const c = mesh.triangles[3 * triangles[n] + k];
      const l = (k + 1) % 3;
      const d = mesh.triangles[3 * triangles[n] + l];
      // A diagonal of a face is none of its edges.
      if (edges.next[c] !== d) continue;
      const other = twin(edges, c);
      const isEdge = other < 0 || hard[edges.ofCorner[c]] === 1 || !mine.has(edges.faceOf[other]);
      const isSeam = !isEdge && uv !== undefined && !isJoined(uv, c, d, edges.next[other], other);
      if (!isEdge && !isSeam) continue;
      const [p, q] = [k, l].map((i) => turned(print, [corners[6 * n + 2 * i], corners[6 * n + 2 * i + 1]]));
      const line = clippedLine(p, q, print);
      if (line) lines[isEdge ? 'edge' : 'seam'].push(...line.flatMap(at));
    }
  function at([x, y]: Flat): [number, number] {
    return [x + width / 2, height / 2 - y];
  }
  const thin = Math.max(0.05, Math.min(width, height) / 400);
  const layers: SheetLayer[] = [
    { id: 'paper', path: rectPath(0, 0, width, height), fill: PAPER },
    { id: 'edges', path: linesPath(lines.edge), stroke: { ink: INK, mm: thin } },
    { id: 'seams', path: linesPath(lines.seam), stroke: { ink: SEAM, mm: thin, dash: [6 * thin, 3 * thin] } },
  ];
  if (keepClear > 0 && 2 * keepClear < Math.min(width, height))
    layers.push({
      id: 'keep-clear',
      path: rectPath(keepClear, keepClear, width - 2 * keepClear, height - 2 * keepClear),
      stroke: { ink: CLEAR, mm: thin, dash: [4 * thin, 4 * thin] },
    });
  layers.push({ id: 'frame', path: rectPath(thin / 2, thin / 2, width - thin, height - thin), stroke: { ink: INK, mm: thin } });
  return { title: print.name, about: `${mmText(width)} × ${mmText(height)} mm`, mm: [width, height], layers };
}
