/// <reference path="./occt-import-js.d.ts" />
import type { OcctMesh, OcctNode } from 'occt-import-js';
import { InputError } from '../errors';
import { rgbToSrgb } from '../image/srgb';
import { IDENTITY } from '../maths/mat4';
import { makeMesh, type PolyMesh, triangleCount } from '../mesh/polymesh';
import { coincidentVertices, dropRepeats } from '../mesh/weld';
import { PLAIN } from '../surface/material';
import { figure } from '../units/lengths';
import type { Model, ModelMaterial, ModelPart } from './model';

/** The turn from one chord to the next that isn't undercut however far the tolerance is, radians: some twenty sides round a circle. Ours to choose. */
const TURN = 0.3;
/** The finest and the coarsest tolerance taken, mm. */
export const STEP_TOLERANCE = { least: 1e-3, most: 1e3, usual: 0.1 } as const;

/**
 * Reads a STEP file (ISO 10303-21 with the shapes of ISO 10303-42): every solid or shell becomes a part under its product's name, with its
 * own colour as material, its normals, and each of its faces as a patch (`face 7`; `#3c78b4/face 7` where the file gives the face another
 * colour than its body). A library for exact geometry, loaded when the first such file is read, cuts the surfaces into triangles.
 *
 * @param mm how far a triangle may lie from the surface, whatever the file's unit
 * @throws InputError in one sentence
 */
export async function readStepFile(bytes: Uint8Array, mm: number): Promise<Model> {
  if (!(mm >= STEP_TOLERANCE.least && mm <= STEP_TOLERANCE.most))
    throw new InputError(
      'step-file/tolerance',
      `Surfaces can be cut to ${figure(STEP_TOLERANCE.least, 3)} to ${figure(STEP_TOLERANCE.most, 0)} mm.`,
    );
  if (!/^[\s\uFEFF]*ISO-10303-21\s*;/.test(new TextDecoder('latin1').decode(bytes.subarray(0, 200)).replace(/^ï»¿/, '')))
    throw new InputError('step-file/head', 'It does not begin as a STEP file does (ISO-10303-21).');
  if (!/END-ISO-10303-21\s*;\s*$/.test(new TextDecoder('latin1').decode(bytes.subarray(-200))))
    throw new InputError('step-file/short', 'The STEP file ends before its data does.');
  const { root, meshes } = await triangulated(bytes, mm);
  const names = namesOf(root);
  const materials: ModelMaterial[] = [];
  const [faces, missing] = meshes
    .flatMap((m) => m.brep_faces)
    .reduce(([all, none], f) => [all + 1, none + (f.last < f.first ? 1 : 0)], [0, 0]);
  const parts = meshes.map((m, i): ModelPart => {
    const own = m.color ? materialAt(materials, m.color) : -1;
    const apart = [...new Set(m.brep_faces.flatMap((f) => (f.color ? [hexOf(f.color)] : [])))].filter(
      (hex) => hex !== (m.color && hexOf(m.color)),
    );
    return {
      name: names.get(i) || m.name,
      mesh: meshOf(m),
      placements: [IDENTITY],
      material: own,
      ...(apart.length > 0 && {
        coloured: apart.map((hex) => ({
          patches: hex,
          material: materialAt(materials, m.brep_faces.find((f) => f.color && hexOf(f.color) === hex)?.color as [number, number, number]),
        })),
      }),
    };
  });
  const notes =
    missing > 0
      ? [
          `${figure(missing, 0)} of its ${figure(faces, 0)} faces could not be cut into triangles and ${missing === 1 ? 'is' : 'are'} missing.`,
        ]
      : [];
  return { parts, materials, textures: [], notes };
}

