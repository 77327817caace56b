import { isRigid, type Mat4 } from '../maths/mat4';
import { stretchWords } from '../maths/polar';
import type { Vec3 } from '../maths/vec3';
import { boundaryLoops, edgesOf } from '../mesh/connectivity';
import { faceCount, type PolyMesh } from '../mesh/polymesh';
import { figure, millimetres } from '../units/lengths';
import { type Finding, type FindingKind, type FixId, finding, PLACES, type Said } from './finding';
import { degenerateFaces, NEEDLE_MM } from './findings/degenerate';
import { DOUBLE_MM, doubles } from './findings/doubles';
import { inwardShells } from './findings/inward';
import { nonManifold } from './findings/non-manifold';
import {
  BAND,
  CREASE,
  chordErrors,
  curvatureJumps,
  FOLD_DEGREES,
  PINCH,
  pinches,
  roundNgons,
  seenCreases,
  surfaceShape,
  WARP_DEGREES,
  warpedFaces,
} from './findings/surface';
import { mixedWinding } from './findings/winding';

/** What is inspected: one mesh with what its owner says about it. */
export interface Inspected {
  id: string;
  name: string;
  mesh: PolyMesh;
  /** Where its copies stand; one as it is when absent. */
  placements?: readonly Mat4[];
  /** A scale that isn’t the same in every direction, or a mirror, which the file had on it and which is in the mesh now. */
  came?: Mat4;
  /** Rims are meant to be open. */
  declaredOpen: boolean;
  hasMaterial: boolean;
  /** Its material is still what a file happened to bring. */
  untouchedMaterial?: string;
  /** Fixes can be applied: true for imported meshes; a recipe is mended in its steps. */
  fixable: boolean;
  /** What may be off without being seen, mm. */
  toleranceMm?: number;
  /** A pixel of the closest view on the piece, mm, where one is known. */
  pixelMm?: number;
  /** Highlights will be looked at: a product picture or a close-up. */
  highlights?: boolean;
}

/** What may be off where no brief says, mm. */
export const UNSEEN_MM = 0.1;

/** What stands for a fix where a part is made by steps. */
const BY_STEP: Partial<Record<FindingKind, FixId[]>> = { crease: ['add-shade'], ngon: ['add-shade'] };

const many = (n: number, one: string, more = `${one}s`): string => `${figure(n, 0)} ${n === 1 ? one : more}`;
const degrees = (x: number): string => figure((x * 180) / Math.PI, 0);

