import { edgesOf, edgeValence } from '../mesh/connectivity';
import { keepFaces } from '../mesh/edit';
import { withoutDivisions } from '../mesh/flats';
import { idleLoops, withoutLoops } from '../mesh/idle';
import { cornerCount, faceCount, makeMesh, type PolyMesh, vertexCount } from '../mesh/polymesh';
import { flip } from '../mesh/transform';
import { weld } from '../mesh/weld';
import type { FixId } from './finding';
import { degenerateFaces } from './findings/degenerate';
import { DOUBLE_MM } from './findings/doubles';
import { inwardShells } from './findings/inward';
import { fansOf } from './findings/non-manifold';
import { UNSEEN_MM } from './inspect';
import { cutRoundFaces, fillRims, hardenCreases } from './mend';

/** The share of what may be off unseen by which taking idle loops away may move a surface. */
export const LOOPS_MOVE = 0.25;

/** Fixes that a mesh alone is enough for. */
export type MeshFix = Exclude<FixId, 'remove-hidden' | 'apply-scale' | 'leave-gap' | 'move-origin' | 'add-clear' | 'add-shade'>;

/**
 * Applies a fix to a part's mesh. Pure: the caller keeps the old one for undo.
 *
 * @param unseenMm what may be off without being seen, mm
 */
export function applyFix(mesh: PolyMesh, fix: MeshFix, unseenMm = UNSEEN_MM): PolyMesh {
  switch (fix) {
    case 'turn-outward':
      return turnOutward(mesh);
    case 'weld':
      return weld(mesh, { within: DOUBLE_MM });
    case 'weld-keep-seam':
      return weld(mesh, { within: DOUBLE_MM, keepOpeningAsSeam: true });
    case 'remove-degenerate': {
      const bad = new Set(degenerateFaces(mesh));
      return keepFaces(mesh, (f) => !bad.has(f));
    }
    case 'split-non-manifold':
      return splitNonManifold(mesh);
    case 'fill-rims':
      return fillRims(mesh);
    case 'triangulate':
      return cutRoundFaces(mesh, unseenMm);
    case 'mark-hard':
      return hardenCreases(mesh);
    case 'remove-loops':
      return withoutLoops(mesh, idleLoops(mesh, unseenMm * LOOPS_MOVE));
    case 'join-flats':
      return withoutDivisions(mesh);
  }
}

/** Makes neighbouring faces run the same way, shell by shell, then turns over the shells that face inward. */
export function turnOutward(mesh: PolyMesh): PolyMesh {
  const edges = edgesOf(mesh);
  const turned = new Int8Array(faceCount(mesh)).fill(-1);
  for (let seed = 0; seed < turned.length; seed++) {
    if (turned[seed] >= 0) continue;
    turned[seed] = 0;
    const queue = [seed];
    for (const f of queue)
      for (let c = mesh.faceStart[f]; c < mesh.faceStart[f + 1]; c++) {
        const e = edges.ofCorner[c];
        if (edgeValence(edges, e) !== 2) continue;
        const [a, b] = [edges.corners[edges.start[e]], edges.corners[edges.start[e] + 1]];
        const g = edges.faceOf[a] === f ? edges.faceOf[b] : edges.faceOf[a];
        if (turned[g] >= 0) continue;
        const same = mesh.faceVert[a] === mesh.faceVert[b];
        turned[g] = same ? 1 - turned[f] : turned[f];
        queue.push(g);
      }
  }
  const consistent = turned.includes(1) ? flip(mesh, turned) : mesh;
  const { shells, ofFace } = inwardShells(consistent, edgesOf(consistent));
  if (shells.length === 0) return consistent;
  const inward = new Set(shells.map((s) => s.shell));
  return flip(
    consistent,
    Uint8Array.from(ofFace, (s) => (inward.has(s) ? 1 : 0)),
  );
}

/** Gives every fan of faces a vertex of its own; nothing moves and no face is lost. */
export function splitNonManifold(mesh: PolyMesh): PolyMesh {
  const fans = fansOf(mesh, edgesOf(mesh));
  const owner = new Map<string, number>();
  const from: number[] = [];
  const claimed = new Uint8Array(vertexCount(mesh));
  const faceVert = new Uint32Array(cornerCount(mesh));
  const extra: number[] = [];
  for (let c = 0; c < faceVert.length; c++) {
    const v = mesh.faceVert[c];
    const key = `${v}/${fans[c]}`;
    let w = owner.get(key);
    if (w === undefined) {
      if (!claimed[v]) {
        claimed[v] = 1;
        w = v;
      } else {
        w = vertexCount(mesh) + extra.length / 3;
        extra.push(mesh.positions[3 * v], mesh.positions[3 * v + 1], mesh.positions[3 * v + 2]);
        from.push(v);
      }
      owner.set(key, w);
    }
    faceVert[c] = w;
  }
  const attributes = mesh.attributes.map((a) => {
    if (a.domain !== 'vertex' || from.length === 0) return a;
    const Kind = a.data.constructor as new (n: number) => typeof a.data;
    const data = new Kind(a.data.length + from.length * a.size);
    data.set(a.data);
    from.forEach((v, i) => {
      for (let k = 0; k < a.size; k++) data[a.data.length + a.size * i + k] = a.data[a.size * v + k];
    });
    return { ...a, data };
  });
  return makeMesh({ ...mesh, positions: [...mesh.positions, ...extra], faceVert, attributes });
}