/** @throws InputError when the library could not read it, or read only some of it */
async function triangulated(bytes: Uint8Array, mm: number): Promise<{ root: OcctNode; meshes: OcctMesh[] }> {
  const { default: load } = await import('occt-import-js');
  const said: string[] = [];
  const hear = (line: string) => said.push(line);
  // An instance of its own each time: what a broken file leaves behind in it is gone with it.
  const library = await load({ print: hear, printErr: hear });
  let read: ReturnType<typeof library.ReadStepFile>;
  try {
    read = library.ReadStepFile(bytes, {
      linearUnit: 'millimeter',
      linearDeflectionType: 'absolute_value',
      linearDeflection: mm,
      angularDeflection: TURN,
    });
  } catch {
    throw new InputError('step-file/broken', 'The STEP file is broken: its shapes could not be made.');
  }
  // What it could not understand it leaves out and goes on; half a file is not what was handed in.
  const wrong = said.some((line) => /\bERR\b/.test(line));
  if (!read.success || wrong) throw new InputError('step-file/syntax', 'The STEP file is broken: some of its data can’t be understood.');
  return read;
}

/** Names of the products that meshes belong to, by their numbers. */
function namesOf(root: OcctNode): Map<number, string> {
  const names = new Map<number, string>();
  const visit = (node: OcctNode, above: string): void => {
    const name = node.name || above;
    for (const m of node.meshes) names.set(m, name);
    for (const child of node.children) visit(child, name);
  };
  visit(root, '');
  return names;
}

function hexOf(linear: readonly [number, number, number]): string {
  return `#${rgbToSrgb(linear)
    .map((x) =>
      Math.round(255 * Math.min(Math.max(x, 0), 1))
        .toString(16)
        .padStart(2, '0'),
    )
    .join('')}`;
}

function materialAt(materials: ModelMaterial[], linear: readonly [number, number, number]): number {
  const name = `Colour ${hexOf(linear)}`;
  const known = materials.findIndex((m) => m.name === name);
  if (known >= 0) return known;
  const colour = rgbToSrgb(linear).map((x) => Math.min(Math.max(x, 0), 1)) as [number, number, number];
  materials.push({ ...PLAIN, name, colour });
  return materials.length - 1;
}

/** Corners nearer than this share of the piece's reach are one: faces meet at points that each of them rounds for itself. */
const SAME = 1e-7;

/** A mesh whose faces are closed along their common edges, each under its own name. */
function meshOf({ attributes, index, brep_faces: faces, color }: OcctMesh): PolyMesh {
  const positions = Float64Array.from(attributes.position.array);
  let reach = 0;
  for (const x of positions) reach = Math.max(reach, Math.abs(x));
  const to = coincidentVertices(positions, SAME * reach);
  const [number, points] = [new Map<number, number>(), [] as number[]];
  const faceVert = Uint32Array.from(index.array, (v) => {
    const at = to[v];
    let own = number.get(at);
    if (own === undefined) {
      own = number.size;
      number.set(at, own);
      points.push(positions[3 * at], positions[3 * at + 1], positions[3 * at + 2]);
    }
    return own;
  });
  const triangles = faceVert.length / 3;
  const patch = new Uint32Array(triangles);
  for (const [i, f] of faces.entries()) patch.fill(i, f.first, f.last + 1);
  const body = color && hexOf(color);
  const patches = faces.map((f, i) => (f.color && hexOf(f.color) !== body ? `${hexOf(f.color)}/face ${i + 1}` : `face ${i + 1}`));
  const normals = attributes.normal?.array;
  const normal =
    normals && Float64Array.from({ length: 3 * faceVert.length }, (_, k) => normals[3 * index.array[Math.floor(k / 3)] + (k % 3)]);
  const mesh = makeMesh({
    positions: points,
    faceStart: Uint32Array.from({ length: triangles + 1 }, (_, i) => 3 * i),
    faceVert,
    patches,
    attributes: [
      { name: 'patch', domain: 'face', size: 1, data: patch },
      ...(normal ? [{ name: 'normal', domain: 'corner' as const, size: 3, data: normal }] : []),
    ],
  });
  return triangleCount(mesh) > 0 ? dropRepeats(mesh) : mesh;
}
