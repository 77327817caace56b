import { selfCrossings } from '../inspect/crossings';
import { type Finding, finding, type Severity } from '../inspect/finding';
import { layoutFaults, rasterFor } from '../inspect/findings/layout';
import { LOOPS_MOVE } from '../inspect/fixes';
import { Placed, type Standing, standing } from '../inspect/relations';
import { thinPlaces } from '../inspect/thickness';
import { removableFaces, trianglesOf } from '../inspect/unseen';
import { hiddenTriangles } from '../inspect/visibility';
import { type Vec3, vec3 } from '../maths/vec3';
import { edgesOf, shellsOf } from '../mesh/connectivity';
import { overDivided } from '../mesh/flats';
import { idleLoops, withoutLoops } from '../mesh/idle';
import { areaOf, boundsOf, isWatertight, triangleArea } from '../mesh/measures';
import { nearPairs } from '../mesh/near-boxes';
import { type PolyMesh, triangleCount } from '../mesh/polymesh';
import { soupOf } from '../mesh/soup';
import { transform } from '../mesh/transform';
import { checkpoint, QUIET, type Task, part as taskPart } from '../task';
import { figure, millimetres } from '../units/lengths';
import { type AssetDocument, type Part, stepsOf } from './document';
import { assetBounds, type FormResult, fallbackTolerance, type PartMesh } from './form';
import { boxOf } from './inspect';
import type { MeshCache } from './mesh-cache';
import { isMet, wantedOf } from './standings';
import { blocks, neverSeen, standingStill } from './views';

/** Two parts that stand near each other. */
export interface Neighbours extends Standing {
  a: string;
  b: string;
  /** The wanted relation, and whether it is met, where one is wanted. */
  relation?: string;
  met?: boolean;
}

/** What the longer look came to: it casts rays and compares parts with each other, so it comes after the forming. */
export interface Look {
  findings: Finding[];
  neighbours: Neighbours[];
}

/** Parts nearer than this share of the piece's size are neighbours. */
const NEAR = 0.02;
/** Crossings looked for; more say no more. */
const CROSSINGS = 400;

/**
 * Looks at what takes longer: crossings, walls, what nobody sees, triangles that bear nothing, layouts, neighbours.
 *
 * @param delivered a file is looked at as it is to be used: what is wrong with its own layout counts; here it is laid out anew
 */
export function lookClosely(
  document: AssetDocument,
  formed: Pick<FormResult, 'parts'>,
  memory: MeshCache,
  task: Task = QUIET,
  delivered = false,
): Look {
  const { parts } = formed;
  // What is wrong with a copy's mesh is said of what it is a copy of.
  const own = parts.filter((p) => partOf(document, p)?.shape.kind !== 'copy');
  const findings: Finding[] = [];
  const work: [number, string, (t: Task) => void][] = [
    [2, 'looking for faces that cross', (t) => findings.push(...crossing(own, memory, t))],
    [3, 'looking from outside', (t) => findings.push(...hidden(parts, document, memory, t))],
    [2, 'looking for idle triangles', (t) => findings.push(...idle(own, document, memory, t))],
    [1, 'measuring walls', (t) => findings.push(...walls(own, document, memory, t))],
    [1, 'looking over layouts', () => findings.push(...layouts(own, document, memory, delivered))],
  ];
  let neighbours: Neighbours[] = [];
  work.push([
    3,
    'measuring between parts',
    (t) => {
      neighbours = neighboursOf(parts, document, memory, t);
    },
  ]);
  const whole = work.reduce((n, [w]) => n + w, 0);
  let done = 0;
  for (const [weight, words, run] of work) {
    checkpoint(task);
    task.progress(done / whole, words);
    run(taskPart(task, done / whole, (done + weight) / whole));
    done += weight;
  }
  return { findings, neighbours };
}

const partOf = (document: AssetDocument, p: PartMesh): Part | undefined => document.parts.find((d) => d.id === p.id);
/** Whether fixes go into the part's stored mesh as it stands, not into its steps. */
const isBare = (part: Part | undefined): boolean => part?.shape.kind === 'mesh' && stepsOf(part).length === 0;
const isOwn = (part: Part | undefined): boolean => part?.shape.kind === 'recipe';
const middleOf = (mesh: PolyMesh, t: number): Vec3 =>
  vec3((k) => [0, 1, 2].reduce((s, c) => s + mesh.positions[3 * mesh.faceVert[mesh.triangles[3 * t + c]] + k], 0) / 3);

