import { type Distances, measureDistances, missedBy } from '../bake/distances';
import { type IdPart, type Ids, idsOf } from '../bake/ids';
import type { Judgement } from '../bake/judge';
import { lieOf, type PairLie } from '../bake/lie';
import type { MapRange } from '../bake/maps/files';
import type { FurtherMap } from '../bake/maps/further';
import { type BakeGeometry, type BakePair, highSide, lowSide, sceneMatrices, sceneTree, setDistances } from '../bake/prepare';
import { roundedEdges } from '../bake/rounded';
import type { Verdict } from '../bake/verdict';
import { StageError } from '../errors';
import { IDENTITY, type Mat4, transformPoint } from '../maths/mat4';
import { boundsOf } from '../mesh/measures';
import { cornerNormals } from '../mesh/normals';
import { faceCount, makeMesh, type PolyMesh, vertexCount } from '../mesh/polymesh';
import { type Allocate, PRIVATE } from '../rays/tree';
import { checkpoint, QUIET, type Task } from '../task';
import { type AssetDocument, type BakeChoices, isMoved, type Role, sharers } from './document';
import type { PartMesh } from './form';

/** What a bake follows from, beside the meshes; `size` is the side of its maps, px. */
export interface BakeSettings extends BakeChoices {
  size: number;
  /** Copies that have the texels of another part, by id: they shade and are not baked themselves. */
  shares?: string[];
}

/** What was found about one pair of low and high. */
export interface PairFigures {
  id: string;
  name: string;
  /** It has no high mesh and was baked from itself. */
  itself: boolean;
  lowTriangles: number;
  highTriangles: number;
  frontMm: number;
  rearMm: number;
  /** Samples the measured and the uniform choice would miss. */
  lostShare: number;
  uniformMissedShare: number;
  /** How the two meshes lie to each other; nothing where there is only one, or both come from one recipe. */
  lie?: PairLie;
  /** Shares of its rays that found nothing, and that met a back face. */
  missedShare: number;
  backShare: number;
}

/** What is kept of a bake. */
export interface BakeFigures {
  pairs: PairFigures[];
  histogram: { from: number; to: number; counts: number[] };
  /** One distance for the whole asset that would do the same, mm. */
  uniform: { front: number; rear: number };
  missedShare: number;
  backShare: number;
  rays: number;
  seconds: number;
  /** Share of covered texels more than 10° from flat. */
  leaningShare: number;
  /** Hard edges of parts without a high mesh were rounded by so much, mm; 0 where none was. */
  roundedMm: number;
  /** What black and white of a map stand for. */
  ranges: Partial<Record<FurtherMap, MapRange>>;
  ids?: Omit<Ids, 'triangles'>;
  judgement?: Judgement;
  verdict?: Verdict;
}

/**
 * Files of a bake by what they hold: PNG, and `…Exr` where a map’s own values are kept beside its picture. `glbNormal` has 8 bits and Y up,
 * as glTF asks; `judged` says how far every texel is off.
 */
export type BakeFile = 'normal' | 'glbNormal' | 'occlusion' | 'curvature' | FurtherMap | `${ExrMap}Exr` | 'judged';
export type BakeFiles = Partial<Record<BakeFile, Uint8Array>>;
/** The same with what kind of file each is. */
export const bakeFiles = (files: BakeFiles): Record<string, { bytes: Uint8Array; kind: 'png' | 'exr' }> =>
  Object.fromEntries(
    Object.entries(files).flatMap(([name, bytes]) =>
      bytes ? [[name, { bytes, kind: name.endsWith('Exr') ? ('exr' as const) : ('png' as const) }]] : [],
    ),
  );
/** Maps whose values are lengths. */
export type ExrMap = Extract<FurtherMap, 'thickness' | 'position' | 'height'>;

/** Maps and figures of a bake. */
export interface BakeResult {
  figures: BakeFigures;
  files: BakeFiles;
}

/** Roles that light passes through or that give it: they shade nothing. */
const CLEAR: readonly Role[] = ['glass', 'liquid', 'flame'];

/** The settings a document gives its bake. */
export function bakeSettings(document: AssetDocument): BakeSettings {
  const shares = Object.keys(sharers(document));
  return { ...document.bake, size: document.brief.limits.textureSize, ...(shares.length > 0 && { shares }) };
}