/** Every finding of one part's mesh that its faces and edges alone tell; linear in their number. */
export function inspectPart(part: Inspected): Finding[] {
  const { mesh, name } = part;
  const out: Finding[] = [];
  const add = ({ fixes = [], ...said }: Said) =>
    out.push(finding(part, { ...said, fixes: part.fixable ? fixes : (BY_STEP[said.kind] ?? []) }));
  const edges = edgesOf(mesh);
  const vertexAt = (v: number): Vec3 => [mesh.positions[3 * v], mesh.positions[3 * v + 1], mesh.positions[3 * v + 2]];
  const faceAt = (f: number): Vec3 => vertexAt(mesh.faceVert[mesh.faceStart[f]]);
  const edgeAt = (e: number): Vec3 => vertexAt(edges.ends[2 * e]);

  const winding = mixedWinding(mesh, edges);
  if (winding.length > 0)
    add({
      kind: 'winding',
      severity: 'error',
      value: winding.length,
      unit: 'edges',
      limit: 0,
      message: `${name}: ${many(winding.length, 'edge')} where neighbouring faces run opposite ways.`,
      why: 'One of the two shows its back: it is drawn black or not at all, and bakes inside out.',
      where: winding.map(edgeAt),
      fixes: ['turn-outward'],
    });
  else {
    const { shells } = inwardShells(mesh, edges);
    // What stops a pipeline needs more than the winding: without rays that bear it out it is something to know.
    const sure = shells.filter((s) => s.sure);
    const told = sure.length > 0 ? sure : shells;
    const faces = told.reduce((n, s) => n + s.faces, 0);
    if (faces > 0)
      add({
        kind: 'inward',
        severity: sure.length > 0 ? 'error' : 'information',
        value: faces,
        unit: 'faces',
        limit: 0,
        message: `${name}: ${many(faces, 'face')} in ${many(told.length, 'shell')} ${sure.length > 0 ? 'face inward' : 'may face the wrong way'}.`,
        why:
          sure.length > 0
            ? 'Seen from outside there is nothing: faces are drawn from one side only.'
            : 'Their winding says so, but most of what is before them is open, or they lie inside a closed shell; look which side is meant.',
        where: told.map((s) => faceAt(s.face)),
        fixes: ['turn-outward'],
      });
  }
  const bad = nonManifold(mesh, edges);
  if (bad.edges.length > 0)
    add({
      kind: 'non-manifold',
      severity: 'error',
      value: bad.edges.length,
      unit: 'edges',
      limit: 0,
      message: `${name}: ${many(bad.edges.length, 'edge')} with more than two faces.`,
      why: 'Smoothing, unwrapping and baking can’t tell which side is which there.',
      where: bad.edges.map(edgeAt),
      fixes: ['split-non-manifold'],
    });
  if (bad.vertices.length > 0)
    add({
      kind: 'bow-tie',
      severity: 'warning',
      value: bad.vertices.length,
      unit: 'vertices',
      limit: 0,
      message: `${name}: separate surfaces touch in ${many(bad.vertices.length, 'point')}, joined by nothing else.`,
      why: 'Each keeps its own side and shading; moving or cutting one there pulls at the other. Split, they are told apart.',
      where: bad.vertices.map(vertexAt),
      fixes: ['split-non-manifold'],
    });
  const loops = boundaryLoops(mesh, edges);
  if (loops.length > 0)
    add({
      kind: 'open-rim',
      severity: part.declaredOpen ? 'information' : 'warning',
      value: loops.length,
      unit: 'rims',
      limit: 0,
      message: `${name}: ${many(loops.length, 'open rim')} of ${many(
        loops.reduce((n, l) => n + l.length, 0),
        'edge',
      )}${part.declaredOpen ? ', declared open' : ''}.`,
      why: part.declaredOpen
        ? 'It is meant to be open; nothing to do.'
        : 'The inside shows through it, and rays of the bake can slip in. Declare it open if it is meant.',
      where: loops.map((l) => vertexAt(l[0])),
      fixes: part.declaredOpen ? [] : ['fill-rims'],
      covered: loops.flatMap((l) => l.map(vertexAt)),
    });
  const twice = doubles(mesh);
  if (twice.length > 0)
    add({
      kind: 'doubles',
      severity: 'warning',
      value: twice.length,
      unit: 'points',
      limit: DOUBLE_MM,
      message: `${name}: ${many(twice.length, 'point')} within ${millimetres(DOUBLE_MM, 3)} of another and not joined to it.`,
      why: 'It looks whole and is not: light breaks along it and it opens when moved.',
      where: twice.map(vertexAt),
      fixes: ['weld', 'weld-keep-seam'],
    });
  const thin = degenerateFaces(mesh);
  if (thin.length > 0)
    add({
      kind: 'degenerate',
      severity: 'warning',
      value: thin.length,
      unit: 'faces',
      limit: NEEDLE_MM,
      message: `${name}: ${many(thin.length, 'face')} without area or thinner than ${millimetres(NEEDLE_MM, 4)}.`,
      why: 'They face no way in particular: they shade as sparks and bake as noise.',
      where: thin.map(faceAt),
      fixes: ['remove-degenerate'],
    });

  const shape = surfaceShape(mesh, edges);
  const unseen = part.toleranceMm ?? UNSEEN_MM;
  const warped = warpedFaces(mesh, shape.normals, unseen);
  const most = warped.reduce((m, w) => Math.max(m, w.degrees), 0);
  if (warped.length > 0)
    add({
      kind: 'warped',
      severity: most > FOLD_DEGREES ? 'warning' : 'information',
      value: warped.length,
      unit: 'faces',
      limit: 0,
      message: `${name}: ${many(warped.length, 'face')} not flat, by up to ${millimetres(warped[0].mm, 2)} and ${figure(most, 0)}°.`,
      why: `A face bent by more than ${WARP_DEGREES}° is cut one way here and another way elsewhere, and shades differently in each.`,
      where: warped.map((w) => faceAt(w.face)),
      fixes: ['triangulate'],
    });
  const ngons = roundNgons(mesh, shape);
  if (ngons.length > 0)
    add({
      kind: 'ngon',
      severity: 'warning',
      value: ngons.length,
      unit: 'faces',
      limit: 0,
      message: `${name}: ${many(ngons.length, 'face')} of more than four corners on a smooth surface.`,
      why: 'Light runs unevenly into them, and a subdivision or another program cuts them as it likes.',
      where: ngons.map(faceAt),
      fixes: ['triangulate'],
    });
  const creases = seenCreases(mesh, shape, 2 * unseen, part.pixelMm ?? unseen / 2);
  if (creases.length > 0)
    add({
      kind: 'crease',
      severity: 'warning',
      value: creases.length,
      unit: 'edges',
      limit: (CREASE * 180) / Math.PI,
      message: `${name}: ${many(creases.length, 'smooth edge')} that turn by up to ${degrees(creases.reduce((m, e) => Math.max(m, Math.abs(shape.turns[e])), 0))}° between flat faces.`,
      why: 'The kink is smeared over the faces beside it as a dark or light wedge; make it hard, or bevel it.',
      where: creases.map(edgeAt),
      fixes: ['mark-hard'],
    });
  const pinched = pinches(mesh, shape);
  if (pinched.length > 0)
    add({
      kind: 'pinch',
      severity: 'information',
      value: pinched.length,
      unit: 'vertices',
      limit: (PINCH * 180) / Math.PI,
      message: `${name}: the surface pinches at ${many(pinched.length, 'vertex', 'vertices')}.`,
      why: 'It bends there more than twice as strongly as all round it: a highlight that runs over it draws to a point.',
      where: pinched.map(vertexAt),
    });
  if (part.highlights) {
    const jumps = curvatureJumps(mesh, shape);
    const bands = [...jumps.keys()].filter((e) => jumps[e] > BAND).sort((a, b) => jumps[b] - jumps[a] || a - b);
    if (bands.length > 0)
      add({
        kind: 'band',
        severity: 'information',
        value: bands.length,
        unit: 'edges',
        limit: BAND,
        message: `${name}: reflected lines break at ${many(bands.length, 'edge')}, where the curvature jumps by up to ${figure(jumpOf(mesh.positions, edges.ends, bands[0], jumps[bands[0]]), 3)} per mm.`,
        why: 'A long highlight that runs over them has an edge of its own there. A bend that eases in has none; look at the reflection lines.',
        where: bands.map(edgeAt),
      });
  }
  if (part.pixelMm !== undefined && part.fixable) {
    const errors = chordErrors(mesh, shape).ofEdge;
    let worst = -1;
    let seen = 0;
    for (let e = 0; e < errors.length; e++) {
      if (errors[e] > unseen) seen++;
      if (worst < 0 || errors[e] > errors[worst]) worst = e;
    }
    if (seen > 0) {
      const places: Vec3[] = [];
      for (let e = 0; e < errors.length && places.length < 4 * PLACES; e++) if (errors[e] > unseen) places.push(edgeAt(e));
      places.sort((a, b) => a[0] - b[0] || a[1] - b[1] || a[2] - b[2]);
      add({
        kind: 'chord',
        severity: 'information',
        value: errors[worst] / part.pixelMm,
        unit: 'px',
        limit: unseen / part.pixelMm,
        message: `${name}: flat faces stand for a round surface by up to ${millimetres(errors[worst], 3)}, ${figure(errors[worst] / part.pixelMm, 2)} px at the closest view, at ${many(seen, 'edge')}.`,
        why: 'The outline shows its corners there; a dense original would give it more sides, or the view be taken from farther off.',
        where: [edgeAt(worst), ...places],
      });
    }
  }
  const scaled = (part.placements ?? []).filter((m) => !isRigid(m));
  if (scaled.length > 0)
    add({
      kind: 'scaled',
      severity: 'warning',
      value: scaled.length,
      unit: 'copies',
      limit: 0,
      message: `${name}: ${scaled.length === (part.placements?.length ?? 0) ? '' : `${figure(scaled.length, 0)} of ${part.placements?.length} copies with `}${stretchWords(scaled[0])} left on.`,
      why: 'Texel density, bevels and thicknesses are measured without it: apply it before anything is laid out.',
      where: faceCount(mesh) > 0 ? [faceAt(0)] : [],
      fixes: ['apply-scale'],
    });
  if (part.came)
    add({
      kind: 'scaled',
      severity: 'warning',
      value: part.placements?.length ?? 1,
      unit: 'copies',
      limit: 0,
      message: `${name}: the file has ${stretchWords(part.came)} on it, which is applied here.`,
      why: 'Bevels, normals and textures made before it are drawn out of shape or turned over with it; where it was made, apply it first.',
      where: faceCount(mesh) > 0 ? [faceAt(0)] : [],
    });
  if (!part.hasMaterial)
    add({
      kind: 'no-material',
      severity: 'warning',
      value: 1,
      unit: 'part',
      limit: 0,
      message: `${name} has no material.`,
      why: 'It will be delivered in the viewer’s default grey.',
      where: faceCount(mesh) > 0 ? [faceAt(0)] : [],
    });
  if (part.untouchedMaterial)
    add({
      kind: 'default-material',
      severity: 'information',
      value: 1,
      unit: 'part',
      limit: 0,
      message: `${name}: “${part.untouchedMaterial}” is still as the file brought it.`,
      why: 'Look at it in Surface: take one of the library, or change a value to keep it.',
      where: faceCount(mesh) > 0 ? [faceAt(0)] : [],
    });
  return out;
}

/** The jump itself along an edge, 1/mm. */
function jumpOf(p: Float64Array, ends: Uint32Array, e: number, radians: number): number {
  const [a, b] = [3 * ends[2 * e], 3 * ends[2 * e + 1]];
  return radians / (Math.hypot(p[a] - p[b], p[a + 1] - p[b + 1], p[a + 2] - p[b + 2]) || 1);
}
