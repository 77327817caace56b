import type { Vec3 } from '../maths/vec3';
import { boundaryLoops, edgesOf } from '../mesh/connectivity';
import { faceCount, type PolyMesh } from '../mesh/polymesh';
import { figure } from '../units/lengths';
import { type Finding, type FindingKind, type FixId, PLACES, type Severity } from './finding';
import { degenerateFaces, NEEDLE_MM } from './findings/degenerate';
import { DOUBLE_MM, doubles } from './findings/doubles';
import { inwardShells } from './findings/inward';
import { nonManifold } from './findings/non-manifold';
import { mixedWinding } from './findings/winding';

/** What is inspected: one mesh with what its owner says about it. */
export interface Inspected {
  id: string;
  name: string;
  mesh: PolyMesh;
  /** Rims are meant to be open. */
  declaredOpen: boolean;
  hasMaterial: boolean;
  /** Its material is still what a file happened to bring. */
  untouchedMaterial?: string;
  /** Fixes can be applied: true for imported meshes; a recipe is mended in its steps. */
  fixable: boolean;
}

const many = (n: number, one: string, more = `${one}s`): string => `${figure(n, 0)} ${n === 1 ? one : more}`;

/** Every finding of one part's mesh. */
export function inspectPart(part: Inspected): Finding[] {
  const { mesh, name } = part;
  const out: Finding[] = [];
  const add = (
    kind: FindingKind,
    severity: Severity,
    value: number,
    unit: string,
    limit: number,
    message: string,
    why: string,
    where: Vec3[],
    fixes: FixId[] = [],
  ) =>
    out.push({
      id: `${kind}:${part.id}`,
      kind,
      severity,
      part: part.id,
      partName: name,
      value,
      unit,
      limit,
      message,
      why,
      where: where.slice(0, PLACES),
      fixes: part.fixable ? fixes : [],
    });
  const edges = edgesOf(mesh);
  const vertexAt = (v: number): Vec3 => [mesh.positions[3 * v], mesh.positions[3 * v + 1], mesh.positions[3 * v + 2]];
  const faceAt = (f: number): Vec3 => vertexAt(mesh.faceVert[mesh.faceStart[f]]);
  const edgeAt = (e: number): Vec3 => vertexAt(edges.ends[2 * e]);

  const winding = mixedWinding(mesh, edges);
  if (winding.length > 0)
    add(
      'winding',
      'error',
      winding.length,
      'edges',
      0,
      `${name}: ${many(winding.length, 'edge')} where neighbouring faces run opposite ways.`,
      'One of the two shows its back: it is drawn black or not at all, and bakes inside out.',
      winding.map(edgeAt),
      ['turn-outward'],
    );
  else {
    const { shells } = inwardShells(mesh, edges);
    const faces = shells.reduce((n, s) => n + s.faces, 0);
    if (faces > 0)
      add(
        'inward',
        'error',
        faces,
        'faces',
        0,
        `${name}: ${many(faces, 'face')} in ${many(shells.length, 'shell')} face inward.`,
        'Seen from outside there is nothing: faces are drawn from one side only.',
        shells.map((s) => faceAt(s.face)),
        ['turn-outward'],
      );
  }
  const bad = nonManifold(mesh, edges);
  if (bad.edges.length + bad.vertices.length > 0)
    add(
      'non-manifold',
      'error',
      bad.edges.length + bad.vertices.length,
      'places',
      0,
      `${name}: ${many(bad.edges.length, 'edge')} with more than two faces and ${many(bad.vertices.length, 'vertex', 'vertices')} where separate surfaces meet in a point.`,
      'Smoothing, unwrapping and baking can’t tell which side is which there.',
      [...bad.edges.map(edgeAt), ...bad.vertices.map(vertexAt)],
      ['split-non-manifold'],
    );
  const loops = boundaryLoops(mesh, edges);
  if (loops.length > 0)
    add(
      'open-rim',
      part.declaredOpen ? 'information' : 'warning',
      loops.length,
      'rims',
      0,
      `${name}: ${many(loops.length, 'open rim')} of ${many(
        loops.reduce((n, l) => n + l.length, 0),
        'edge',
      )}${part.declaredOpen ? ', declared open' : ''}.`,
      part.declaredOpen
        ? 'It is meant to be open; nothing to do.'
        : 'The inside shows through it, and rays of the bake can slip in. Declare it open if it is meant.',
      loops.map((l) => vertexAt(l[0])),
    );
  const twice = doubles(mesh);
  if (twice.length > 0)
    add(
      'doubles',
      'warning',
      twice.length,
      'points',
      DOUBLE_MM,
      `${name}: ${many(twice.length, 'point')} within ${figure(DOUBLE_MM, 3)} mm of another and not joined to it.`,
      'It looks whole and is not: light breaks along it and it opens when moved.',
      twice.map(vertexAt),
      ['weld', 'weld-keep-seam'],
    );
  const thin = degenerateFaces(mesh);
  if (thin.length > 0)
    add(
      'degenerate',
      'warning',
      thin.length,
      'faces',
      NEEDLE_MM,
      `${name}: ${many(thin.length, 'face')} without area or thinner than ${figure(NEEDLE_MM, 4)} mm.`,
      'They face no way in particular: they shade as sparks and bake as noise.',
      thin.map(faceAt),
      ['remove-degenerate'],
    );
  if (!part.hasMaterial)
    add(
      'no-material',
      'warning',
      1,
      'part',
      0,
      `${name} has no material.`,
      'It will be delivered in the viewer’s default grey.',
      faceCount(mesh) > 0 ? [faceAt(0)] : [],
    );
  if (part.untouchedMaterial)
    add(
      'default-material',
      'information',
      1,
      'part',
      0,
      `${name}: “${part.untouchedMaterial}” is still as the file brought it.`,
      'Look at it in Surface: take one of the library, or change a value to keep it.',
      faceCount(mesh) > 0 ? [faceAt(0)] : [],
    );
  return out;
}