/** A bake whose distances are known, ready for its rays. */
export interface PreparedBake {
  prepared: BakeGeometry;
  distances: Distances[];
  figures: PairFigures[];
  ids: Omit<Ids, 'triangles'> | null;
}

/** What a bake knows of a part beside its meshes. */
export interface AboutPart {
  role: Role;
  /** It slides, turns or is taken off: where it stands now is one place of many. */
  moves: boolean;
  /** Its high mesh was brought, not made by the recipe that made the low one. */
  brought?: boolean;
  /** Names, for the id map. */
  material?: string | null;
  regions?: IdPart['regions'];
}
export function aboutParts({ parts, materials }: Pick<AssetDocument, 'parts' | 'materials'>): Map<string, AboutPart> {
  const name = (id: string | null | undefined) => materials.find((m) => m.id === id)?.name ?? null;
  return new Map(
    parts.map((p) => [
      p.id,
      {
        role: p.role,
        moves: isMoved(p),
        brought: p.high !== undefined,
        material: name(p.material),
        regions: (p.regions ?? []).map((r) => ({ name: r.name, material: name(r.material) })),
      },
    ]),
  );
}

/** How far a part is searched that is baked from itself: a thousandth of its size, mm. */
const ITSELF = 0.001;

/** Rays of thickness go no farther from straight in, degrees. */
const THICKNESS_CONE = 30;

/**
 * Pairs the meshes by part, measures their distances and builds the trees. A part that has no high mesh is baked from itself: its
 * normals stay as they are, or as its hard edges are rounded, and it occludes and is occluded like all others.
 */
export function prepareBake(
  all: readonly PartMesh[],
  high: readonly PartMesh[],
  about: ReadonlyMap<string, AboutPart>,
  settings: BakeSettings,
  task: Task = QUIET,
  allocate: Allocate = PRIVATE,
): PreparedBake {
  const low = all.filter((l) => !settings.shares?.includes(l.id));
  const partners = new Map(high.map((h) => [h.id, h]));
  const pairs: BakePair[] = [];
  const distances: Distances[] = [];
  const figures: PairFigures[] = [];
  const casts = (settings.occlusion || settings.further.includes('bentNormal')) && settings.occlusionRays > 0;
  const shades = (id: string) => settings.neighbours && (settings.movingOcclude || !about.get(id)?.moves);
  if (!settings.itself && !low.some((l) => partners.has(l.id)))
    throw new StageError('bake/pairs', 'No part has a high mesh to bake from; import one, or bake the parts from themselves.');
  const ids = settings.further.includes('id')
    ? idsOf(
        low.map((l) => idPart(l, partners.get(l.id), about.get(l.id))),
        settings.idBy,
        settings.idClean,
      )
    : null;
  const solid: PartMesh[] = [];
  for (const [i, l] of low.entries()) {
    checkpoint(task);
    task.progress((0.8 * i) / low.length, `measuring ${l.name}`);
    const partner = partners.get(l.id);
    const h = partner ?? l;
    if (!isClear(about.get(l.id)) && faceCount(h.mesh) > 0) solid.push(h);
    const made = pairOf(l, partner, about.get(l.id), settings, allocate);
    const own =
      casts && !shades(l.id) && faceCount(h.mesh) > 0 ? sceneTree([{ mesh: h.mesh, placements: [l.placements[0]] }], allocate) : null;
    pairs.push({ ...made.pair, own, ids: ids && inMemory(ids.triangles.get(l.id) as Uint16Array, allocate) });
    distances.push(made.distances);
    figures.push(made.figures);
  }
  // High parts that nothing low stands for, and copies that are not baked, still stand in the way.
  const lone = high.filter((h) => !low.some((l) => l.id === h.id) && !isClear(about.get(h.id)) && faceCount(h.mesh) > 0);
  const occluders: Occluder[] = [...solid, ...lone].filter((h) => shades(h.id));
  if (settings.ground) occluders.push(groundBelow([...low, ...lone]));
  task.progress(0.85, 'building the scene');
  return {
    prepared: {
      size: settings.size,
      samples: settings.samples,
      pairs,
      scene: casts ? sceneTree(occluders, allocate) : null,
      occlusionRays: casts ? settings.occlusionRays : 0,
      reachMm: settings.reachMm,
      spreadDegrees: settings.spreadDegrees,
      wantNormal: settings.normal,
      curvatureRadiusMm: settings.curvature ? settings.curvatureRadiusMm : 0,
      thickness: { rays: Math.max(8, settings.occlusionRays), reachMm: settings.thicknessMm, coneDegrees: THICKNESS_CONE },
      further: settings.further,
      idsOfHigh: settings.idBy === 'colour' && ids !== null,
    },
    distances,
    figures,
    ids: ids && { by: ids.by, legend: ids.legend, strays: ids.strays, cleaned: ids.cleaned },
  };
}

