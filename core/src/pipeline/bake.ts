import { ringsFound } from '../bake/dilate';
import { type Distances, histogram, measureDistances, missedBy } from '../bake/distances';
import { type Judgement, judge, type Verdict, verdictOf } from '../bake/judge';
import { curvatureMap } from '../bake/maps/curvature';
import { leaningShare, normalMap } from '../bake/maps/normal';
import { occlusionMap } from '../bake/maps/occlusion';
import { type BakeGeometry, type BakePair, highSide, lowSide, sceneMatrices, sceneTree, setDistances } from '../bake/prepare';
import { BandBaker, emptyTexels, type Texels } from '../bake/texels';
import { StageError } from '../errors';
import { encodePng } from '../image/png';
import { boundsOf } from '../mesh/measures';
import { cornerNormals } from '../mesh/normals';
import { faceCount, type PolyMesh, vertexCount } from '../mesh/polymesh';
import { rayWords } from '../rays/kernel/host';
import { type Allocate, PRIVATE } from '../rays/tree';
import { checkpoint, QUIET, part as share, type Task } from '../task';
import { type AssetDocument, type BakeChoices, type Part, type Role, sharers } from './document';
import { exportGlb } from './export';
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
  judgement?: Judgement;
  verdict?: Verdict;
}

/** Maps and figures of a bake. */
export interface BakeResult {
  figures: BakeFigures;
  /** PNG files as delivered, by name. */
  files: { normal?: Uint8Array; occlusion?: Uint8Array; curvature?: Uint8Array };
  /** 8-bit, Y up, as glTF asks; what the GLB carries. */
  glbNormal?: Uint8Array;
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
}

/** What a bake knows of a part beside its meshes. */
export interface AboutPart {
  role: Role;
  /** It slides or turns: where it stands now is one place of many. */
  moves: boolean;
}
export const aboutParts = (parts: readonly Part[]): Map<string, AboutPart> =>
  new Map(parts.map((p) => [p.id, { role: p.role, moves: p.travel !== undefined }]));

/** How far a part is searched that is baked from itself: a thousandth of its size, mm. */
const ITSELF = 0.001;

/**
 * Pairs the meshes by part, measures their distances and builds the trees. A part that has no high mesh is baked from itself: its
 * normals stay as they are, and it occludes and is occluded like all others.
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
  const casts = settings.occlusion && settings.occlusionRays > 0;
  const shades = (id: string) => settings.movingOcclude || !about.get(id)?.moves;
  if (!low.some((l) => partners.has(l.id)))
    throw new StageError('bake/pairs', 'No part has a high mesh to bake from; import one, or give a recipe rounded edges.');
  const solid: PartMesh[] = [];
  for (const [i, l] of low.entries()) {
    checkpoint(task);
    task.progress((0.8 * i) / low.length, `measuring ${l.name}`);
    const partner = partners.get(l.id);
    const h = partner ?? l;
    if (!CLEAR.includes(about.get(l.id)?.role ?? 'body') && faceCount(h.mesh) > 0) solid.push(h);
    const lowArrays = lowSide(l.mesh, allocate);
    const highArrays = partner ? highSide(h.mesh, allocate) : highSide(l.mesh, allocate, cornerNormals(l.mesh));
    const d = partner ? measureDistances(l.mesh, lowArrays, highArrays) : fromItself(l.mesh);
    const uniform = settings.distances === 'uniform' && partner !== undefined;
    const vertices = d.front.length;
    setDistances(
      lowArrays,
      l.mesh,
      uniform ? new Float64Array(vertices).fill(settings.frontMm) : d.front,
      uniform ? new Float64Array(vertices).fill(settings.rearMm) : d.rear,
    );
    const own =
      casts && !shades(l.id) && faceCount(h.mesh) > 0 ? sceneTree([{ mesh: h.mesh, placements: [l.placements[0]] }], allocate) : null;
    pairs.push({ id: l.id, name: l.name, low: lowArrays, high: highArrays, own, ...sceneMatrices(l.placements[0]) });
    distances.push({ ...d, front: inMemory(d.front, allocate), rear: inMemory(d.rear, allocate), signed: inMemory(d.signed, allocate) });
    figures.push({
      id: l.id,
      name: l.name,
      itself: partner === undefined,
      lowTriangles: lowArrays.triangles,
      highTriangles: highArrays.normals.length / 9,
      frontMm: uniform ? settings.frontMm : d.uniform.front,
      rearMm: uniform ? settings.rearMm : d.uniform.rear,
      lostShare: d.lost / Math.max(1, d.lost + d.signed.length),
      uniformMissedShare: missedBy(d, settings.frontMm, settings.rearMm),
    });
  }
  // High parts that nothing low stands for, and copies that are not baked, still stand in the way.
  const lone = high.filter(
    (h) => !low.some((l) => l.id === h.id) && !CLEAR.includes(about.get(h.id)?.role ?? 'body') && faceCount(h.mesh) > 0,
  );
  const occluders = [...solid, ...lone].filter((h) => shades(h.id));
  task.progress(0.85, 'building the scene');
  return {
    prepared: {
      size: settings.size,
      samples: settings.samples,
      pairs,
      scene: casts ? sceneTree(occluders, allocate) : null,
      occlusionRays: casts ? settings.occlusionRays : 0,
      reachMm: settings.reachMm,
      wantNormal: settings.normal,
      curvatureRadiusMm: settings.curvature ? settings.curvatureRadiusMm : 0,
    },
    distances,
    figures,
  };
}

/** Distances of a part to itself: none, searched over a little. */
function fromItself(mesh: PolyMesh): Distances {
  const b = boundsOf(mesh);
  const reach = Math.max(0.005, ITSELF * Math.hypot(...b.max.map((x, k) => x - b.min[k])));
  const each = () => new Float64Array(vertexCount(mesh)).fill(reach);
  return { front: each(), rear: each(), signed: new Float32Array(0), lost: 0, uniform: { front: reach, rear: reach } };
}

