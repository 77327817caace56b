import { InputError } from '../errors';
import { type Mat4, multiply } from '../maths/mat4';
import { markHard } from '../mesh/normals';
import { smoothPatches } from '../mesh/patches';
import { attribute, faceCount, type PolyMesh } from '../mesh/polymesh';
import { isLengthUnit, type LengthUnit, MM_PER } from '../units/lengths';
import { EXACT, FORMATS, type Format, READ_WORDS, UNITLESS, type Up, usualUp } from './formats';
import { readGlb, readGltfJson } from './glb-read';
import type { Model, ModelPart } from './model';
import { readObj } from './obj';
import { readPly } from './ply';
import { readStepFile, STEP_TOLERANCE } from './step-file';
import { readStl } from './stl';

export { EXACT, FORMATS, type Format, READ_WORDS, UNITLESS };

/** What a file does not say by itself. */
export interface ReadOptions {
  /** What one unit of the file is, for formats that don't say. */
  unit?: LengthUnit;
  /** Which way is up in it, for formats that don't say; see {@link usualUp}. */
  up?: Up;
  /** Companion files by name: an OBJ’s MTL, a glTF’s data and pictures. */
  companions?: Record<string, Uint8Array>;
  /** Edges sharper than this are hard where a file brings no normals, degrees. */
  hardAngle?: number;
  /** How far triangles may lie from surfaces that a file has exactly, mm. */
  toleranceMm?: number;
}

/** The format of a file by its name. @throws InputError when it is none that is read */
export function formatOf(fileName: string): Format {
  const extension = fileName.toLowerCase().split('.').pop() ?? '';
  if (!(FORMATS as readonly string[]).includes(extension))
    throw new InputError('file/format', `“${fileName}” is not a kind of file that can be read here; ${READ_WORDS} can.`);
  return extension as Format;
}

/**
 * Reads a model. Everything is checked before it is believed.
 * @throws InputError in one sentence; nothing is half-read
 */
export async function readModel(fileName: string, bytes: Uint8Array, options: ReadOptions = {}): Promise<Model> {
  const format = formatOf(fileName);
  if (bytes.length === 0) throw new InputError('file/empty', `“${fileName}” is empty.`);
  const unit = options.unit ?? 'mm';
  if (!isLengthUnit(unit)) throw new InputError('file/unit', `“${String(unit)}” is not one of mm, cm, m, in.`);
  const { toleranceMm = STEP_TOLERANCE.usual } = options;
  const readers: Record<Format, () => Model | Promise<Model>> = {
    obj: () => readObj(bytes, MM_PER[unit], options.companions),
    glb: () => readGlb(bytes, options.companions),
    gltf: () => readGltfJson(bytes, options.companions),
    ply: () => readPly(bytes, MM_PER[unit]),
    stl: () => readStl(bytes, MM_PER[unit]),
    step: () => readStepFile(bytes, toleranceMm),
    stp: () => readStepFile(bytes, toleranceMm),
  };
  const model = await readers[format]();
  const upright = format !== 'glb' && format !== 'gltf' && (options.up ?? usualUp(format)) === 'z';
  const parts = model.parts
    .filter((p) => faceCount(p.mesh) > 0)
    .map((p) => (upright ? { ...p, placements: p.placements.map((m) => multiply(FROM_Z_UP, m)) } : p));
  if (parts.length === 0) throw new InputError('file/no-faces', `“${fileName}” holds no faces.`);
  for (const p of parts) checkPlaces(fileName, p);
  // A part without a name is called as its file.
  const called = asText(fileName.replace(/^.*[\\/]/, '').replace(/\.[^.]*$/, ''));
  return {
    ...model,
    parts: uniqueNames(parts.map((p) => ({ ...p, name: asText(p.name) || called || 'Part', mesh: shaded(p.mesh, options.hardAngle) }))),
    materials: model.materials.map((m) => ({ ...m, name: asText(m.name) || 'Material' })),
  };
}

/** Turns what stands along z so that it stands along y. */
const FROM_Z_UP: Mat4 = [1, 0, 0, 0, 0, 0, -1, 0, 0, 1, 0, 0, 0, 0, 0, 1];
/** The farthest a point may lie from the middle of the world, mm: ten kilometres. */
const FAR_MM = 1e7;
/** @throws InputError where a point is no point, or so far off that nothing can be measured there */
function checkPlaces(fileName: string, { name, mesh, placements }: ModelPart): void {
  let reach = 0;
  // Compared so that what is no number is far as well.
  for (const x of mesh.positions) if (!(Math.abs(x) <= reach)) reach = Math.abs(x);
  for (const m of placements)
    if (!(Math.sqrt(3) * reach + Math.hypot(m[12], m[13], m[14]) <= FAR_MM))
      throw new InputError(
        'file/far',
        `“${asText(name) || 'A part'}” of “${fileName}” has points more than ten kilometres away, or some that are no places.`,
      );
}

/** A name as text that can be stored and shown: without control characters and halves of pairs. */
const asText = (name: string): string => name.replace(/[\p{Cc}\p{Cs}]/gu, '').trim();

/** Hard edges by angle are used where a file brings no normals, degrees (30° to 60° is common practice, no source). */
const HARD_ANGLE = 40;
const shaded = (mesh: PolyMesh, angle = HARD_ANGLE): PolyMesh =>
  smoothPatches(attribute(mesh, 'normal', 'corner') ? mesh : markHard(mesh, angle), angle);

/** Parts of the same name are numbered, so that every name leads to one part. */
function uniqueNames(parts: ModelPart[]): ModelPart[] {
  const seen = new Map<string, number>();
  return parts.map((p) => {
    const n = (seen.get(p.name) ?? 0) + 1;
    seen.set(p.name, n);
    return n === 1 ? p : { ...p, name: `${p.name} ${n}` };
  });
}

export const hasUv = (mesh: PolyMesh): boolean => attribute(mesh, 'uv', 'corner') !== undefined;