const isClear = (about: AboutPart | undefined): boolean => CLEAR.includes(about?.role ?? 'body');
const idPart = (l: PartMesh, partner: PartMesh | undefined, about: AboutPart | undefined): IdPart => ({
  id: l.id,
  name: l.name,
  mesh: l.mesh,
  painted: partner?.mesh ?? l.mesh,
  material: about?.material ?? null,
  regions: about?.regions ?? [],
});

/** One part with what it is baked from, its distances set. */
function pairOf(
  l: PartMesh,
  partner: PartMesh | undefined,
  about: AboutPart | undefined,
  settings: BakeSettings,
  allocate: Allocate,
): { pair: Omit<BakePair, 'own' | 'ids'>; distances: Distances; figures: PairFigures } {
  const low = lowSide(l.mesh, allocate);
  const high = partner ? highSide(partner.mesh, allocate) : highSide(l.mesh, allocate, cornerNormals(l.mesh));
  const d = partner ? measureDistances(l.mesh, low, high) : fromItself(l.mesh);
  const uniform = settings.distances === 'uniform' && partner !== undefined;
  const every = (mm: number) => new Float64Array(d.front.length).fill(mm);
  setDistances(low, l.mesh, uniform ? every(settings.frontMm) : d.front, uniform ? every(settings.rearMm) : d.rear);
  const rounded = !partner && settings.roundMm > 0 ? roundedEdges(l.mesh, settings.roundMm, allocate) : null;
  return {
    pair: { id: l.id, name: l.name, low, high, rounded, ...sceneMatrices(l.placements[0]) },
    distances: { ...d, front: inMemory(d.front, allocate), rear: inMemory(d.rear, allocate), signed: inMemory(d.signed, allocate) },
    figures: {
      id: l.id,
      name: l.name,
      itself: partner === undefined,
      lowTriangles: low.triangles,
      highTriangles: high.normals.length / 9,
      frontMm: uniform ? settings.frontMm : d.uniform.front,
      rearMm: uniform ? settings.rearMm : d.uniform.rear,
      lostShare: d.lost / Math.max(1, d.lost + d.signed.length),
      uniformMissedShare: missedBy(d, settings.frontMm, settings.rearMm),
      ...(partner && about?.brought && { lie: lieOf(l.mesh, high, partner.mesh, d) }),
      missedShare: 0,
      backShare: 0,
    },
  };
}

/** What stands in the way of light, and where. */
interface Occluder {
  mesh: PolyMesh;
  placements: readonly Mat4[];
}

/** How many times its size the ground reaches beyond a piece. */
const GROUND = 20;

/** The ground that a piece stands on: a square through its lowest point. */
function groundBelow(parts: readonly PartMesh[]): Occluder {
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

/** Distances of a part to itself: none, searched over a little. */
function fromItself(mesh: PolyMesh): Distances {
  const b = boundsOf(mesh);
  const reach = Math.max(0.005, ITSELF * Math.hypot(...b.max.map((x, k) => x - b.min[k])));
  const each = () => new Float64Array(vertexCount(mesh)).fill(reach);
  return { front: each(), rear: each(), signed: new Float32Array(0), lost: 0, uniform: { front: reach, rear: reach } };
}

/** The same numbers where every worker can see them, so that handing them on copies nothing. */
function inMemory<T extends Float32Array | Float64Array | Uint16Array>(values: T, allocate: Allocate): T {
  const out = new (values.constructor as new (buffer: ArrayBufferLike) => T)(allocate(values.byteLength));
  out.set(values);
  return out;
}