function crossing(parts: readonly PartMesh[], memory: MeshCache, task: Task): Finding[] {
  return parts.flatMap((p, i) => {
    checkpoint(task);
    task.progress(i / parts.length, `${p.name}: looking for faces that cross`);
    const found = memory.of(p.mesh, 'crossings', () => {
      const { ofFace } = shellsOf(p.mesh);
      const shell = (t: number) => ofFace[p.mesh.triangleFace[t]];
      // A bar sunk into a post of the same part is how such things are built.
      return selfCrossings(p.mesh, CROSSINGS, (s, t) => shell(s) === shell(t));
    });
    if (found.length === 0) return [];
    return [
      finding(p, {
        kind: 'crossing',
        severity: 'warning',
        value: found.length,
        unit: 'places',
        limit: 0,
        message: `${p.name}: its surface runs through itself at ${found.length >= CROSSINGS ? 'hundreds of' : figure(found.length, 0)} ${found.length === 1 ? 'place' : 'places'}.`,
        why: 'Inside and outside change places there: it shades wrongly, bakes the wrong side, and can’t be printed or cut.',
        where: found.map((c) => c.at),
      }),
    ];
  });
}

function hidden(parts: readonly PartMesh[], document: AssetDocument, memory: MeshCache, task: Task): Finding[] {
  const still = standingStill(document, parts);
  if (still.length === 0) return [];
  const about = `hidden ${JSON.stringify(still.map((p) => [memory.numberOf(p.mesh), p.placements, blocks(document, p.id)]))}`;
  const never = memory.of(still[0].mesh, about, () => neverSeen(document, still, task));
  return still.flatMap((p, i) => {
    if (!never[i].includes(1)) return [];
    const list = [...never[i].keys()].filter((t) => never[i][t] === 1);
    const area = list.reduce((s, t) => s + triangleArea(p.mesh, t), 0);
    const whole = areaOf(p.mesh);
    const part = partOf(document, p);
    // A step looks at its own part alone: what another part hides stays.
    const hidden = isOwn(part)
      ? memory.of(p.mesh, 'hidden by itself', () => hiddenTriangles([{ soup: soupOf(p.mesh), blocks: true }], task)[0])
      : never[i];
    const frees = isBare(part) || isOwn(part) ? trianglesOf(p.mesh, removableFaces(p.mesh, hidden)) : 0;
    return [
      finding(p, {
        kind: 'hidden',
        severity: 'information',
        value: list.length,
        unit: 'triangles',
        limit: 0,
        message: `${p.name}: ${figure(list.length, 0)} of its ${figure(triangleCount(p.mesh), 0)} triangles are never seen from outside, ${figure((100 * area) / whole, 0)} % of its surface.`,
        why: 'They cost triangles and texels and show nowhere, unless the piece is opened, broken or baked from inside.',
        where: list.map((t) => middleOf(p.mesh, t)),
        ...(frees > 0 && { fixes: [isBare(part) ? 'remove-hidden' : 'add-clear'], frees: frees * p.placements.length }),
      }),
    ];
  });
}