/** The same numbers where every worker can see them, so that handing them on copies nothing. */
function inMemory<T extends Float32Array | Float64Array>(values: T, allocate: Allocate): T {
  const out = new (values.constructor as new (buffer: ArrayBufferLike) => T)(allocate(values.byteLength));
  out.set(values);
  return out;
}

/** The texel pass on this thread; workers run the same {@link BandBaker} side by side. */
export function bakeTexels(prepared: BakeGeometry, task: Task = QUIET): Texels {
  const texels = emptyTexels(prepared.size);
  const baker = new BandBaker(prepared, texels);
  for (let b = 0; b < baker.bands; b++) {
    checkpoint(task);
    baker.bake(b);
    task.progress((b + 1) / baker.bands, rayWords('casting rays'));
  }
  return texels;
}

/** Maps, figures and the judgement, once the texels are there. */
export async function finishBake(
  bake: PreparedBake,
  texels: Texels,
  settings: BakeSettings,
  low: readonly PartMesh[],
  seconds: number,
  task: Task = QUIET,
): Promise<BakeResult> {
  task.progress(0, 'writing maps');
  const files: BakeResult['files'] = {};
  let glbNormal: Uint8Array | undefined;
  const rings = ringsFound(texels.state, texels.size);
  if (settings.normal) {
    files.normal = encodePng(normalMap(texels, settings, rings));
    glbNormal = settings.y === 'up' && settings.bits === 8 ? files.normal : encodePng(normalMap(texels, { y: 'up', bits: 8 }, rings));
  }
  if (settings.occlusion) files.occlusion = encodePng(occlusionMap(texels, rings));
  if (settings.curvature) files.curvature = encodePng(curvatureMap(texels, rings));
  const all = new Float32Array(bake.distances.reduce((n, d) => n + d.signed.length, 0));
  let at = 0;
  for (const d of bake.distances) {
    all.set(d.signed, at);
    at += d.signed.length;
  }
  const { counts } = texels;
  const uniform = {
    front: Math.max(...bake.distances.map((d) => d.uniform.front)),
    rear: Math.max(...bake.distances.map((d) => d.uniform.rear)),
  };
  const figures: BakeFigures = {
    pairs: bake.figures,
    histogram: histogram(all, 40),
    uniform,
    missedShare: counts.missed / Math.max(1, counts.samples),
    backShare: counts.back / Math.max(1, counts.samples),
    rays: counts.rays,
    seconds,
    leaningShare: leaningShare(texels, 10),
  };
  if (files.normal) {
    task.progress(0.4, 'judging');
    const baked = low.filter((l) => bake.prepared.pairs.some((p) => p.id === l.id));
    // Judged under the part's id, so that equal names can't be mixed up.
    const glb = await exportGlb(
      baked.map((l) => ({ ...l, name: l.id })),
      { name: 'judged', tangents: true, materials: [], materialOf: () => null },
    );
    figures.judgement = await judge({
      glb,
      png: files.normal,
      y: settings.y,
      high: new Map(bake.prepared.pairs.map((p) => [p.id, p.high])),
    });
    const names = new Map(bake.prepared.pairs.map((p) => [p.id, p.name]));
    const named = (id: string) => names.get(id) ?? id;
    figures.judgement.parts = figures.judgement.parts.map((p) => ({ ...p, name: named(p.name) }));
    figures.judgement.worstAt.part = named(figures.judgement.worstAt.part);
    figures.verdict = verdictOf(figures.judgement, {
      ...settings,
      missedShare: figures.missedShare,
      backShare: figures.backShare,
      neededFront: uniform.front,
      neededRear: uniform.rear,
    });
  }
  task.progress(1);
  return { figures, files, glbNormal };
}

/** Everything in one thread: what the command line runs. `clock` gives seconds. */
export async function bake(
  low: readonly PartMesh[],
  high: readonly PartMesh[],
  about: ReadonlyMap<string, AboutPart>,
  settings: BakeSettings,
  clock: () => number,
  task: Task = QUIET,
): Promise<BakeResult> {
  const start = clock();
  const made = prepareBake(low, high, about, settings, share(task, 0, 0.2));
  const texels = bakeTexels(made.prepared, share(task, 0.2, 0.9));
  return finishBake(made, texels, settings, low, clock() - start, share(task, 0.9, 1));
}
