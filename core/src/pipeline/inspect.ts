import { pixelMm } from '../brief/advice';
import { ORIGINS } from '../brief/brief';
import { centreOf } from '../form/regions';
import { boxRound, type Finding, PLACES, stillCovers, worstFirst } from '../inspect/finding';
import { coincidentArea, FLICKER_MM } from '../inspect/findings/coincident';
import { inspectPart } from '../inspect/inspect';
import { mapVec, type Vec3 } from '../maths/vec3';
import { type GpuMesh, gpuMesh } from '../mesh/gpu';
import { areaOf, type Bounds } from '../mesh/measures';
import { nearPairs } from '../mesh/near-boxes';
import { attribute, type PolyMesh, triangleCount } from '../mesh/polymesh';
import { transform } from '../mesh/transform';
import { QUIET, type Task } from '../task';
import { figure, millimetres } from '../units/lengths';
import { textureMemoryMB } from './delivered';
import type { AssetDocument } from './document';
import { assetBounds, type FormResult, fallbackTolerance, type PartMesh } from './form';
import { MeshCache } from './mesh-cache';
import { meantOpen } from './open';
import { noteFindings, type Standings, standingFindings, standingsOf, wantedOf } from './standings';

/** What the asset costs and how large it is, counted as the exported file counts it. */
export interface Ledger {
  /** Drawn: copies count each time. */
  triangles: number;
  /** Stored vertices, split at seams, hard edges and, where they are delivered, tangents: the GLB's accessor counts. */
  gpuVertices: number;
  drawCalls: number;
  sizeMm: [number, number, number];
  /** Surface with texels of its own, mm². */
  areaMm2: number;
  parts: { id: string; triangles: number; copies: number; gpuVertices: number; areaMm2: number }[];
}

/**
 * @param tangents whether they are delivered (`deliversTangents`)
 * @param vertices of each part as its file has them, where it says: it may share fewer than it could
 * @param shares copies that have the texels, and so the stored vertices, of another part
 */
export function ledgerOf(
  parts: readonly PartMesh[],
  memory = new MeshCache(),
  tangents = true,
  vertices: readonly (number | undefined)[] = [],
  shares: Readonly<Record<string, string>> = {},
): Ledger {
  const rows = parts.map((p, i) => ({
    id: p.id,
    triangles: triangleCount(p.mesh),
    copies: p.placements.length,
    gpuVertices: shares[p.id] ? 0 : (vertices[i] ?? cardOf(p.mesh, memory, tangents).position.length / 3),
    areaMm2: shares[p.id] ? 0 : memory.of(p.mesh, 'area', () => areaOf(p.mesh)),
  }));
  const b = assetBounds(parts);
  return {
    triangles: rows.reduce((n, r) => n + r.triangles * r.copies, 0),
    gpuVertices: rows.reduce((n, r) => n + r.gpuVertices, 0),
    drawCalls: rows.reduce((n, r) => n + r.copies, 0),
    sizeMm: parts.length > 0 ? [b.max[0] - b.min[0], b.max[1] - b.min[1], b.max[2] - b.min[2]] : [0, 0, 0],
    areaMm2: rows.reduce((n, r) => n + r.areaMm2, 0),
    parts: rows,
  };
}

/** The box round a part with all its copies, mm. */
export const boxOf = (p: PartMesh, memory: MeshCache): Bounds =>
  memory.of(p.mesh, `box ${JSON.stringify(p.placements)}`, () => assetBounds([p]));

/** A mesh as the card takes it, with the edges its steps marked hard. */
export const cardOf = (mesh: PolyMesh, memory: MeshCache, tangents = true): GpuMesh =>
  memory.of(mesh, tangents ? 'card' : 'card without tangents', () => gpuMesh(mesh, { tangents }));