function idle(parts: readonly PartMesh[], document: AssetDocument, memory: MeshCache, task: Task): Finding[] {
  const within = fallbackTolerance(document) * LOOPS_MOVE;
  return parts.flatMap((p, i): Finding[] => {
    checkpoint(task);
    task.progress(i / parts.length, `${p.name}: looking for idle triangles`);
    const bare = isBare(partOf(document, p));
    const own = isOwn(partOf(document, p));
    const { loops, freedByLoops, flats } = memory.of(p.mesh, `idle ${within}`, () => {
      const edges = edgesOf(p.mesh);
      const found = idleLoops(p.mesh, within, edges);
      // Loops that cross share faces: what all of them free together is counted.
      const freedByLoops = found.length > 0 ? triangleCount(p.mesh) - triangleCount(withoutLoops(p.mesh, found)) : 0;
      return { loops: found, freedByLoops, flats: overDivided(p.mesh, edges) };
    });
    const at = (v: number): Vec3 => [p.mesh.positions[3 * v], p.mesh.positions[3 * v + 1], p.mesh.positions[3 * v + 2]];
    const out: Finding[] = [];
    if (freedByLoops > 0)
      out.push(
        finding(p, {
          kind: 'idle-loops',
          severity: 'information',
          value: loops.length,
          unit: 'loops',
          limit: 0,
          message: `${p.name}: ${loops.length === 1 ? 'an edge loop bears' : `${figure(loops.length, 0)} edge loops bear`} no shape: ${figure(freedByLoops, 0)} triangles that earn nothing.`,
          why: `Without them the surface moves by at most ${millimetres(Math.max(...loops.map((l) => l.moves)), 4)}, and no hard edge, seam or patch changes.`,
          where: loops.flatMap((l) => l.vertices.map(at)),
          fixes: bare ? ['remove-loops'] : own ? ['add-clear'] : [],
          frees: freedByLoops * p.placements.length,
        }),
      );
    const freed = flats.reduce((n, f) => n + f.now - f.needed, 0);
    if (freed > 0)
      out.push(
        finding(p, {
          kind: 'flats',
          severity: 'information',
          value: freed,
          unit: 'triangles',
          limit: 0,
          message: `${p.name}: ${flats.length === 1 ? 'a flat is' : `${figure(flats.length, 0)} flats are`} cut into ${figure(freed, 0)} triangles more than their outlines need.`,
          why: 'A plane is a plane however it is cut; nothing moves when they are joined.',
          where: flats.map((f) => at(p.mesh.faceVert[p.mesh.faceStart[f.faces[0]]])),
          fixes: bare ? ['join-flats'] : own ? ['add-clear'] : [],
          frees: freed * p.placements.length,
        }),
      );
    return out;
  });
}

function walls(parts: readonly PartMesh[], document: AssetDocument, memory: MeshCache, task: Task): Finding[] {
  const wanted = document.brief.wallMm;
  if (!wanted) return [];
  return parts.flatMap((p, i) => {
    checkpoint(task);
    task.progress(i / parts.length, `${p.name}: measuring walls`);
    if (!isWatertight(p.mesh)) return [];
    const thin = memory.of(p.mesh, `thin ${wanted}`, () => thinPlaces(p.mesh, wanted));
    if (thin.places.length === 0) return [];
    return [
      finding(p, {
        kind: 'thin-wall',
        severity: 'warning',
        value: thin.least,
        unit: 'mm',
        limit: wanted,
        message: `${p.name}: walls down to ${millimetres(thin.least, 3)}, wanted at least ${millimetres(wanted, 3)}.`,
        why: 'Cast, printed or seen through, it breaks or shows light there; the brief asks for more.',
        where: thin.places,
      }),
    ];
  });
}

/** A part whose densest tenth is so many times as dense as its least dense is unevenly laid: common practice, no source. */
const UNEVEN = 2;

