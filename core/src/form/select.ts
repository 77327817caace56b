import { edgesOf, twin } from '../mesh/connectivity';
import { faceNormals, hardEdges } from '../mesh/normals';
import { faceCount, type PolyMesh } from '../mesh/polymesh';

/** How a click on a face grows: that face, the loop of quads round or along, everything joined to it, or up to a turn of the surface. */
export type Reach = 'face' | 'round' | 'along' | 'connected' | 'spread';

/**
 * The faces a click takes.
 *
 * @param degrees for `spread`: edges sharper than this, or marked hard, stop it
 */
export function facesFrom(mesh: PolyMesh, face: number, reach: Reach, degrees = 30): number[] {
  if (reach === 'face') return [face];
  const edges = edgesOf(mesh);
  if (reach === 'round' || reach === 'along') return quadLoop(mesh, edges, face, reach === 'round' ? 1 : 0);
  const stop = reach === 'spread' ? hardEdges(mesh, { hardAngle: degrees }, edges) : undefined;
  const seen = new Uint8Array(faceCount(mesh));
  seen[face] = 1;
  const out = [face];
  for (const f of out)
    for (let c = mesh.faceStart[f]; c < mesh.faceStart[f + 1]; c++) {
      const other = twin(edges, c);
      if (other < 0 || stop?.[edges.ofCorner[c]]) continue;
      const g = edges.faceOf[other];
      if (!seen[g]) {
        seen[g] = 1;
        out.push(g);
      }
    }
  return out;
}

/** Quads one after the other across opposite edges, both ways, until the way comes back or meets something else. */
function quadLoop(mesh: PolyMesh, edges: ReturnType<typeof edgesOf>, face: number, first: 0 | 1): number[] {
  const isQuad = (f: number) => mesh.faceStart[f + 1] - mesh.faceStart[f] === 4;
  if (!isQuad(face)) return [face];
  const out = new Set([face]);
  for (const side of [first, first + 2]) {
    let c = mesh.faceStart[face] + side;
    for (;;) {
      const other = twin(edges, c);
      if (other < 0) break;
      const f = edges.faceOf[other];
      if (out.has(f) || !isQuad(f)) break;
      out.add(f);
      c = mesh.faceStart[f] + ((other - mesh.faceStart[f] + 2) % 4);
    }
  }
  return [...out];
}

/** Faces whose normal is within `degrees` of a direction. */
export function facesFacing(mesh: PolyMesh, direction: readonly [number, number, number], degrees: number): number[] {
  const n = faceNormals(mesh);
  const long = Math.hypot(...direction) || 1;
  const limit = Math.cos((degrees * Math.PI) / 180) - 1e-12;
  const out: number[] = [];
  for (let f = 0; f < faceCount(mesh); f++)
    if ((n[3 * f] * direction[0] + n[3 * f + 1] * direction[1] + n[3 * f + 2] * direction[2]) / long >= limit) out.push(f);
  return out;
}

/**
 * Faces that seem to have been missed or taken by mistake: small islands of the chosen among the others, and holes in the chosen.
 *
 * @param share islands smaller than this share of what they belong to count
 */
export function strayFaces(mesh: PolyMesh, chosen: Uint8Array, share = 0.02): { taken: number[]; missed: number[] } {
  const edges = edgesOf(mesh);
  const seen = new Uint8Array(faceCount(mesh));
  const islands: { chosen: boolean; faces: number[]; rim: boolean }[] = [];
  for (let start = 0; start < seen.length; start++) {
    if (seen[start]) continue;
    seen[start] = 1;
    const faces = [start];
    let rim = false;
    for (const f of faces)
      for (let c = mesh.faceStart[f]; c < mesh.faceStart[f + 1]; c++) {
        const other = twin(edges, c);
        if (other < 0) continue;
        const g = edges.faceOf[other];
        if (chosen[g] !== chosen[f]) rim = true;
        else if (!seen[g]) {
          seen[g] = 1;
          faces.push(g);
        }
      }
    islands.push({ chosen: chosen[start] === 1, faces, rim });
  }
  const of = (which: boolean) => {
    const mine = islands.filter((i) => i.chosen === which);
    const most = Math.max(0, ...mine.map((i) => i.faces.length));
    // Whole shells are meant; a lone bit beside something much larger is not.
    return mine.filter((i) => i.rim && i.faces.length < Math.max(2, share * most) && i.faces.length < most / 8).flatMap((i) => i.faces);
  };
  return { taken: of(true), missed: of(false) };
}
