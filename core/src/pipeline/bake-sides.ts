import { laidDabs } from '../bake/dabs';
import { type Distances, leanOf, measureDistances, missedBy } from '../bake/distances';
import { lieOf, type PairLie } from '../bake/lie';
import {
  type BakePair,
  type Directions,
  type HighSide,
  highSide,
  type LowShape,
  type LowSide,
  lowSide,
  sceneMatrices,
  setDistances,
} from '../bake/prepare';
import { roundedEdges } from '../bake/rounded';
import { IDENTITY, type Mat4, transformPoint } from '../maths/mat4';
import { boundsOf } from '../mesh/measures';
import { cornerNormals } from '../mesh/normals';
import { makeMesh, type PolyMesh, vertexCount } from '../mesh/polymesh';
import type { Allocate } from '../rays/tree';
import type { BakeSettings, PairFigures } from './bake';
import type { PartMesh } from './form';

/** How far a part is searched that is baked from itself: a thousandth of its size, mm. */
const ITSELF = 0.001;

/** What of a part follows from its meshes alone: laid out, and its distances measured. */
export interface Sides {
  low: LowSide;
  high: HighSide;
  distances: Distances;
  lie: PairLie | null;
}
/** Sides by part and direction of search, for bakes of the same meshes with other settings. */
export type SidesKept = Map<string, Sides>;

export function sidesOf(l: PartMesh, partner: PartMesh | undefined, brought: boolean, directions: Directions, allocate: Allocate): Sides {
  const low = lowSide(l.mesh, allocate, directions);
  const high = partner ? highSide(partner.mesh, allocate) : highSide(l.mesh, allocate, cornerNormals(l.mesh));
  const d = distancesOf(l.mesh, low, partner && high);
  return {
    low,
    high,
    distances: { ...d, front: inMemory(d.front, allocate), rear: inMemory(d.rear, allocate), signed: inMemory(d.signed, allocate) },
    lie: partner && brought ? lieOf(l.mesh, high, partner.mesh, d) : null,
  };
}

/** One part with what it is baked from, its distances set. @param lit where it stands while light is looked for */
export function pairOf(
  l: PartMesh,
  partner: PartMesh | undefined,
  { low, high, distances: d, lie }: Sides,
  settings: BakeSettings,
  lit: Mat4,
  allocate: Allocate,
): { pair: Omit<BakePair, 'own' | 'ids' | 'shades'>; figures: PairFigures } {
  const uniform = settings.distances === 'uniform' && partner !== undefined;
  const every = (mm: number) => new Float64Array(d.front.length).fill(mm);
  setDistances(low, l.mesh, uniform ? every(settings.frontMm) : d.front, uniform ? every(settings.rearMm) : d.rear);
  const rounded = !partner && settings.roundMm > 0 ? roundedEdges(l.mesh, settings.roundMm, allocate) : null;
  return {
    pair: {
      id: l.id,
      name: l.name,
      low,
      high,
      rounded,
      dabs: inMemory(laidDabs(settings.dabs, l.id), allocate),
      ...sceneMatrices(l.placements[0], lit),
    },
    figures: {
      id: l.id,
      name: l.name,
      itself: partner === undefined,
      lowTriangles: low.triangles,
      highTriangles: high.normals.length / 9,
      frontMm: uniform ? settings.frontMm : d.uniform.front,
      rearMm: uniform ? settings.rearMm : d.uniform.rear,
      lean: leanOf(low),
      lostShare: d.lost / Math.max(1, d.lost + d.signed.length),
      uniformMissedShare: missedBy(d, settings.frontMm, settings.rearMm),
      ...(lie && { lie }),
      missedShare: 0,
      backShare: 0,
      mendingShare: 0,
    },
  };
}

/** What stands in the way of light, and where. */
export interface Occluder {
  mesh: PolyMesh;
  placements: readonly Mat4[];
}

/** How many times its size the ground reaches beyond a piece. */
const GROUND = 20;

/** The ground that a piece stands on: a square through its lowest point. */
export function groundBelow(parts: readonly PartMesh[]): Occluder {
  const min = [Infinity, Infinity, Infinity];
  const max = [-Infinity, -Infinity, -Infinity];
  for (const { mesh, placements } of parts)
    for (const m of placements)
      for (let v = 0; v < vertexCount(mesh); v++) {
        const p = transformPoint(m, [mesh.positions[3 * v], mesh.positions[3 * v + 1], mesh.positions[3 * v + 2]]);
        for (let k = 0; k < 3; k++) {
          min[k] = Math.min(min[k], p[k]);
          max[k] = Math.max(max[k], p[k]);
        }
      }
  const far = GROUND * Math.max(1, ...max.map((x, k) => x - min[k]));
  const [x, y, z] = [(min[0] + max[0]) / 2, min[1], (min[2] + max[2]) / 2];
  const positions = [x - far, y, z - far, x - far, y, z + far, x + far, y, z + far, x + far, y, z - far];
  return { mesh: makeMesh({ positions, faceStart: [0, 4], faceVert: [0, 1, 2, 3] }), placements: [IDENTITY] };
}

/** How far a part’s rays have to search, measured; hardly at all where it is baked from itself. */
export const distancesOf = (mesh: PolyMesh, low: LowShape, high: HighSide | undefined): Distances =>
  high ? measureDistances(mesh, low, high) : fromItself(mesh);

/** Distances of a part to itself: none, searched over a little. */
function fromItself(mesh: PolyMesh): Distances {
  const b = boundsOf(mesh);
  const reach = Math.max(0.005, ITSELF * Math.hypot(...b.max.map((x, k) => x - b.min[k])));
  const each = () => new Float64Array(vertexCount(mesh)).fill(reach);
  return { front: each(), rear: each(), signed: new Float32Array(0), lost: 0, uniform: { front: reach, rear: reach }, trials: [] };
}

/** The same numbers where every worker can see them, so that handing them on copies nothing. */
export function inMemory<T extends Float32Array | Float64Array | Uint16Array>(values: T, allocate: Allocate): T {
  const out = new (values.constructor as new (buffer: ArrayBufferLike) => T)(allocate(values.byteLength));
  out.set(values);
  return out;
}