function layouts(parts: readonly PartMesh[], document: AssetDocument, memory: MeshCache, delivered: boolean): Finding[] {
  const severity: Severity = delivered ? 'warning' : 'information';
  const side = rasterFor(parts.length);
  return parts.flatMap((p) => {
    const part = partOf(document, p);
    const faults = part?.shape.kind === 'mesh' ? memory.of(p.mesh, `layout faults ${side}`, () => layoutFaults(p.mesh, side)) : null;
    if (!faults) return [];
    const after = delivered ? '' : ' Unwrap lays it out anew.';
    const at = (list: readonly number[]) => list.map((t) => middleOf(p.mesh, t));
    const out: Finding[] = [];
    const many = (n: number) => `${figure(n, 0)} ${n === 1 ? 'triangle' : 'triangles'}`;
    const triangles = (kind: Finding['kind'], list: readonly number[], message: string, why: string, own: Severity = severity) => {
      if (list.length > 0)
        out.push(
          finding(p, {
            kind,
            severity: own,
            value: list.length,
            unit: 'triangles',
            limit: 0,
            message: `${p.name}: ${message}`,
            why: why + after,
            where: at(list),
          }),
        );
    };
    triangles(
      'uv-flat',
      faults.flat,
      `${many(faults.flat.length)} with no place in the layout.`,
      'A texture is one smeared texel there, and a bake has nowhere to write.',
    );
    triangles(
      'uv-outside',
      faults.outside,
      `${many(faults.outside.length)} laid beyond the tile.`,
      'They show a repeat of the texture, or its edge.',
    );
    triangles(
      'uv-overlap',
      faults.overlapping,
      `${many(faults.overlapping.length)} share texels, ${figure(100 * faults.overlapShare, 1)} % of what is covered.`,
      'A bake writes one over the other; fine where they are meant to look alike.',
    );
    triangles(
      'uv-mirrored',
      faults.mirrored,
      `${many(faults.mirrored.length)} laid face down.`,
      'Print on them reads backwards.',
      'information',
    );
    if (faults.spread > UNEVEN)
      out.push(
        finding(p, {
          kind: 'uv-spread',
          severity: 'information',
          value: faults.spread,
          unit: 'times',
          limit: UNEVEN,
          message: `${p.name}: the densest tenth of its surface has ${figure(faults.spread, 1)} times the density of the least dense.`,
          why: `Detail is sharp in one place and blurred in another.${after}`,
          where: [],
        }),
      );
    return out;
  });
}

/** Whether any copies of two parts come near each other: the boxes round all of them may, and the copies not. */
function copiesAreNear(a: PartMesh, b: PartMesh, reach: number, memory: MeshCache): boolean {
  if (a.placements.length * b.placements.length === 1) return true;
  const boxes = (p: PartMesh) =>
    memory.of(p.mesh, `boxes ${JSON.stringify(p.placements)}`, () => p.placements.map((m) => boundsOf(transform(p.mesh, m))));
  return boxes(a).some((x) => boxes(b).some((y) => [0, 1, 2].every((k) => x.min[k] - reach <= y.max[k] && y.min[k] - reach <= x.max[k])));
}

function neighboursOf(parts: readonly PartMesh[], document: AssetDocument, memory: MeshCache, task: Task): Neighbours[] {
  const boxes = parts.map((p) => boxOf(p, memory));
  const all = assetBounds(parts);
  const reach = NEAR * (parts.length > 0 ? Math.hypot(...[0, 1, 2].map((k) => all.max[k] - all.min[k])) : 0);
  const numberOf = new Map(parts.map((p, i) => [p.id, i]));
  const pairs = nearPairs(boxes, reach).filter(([a, b]) => copiesAreNear(parts[a], parts[b], reach, memory));
  // What is wanted of two parts is measured however far apart they are.
  const known = new Set(pairs.map((p) => p.join()));
  for (const r of document.relations ?? []) {
    const [a, b] = [numberOf.get(r.a), numberOf.get(r.b)];
    if (a === undefined || b === undefined || a === b) continue;
    const pair: [number, number] = a < b ? [a, b] : [b, a];
    if (!known.has(pair.join())) pairs.push(pair);
    known.add(pair.join());
  }
  const placed = new Map<string, Placed>();
  const placedOf = (p: PartMesh): Placed => {
    const known = placed.get(p.id) ?? memory.of(p.mesh, `placed ${JSON.stringify(p.placements)}`, () => new Placed(p.mesh, p.placements));
    placed.set(p.id, known);
    return known;
  };
  return pairs
    .map(([a, b], i): Neighbours => {
      checkpoint(task);
      task.progress(i / pairs.length, `measuring between ${parts[a].name} and ${parts[b].name}`);
      const where = JSON.stringify(['stand', parts[a].placements, parts[b].placements]);
      const found = memory.ofPair(parts[a].mesh, parts[b].mesh, where, () => standing(placedOf(parts[a]), placedOf(parts[b])));
      const wanted = wantedOf(document, parts[a].id, parts[b].id);
      return { ...found, a: parts[a].id, b: parts[b].id, ...(wanted && { relation: wanted.id, met: isMet(wanted, found) }) };
    })
    .filter((n) => Number.isFinite(n.gap) && (n.relation || n.gap <= reach))
    .sort((x, y) => Number(x.met ?? true) - Number(y.met ?? true) || y.sunk - x.sunk || x.gap - y.gap);
}