/** Every finding of an asset's low meshes that forming itself tells, waivers marked, worst first. */
export function inspectAsset(
  document: AssetDocument,
  formed: FormResult,
  ledger: Ledger,
  task: Task = QUIET,
  memory = new MeshCache(),
  standings: Standings = standingsOf(document, formed.parts, memory),
): Finding[] {
  const findings: Finding[] = [];
  const byId = new Map(document.parts.map((p) => [p.id, p]));
  for (const [i, p] of formed.parts.entries()) {
    task.progress(i / formed.parts.length, `inspecting ${p.name}`);
    const part = byId.get(p.id);
    const imported = part?.shape.kind === 'mesh';
    const about = {
      id: p.id,
      name: p.name,
      declaredOpen: part !== undefined && meantOpen(part),
      hasMaterial: part?.material != null,
      untouchedMaterial: document.materials.find((m) => m.id === part?.material && !m.touched && !m.texturing)?.name,
      fixable: imported,
      toleranceMm: fallbackTolerance(document),
      pixelMm: pixelMm(document.brief),
      highlights: document.brief.purpose === 'product' || document.brief.purpose === 'closeup',
      // A recipe's copies are mirrored because a step says so.
      ...(imported && { placements: p.placements }),
      ...(part?.shape.kind === 'mesh' && part.shape.came && { came: part.shape.came }),
    };
    const found = memory.of(p.mesh, `findings ${JSON.stringify(about)}`, () => inspectPart({ ...about, mesh: p.mesh }));
    // What is wrong with a copy's mesh is said of what it is a copy of.
    findings.push(
      ...(part?.shape.kind === 'copy' ? found.filter((f) => f.kind === 'no-material' || f.kind === 'default-material') : found),
    );
  }
  findings.push(
    ...coincidences(formed.parts, memory, document),
    ...stepFindings(document, formed),
    ...noteFindings(document, formed),
    ...standingFindings(document, standings),
    ...markFindings(document, formed),
    ...goneFindings(document),
    ...originFindings(document, formed.parts),
    ...limitFindings(document, ledger),
  );
  return withWaivers(document, findings);
}

/** Findings with the waivers that cover them, worst first. */
export const withWaivers = (document: AssetDocument, findings: readonly Finding[]): Finding[] =>
  worstFirst(findings.map((f) => waived(document, f)));

/** A waiver holds while its finding is as much as it was, and in the same place. */
function waived(document: AssetDocument, { waived: _, reopened: __, ...f }: Finding): Finding {
  const w = document.waivers.find((x) => x.finding === f.id);
  return w ? { ...f, ...(stillCovers(f, w) ? { waived: w.reason } : { reopened: w.reason }) } : f;
}

/** How far the origin may be off, mm. */
const ORIGIN_MM = 0.01;

/** By how much a piece has to be moved for its origin to lie where the brief wants it, mm; null where it lies well. */
export function originOff(document: AssetDocument, parts: readonly PartMesh[]): Vec3 | null {
  const wanted = document.brief.origin ?? 'any';
  if (wanted === 'any' || parts.length === 0) return null;
  const b = assetBounds(parts);
  const middle = [0, 1, 2].map((k) => (b.min[k] + b.max[k]) / 2);
  const by: Vec3 = [-middle[0], wanted === 'foot' ? -b.min[1] : -middle[1], -middle[2]];
  return Math.hypot(...by) > ORIGIN_MM ? by : null;
}

function originFindings(document: AssetDocument, parts: readonly PartMesh[]): Finding[] {
  const by = originOff(document, parts);
  if (!by) return [];
  const off = Math.hypot(...by);
  return [
    {
      id: 'origin:piece',
      kind: 'origin',
      severity: 'warning',
      part: null,
      partName: '',
      value: off,
      unit: 'mm',
      limit: ORIGIN_MM,
      message: `The origin is ${millimetres(off, 2)} from where the brief wants it, ${ORIGINS[document.brief.origin ?? 'any']}.`,
      why: 'Placed or turned in another scene, the piece floats, sinks or swings.',
      where: [[0, 0, 0]],
      fixes: ['move-origin'],
    },
  ];
}

