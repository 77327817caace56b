import type { Distances } from '../bake/distances';
import { bakeBytes, MOST_BYTES, PREVIEW } from '../bake/forecast';
import { type IdPart, type Ids, idsOf } from '../bake/ids';
import type { Judgement } from '../bake/judge';
import type { PairLie } from '../bake/lie';
import type { MapRange } from '../bake/maps/files';
import type { FurtherMap } from '../bake/maps/further';
import { type BakeGeometry, type BakePair, sceneTree } from '../bake/prepare';
import type { Verdict } from '../bake/verdict';
import { StageError } from '../errors';
import { travelled } from '../inspect/relations';
import { type Mat4, multiply } from '../maths/mat4';
import { faceCount } from '../mesh/polymesh';
import { type Allocate, PRIVATE } from '../rays/tree';
import { checkpoint, QUIET, type Task } from '../task';
import { groundBelow, inMemory, type Occluder, pairOf, type SidesKept, sidesOf } from './bake-sides';
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
  /** Degrees between where its rays go and its own faces, over its surface: the mean, and the most. Older bakes don’t have it, nor what else is optional. */
  lean?: { mean: number; most: number };
  /** Samples the measured and the uniform choice would miss. */
  lostShare: number;
  uniformMissedShare: number;
  /** How the two meshes lie to each other; nothing where there is only one, or both come from one recipe. */
  lie?: PairLie;
  /** Shares of its rays that found nothing, and that met a back face. */
  missedShare: number;
  backShare: number;
  /** Share of its texels whose normals only mend how the low mesh is shaded over its own flat faces. */
  mendingShare: number;
}

/** What is kept of a bake. */
export interface BakeFigures {
  pairs: PairFigures[];
  histogram: { from: number; to: number; counts: number[] };
  /** One distance for the whole asset that would do the same, mm. */
  uniform: { front: number; rear: number };
  /** Texels where layouts lie over each other that are not declared to share them. */
  doubledTexels?: number;
  /** What so many times the distances would miss and meet wrongly, over all parts with a high mesh. */
  trials?: { times: number; missedShare: number; wrongShare: number }[];
  missedShare: number;
  backShare: number;
  mendingShare: number;
  /** Share of texels on details of the high mesh that are a texel wide. */
  narrowShare: number;
  /** Share of texels whose normals change so slowly that 8 bits draw them in broad steps. */
  bandedShare?: number;
  /** How far occlusion is off by chance, at most: a share of full. */
  occlusionNoise: number;
  rays: number;
  seconds: number;
  /** Share of the rows that were baked for this, where the others were as they had been; nothing where all were. */
  anewShare?: number;
  /** Share of covered texels more than 10° from flat. */
  leaningShare: number;
  /** Hard edges of parts without a high mesh were rounded by so much, mm; 0 where none was. */
  roundedMm: number;
  /** Bytes of each file as it is kept. */
  bytes?: Partial<Record<BakeFile, number>>;
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

/** The same bake at a size that answers while settings change: fewer texels, and no more samples and rays than show at that size. */
export const previewOf = (settings: BakeSettings): BakeSettings => ({
  ...settings,
  size: Math.min(PREVIEW, settings.size),
  samples: Math.min(2, settings.samples) as BakeSettings['samples'],
  occlusionRays: Math.min(16, settings.occlusionRays),
});

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
  /** From where it stands to the end of its travel. */
  opens?: Mat4;
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
        ...(p.travel && { opens: travelled(p.travel, p.travel.to) }),
        material: name(p.material),
        regions: (p.regions ?? []).map((r) => ({ name: r.name, material: name(r.material) })),
      },
    ]),
  );
}

/** Rays of thickness go no farther from straight in, degrees. */
const THICKNESS_CONE = 30;

/**
 * Pairs the meshes by part, measures their distances and builds the trees. A part that has no high mesh is baked from itself: its
 * normals stay as they are, or as its hard edges are rounded, and it occludes and is occluded like all others.
 *
 * @param kept sides of these very meshes from an earlier bake; those that are missing are put in
 */