function coincidences(parts: readonly PartMesh[], memory: MeshCache, document: AssetDocument): Finding[] {
  const placed = parts.map((p) => {
    let copies: PolyMesh[] | undefined;
    return () => {
      copies ??= p.placements.map((m) => transform(p.mesh, m));
      return copies;
    };
  });
  const out: Finding[] = [];
  for (const [a, b] of nearPairs(
    parts.map((p) => boxOf(p, memory)),
    FLICKER_MM,
  )) {
    // Where one is meant to rest on the other, the plane they share is hidden between them.
    if (wantedOf(document, parts[a].id, parts[b].id)?.wanted === 'resting') continue;
    const places = JSON.stringify([parts[a].placements, parts[b].placements]);
    const { area, where, facing } = memory.ofPair(parts[a].mesh, parts[b].mesh, places, () => sharedPlanes(placed[a](), placed[b]()));
    if (area > 0.01)
      out.push({
        id: `coincident:${parts[a].id}+${parts[b].id}`,
        kind: 'coincident',
        severity: 'warning',
        part: parts[a].id,
        partName: parts[a].name,
        value: area,
        unit: 'mm²',
        limit: 0.01,
        message: `${parts[a].name} and ${parts[b].name} lie in one plane over ${figure(area, 1)} mm².`,
        why: 'The two flicker when seen together; leave a gap of a few hundredths of a millimetre, or sink one into the other.',
        where: where.slice(0, PLACES),
        ...(boxRound(where) && { covers: boxRound(where) }),
        fixes: facing ? ['leave-gap'] : [],
      });
  }
  return out;
}

/**
 * The area over which copies of two parts lie in one plane, mm², and where; and the way the first part has to move to leave a
 * gap: off the other where they lie against each other, out of it where both look the same way. None where they share planes in
 * several directions.
 */
export function sharedPlanes(
  these: readonly PolyMesh[],
  those: readonly PolyMesh[],
): { area: number; where: Finding['where']; facing: Vec3 | null } {
  let area = 0;
  const where: Finding['where'] = [];
  let facing: Vec3 | null | undefined;
  for (const x of these)
    for (const y of those) {
      // Asked from the finer of the two: places on large triangles would stand far apart.
      const first = areaOf(x) / triangleCount(x) <= areaOf(y) / triangleCount(y);
      const found = first ? coincidentArea(x, y) : coincidentArea(y, x);
      area += found.area;
      if (where.length < PLACES) where.push(...found.where.slice(0, PLACES));
      if (found.area === 0) continue;
      // The way the first part's own faces look there.
      const own: Vec3 | null = found.facing && (first || !found.against ? found.facing : mapVec(found.facing, (c) => -c));
      const way: Vec3 | null = own && (found.against ? mapVec(own, (c) => -c) : own);
      if (facing === undefined) facing = way;
      else if (facing && (!way || way[0] * facing[0] + way[1] * facing[1] + way[2] * facing[2] < 0.999)) facing = null;
    }
  return { area, where, facing: facing ?? null };
}

function stepFindings(document: AssetDocument, formed: FormResult): Finding[] {
  return formed.problems.map((p) => {
    const part = document.parts.find((x) => x.id === p.part);
    return {
      id: `step:${p.step}`,
      kind: 'step' as const,
      severity: 'error' as const,
      part: p.part,
      partName: part?.name ?? '',
      value: 1,
      unit: 'step',
      limit: 0,
      message: p.message,
      why: 'The step is left out until its dimensions fit; the others stand.',
      where: [],
      fixes: [],
    };
  });
}

/** Parts that the newer file, or the newer state of a piece, has no more. */
const goneFindings = (document: AssetDocument): Finding[] =>
  document.parts.flatMap(({ id, name, origin }) =>
    origin?.gone
      ? [
          {
            id: `gone:${id}`,
            kind: 'gone' as const,
            severity: 'warning' as const,
            part: id,
            partName: name,
            value: 1,
            unit: 'part',
            limit: 0,
            message: `${name} is not in the newer “${origin.kind === 'file' ? origin.fileName : origin.piece}”; it stands as it was.`,
            why: 'Keep it if it is wanted for itself, or remove it with what was made of it.',
            where: [],
            fixes: [],
          },
        ]
      : [],
  );