export function prepareBake(
  all: readonly PartMesh[],
  high: readonly PartMesh[],
  about: ReadonlyMap<string, AboutPart>,
  settings: BakeSettings,
  task: Task = QUIET,
  allocate: Allocate = PRIVATE,
  kept?: SidesKept,
): PreparedBake {
  const low = all.filter((l) => !settings.shares?.includes(l.id));
  const bytes = bakeBytes(settings);
  if (bytes > MOST_BYTES)
    throw new StageError(
      'bake/memory',
      `${settings.size}² with these maps needs about ${gigabytes(bytes)} at once, and a bake may take ${gigabytes(MOST_BYTES)}: choose a smaller texture or fewer maps.`,
    );
  const partners = new Map(high.map((h) => [h.id, h]));
  const pairs: BakePair[] = [];
  const distances: Distances[] = [];
  const figures: PairFigures[] = [];
  const bends = settings.further.includes('bentNormal');
  const casts = (settings.occlusion || bends) && settings.occlusionRays > 0;
  // Of one that isn’t wanted nothing is asked: it goes with the other.
  const alone = {
    occlusion: !(settings.occlusion ? settings.neighbours : settings.bentNeighbours),
    bentNormal: !(bends ? settings.bentNeighbours : settings.neighbours),
  };
  const together = !alone.occlusion || !alone.bentNormal;
  const open = (id: string) => (settings.movingOpen ? about.get(id)?.opens : undefined);
  const shades = (id: string) => together && (settings.movingOcclude || open(id) !== undefined || !about.get(id)?.moves);
  /** A part where it stands while light is looked for. */
  const standing = (p: PartMesh): PartMesh => {
    const to = open(p.id);
    return to ? { ...p, placements: p.placements.map((m) => multiply(to, m)) } : p;
  };
  if (!settings.itself && !low.some((l) => partners.has(l.id)))
    throw new StageError('bake/pairs', 'No part has a high mesh to bake from; import one, or bake the parts from themselves.');
  const ids = settings.further.includes('id')
    ? idsOf(
        low.map((l) => idPart(l, partners.get(l.id), about.get(l.id))),
        settings.idBy,
        settings.idClean,
      )
    : null;
  const ground = settings.ground ? [groundBelow([...low, ...high.filter((h) => standsAlone(h, low, about))].map(standing))] : [];
  const solid: PartMesh[] = [];
  for (const [i, l] of low.entries()) {
    checkpoint(task);
    task.progress((0.8 * i) / low.length, `measuring ${l.name}`);
    const partner = partners.get(l.id);
    const h = partner ?? l;
    if (!isClear(about.get(l.id)) && faceCount(h.mesh) > 0) solid.push(h);
    const key = `${settings.directions}/${l.id}`;
    const sides = kept?.get(key) ?? sidesOf(l, partner, about.get(l.id)?.brought ?? false, settings.directions, allocate);
    kept?.set(key, sides);
    const lit = standing(l);
    const made = pairOf(l, partner, sides, settings, lit.placements[0], allocate);
    const own =
      casts && (!shades(l.id) || alone.occlusion || alone.bentNormal) && faceCount(h.mesh) > 0
        ? sceneTree([{ mesh: h.mesh, placements: [lit.placements[0]] }, ...ground], allocate)
        : null;
    pairs.push({ ...made.pair, own, shades: shades(l.id), ids: ids && inMemory(ids.triangles.get(l.id) as Uint16Array, allocate) });
    distances.push(sides.distances);
    figures.push(made.figures);
  }
  // High parts that nothing low stands for, and copies that are not baked, still stand in the way.
  const lone = high.filter((h) => standsAlone(h, low, about));
  const occluders: Occluder[] = [...[...solid, ...lone].filter((h) => shades(h.id)).map(standing), ...ground];
  task.progress(0.85, 'building the scene');
  return {
    prepared: {
      size: settings.size,
      samples: settings.samples,
      pairs,
      scene: casts ? sceneTree(occluders, allocate) : null,
      occlusionRays: casts ? settings.occlusionRays : 0,
      alone,
      reachMm: settings.reachMm,
      spreadDegrees: settings.spreadDegrees,
      wantNormal: settings.normal,
      wantOcclusion: settings.occlusion,
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

/** Whether a high mesh stands for no part that is baked, and shades. */
const standsAlone = (h: PartMesh, low: readonly PartMesh[], about: ReadonlyMap<string, AboutPart>): boolean =>
  !low.some((l) => l.id === h.id) && !isClear(about.get(h.id)) && faceCount(h.mesh) > 0;
const gigabytes = (bytes: number): string => `${(bytes / 1e9).toFixed(1)} GB`;
const isClear = (about: AboutPart | undefined): boolean => CLEAR.includes(about?.role ?? 'body');
const idPart = (l: PartMesh, partner: PartMesh | undefined, about: AboutPart | undefined): IdPart => ({
  id: l.id,
  name: l.name,
  mesh: l.mesh,
  painted: partner?.mesh ?? l.mesh,
  material: about?.material ?? null,
  regions: about?.regions ?? [],
});