/** Regions and seams that lost what they were picked on, regions that mean nothing, faces missed when picking. */
function markFindings(document: AssetDocument, formed: FormResult): Finding[] {
  return formed.marks.flatMap(({ part: id, regions, lostSeams }) => {
    const part = document.parts.find((p) => p.id === id);
    const mesh = formed.parts.find((p) => p.id === id)?.mesh;
    const base = { part: id, partName: part?.name ?? '', where: [] as Finding['where'], fixes: [] };
    const out: Finding[] = [];
    for (const r of regions) {
      if (r.lost.length > 0)
        out.push({
          ...base,
          id: `region-lost:${id}:${r.id}`,
          kind: 'region',
          severity: 'error',
          value: r.lost.length,
          unit: 'places',
          limit: 0,
          message: `The region “${r.name}” was picked on ${r.lost.length === 1 ? 'a surface' : `${r.lost.length} surfaces`} that ${part?.name} no longer has.`,
          why: 'What it was to mark is unmarked now; pick it again or remove it.',
        });
      else if (r.faces.length === 0)
        out.push({
          ...base,
          id: `region-empty:${id}:${r.id}`,
          kind: 'region',
          severity: 'warning',
          value: 0,
          unit: 'faces',
          limit: 1,
          message: `The region “${r.name}” of ${part?.name} has no faces.`,
          why: 'Its rules mean nothing on the present shape.',
        });
      if (r.stray.length > 0 && mesh)
        out.push({
          ...base,
          id: `region-stray:${id}:${r.id}`,
          kind: 'region',
          severity: 'warning',
          value: r.stray.length,
          unit: 'faces',
          limit: 0,
          message: `${r.stray.length === 1 ? 'One face' : `${r.stray.length} faces`} of the region “${r.name}” ${r.stray.length === 1 ? 'stands' : 'stand'} alone.`,
          why: 'A face missed or taken by mistake shows only in the finished mask.',
          where: r.stray.slice(0, PLACES).map((f) => centreOf(mesh, f)),
        });
    }
    if (lostSeams.length > 0)
      out.push({
        ...base,
        id: `seam-lost:${id}`,
        kind: 'seam',
        severity: 'error',
        value: lostSeams.length,
        unit: 'seams',
        limit: 0,
        message: `${lostSeams.length === 1 ? 'A picked seam' : `${lostSeams.length} picked seams`} of ${part?.name} ${lostSeams.length === 1 ? 'lies' : 'lie'} on a surface it no longer has.`,
        why: 'The unwrap goes on without it; pick it again or remove it.',
      });
    return out;
  });
}

function limitFindings(document: AssetDocument, ledger: Ledger): Finding[] {
  const { limits } = document.brief;
  const over = (id: string, label: string, value: number, limit: number, unit: string, why: string): Finding[] =>
    value > limit
      ? [
          {
            id: `over-limit:${id}`,
            kind: 'over-limit',
            severity: 'error',
            part: null,
            partName: '',
            value,
            unit,
            limit,
            message: `${label}: ${figure(value, 1)} of ${figure(limit, 1)} ${unit}.`,
            why,
            where: [],
            fixes: [],
          },
        ]
      : [];
  return [
    ...over(
      'triangles',
      'Over the triangle limit',
      ledger.triangles,
      limits.triangles,
      'triangles',
      'Ask the solver to spend the limit, or raise it in the brief.',
    ),
    ...over(
      'memory',
      'Over the texture memory',
      textureMemoryMB(document),
      limits.memoryMB,
      'MB',
      'A texture of half the side takes a quarter of the memory.',
    ),
  ];
}

export const isLaid = (p: PartMesh): boolean => attribute(p.mesh, 'uv', 'corner') !== undefined;
