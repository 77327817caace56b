import { readFile, stat } from 'node:fs/promises';
import { basename, dirname, isAbsolute, resolve, sep } from 'node:path';
import { InputError } from '@wellmorph/core/errors';
import { parseJson, splitGlb, urisOf } from '@wellmorph/core/io/glb-check';
import type { Model } from '@wellmorph/core/io/model';
import { type ReadOptions, readModel } from '@wellmorph/core/io/read';
import { STEP_TOLERANCE } from '@wellmorph/core/io/step-file';
import { isLengthUnit, type LengthUnit } from '@wellmorph/core/units/lengths';
import type { Values } from './options';
import { STANDARD } from './write';

/** The largest file read, bytes. */
export const LARGEST_FILE = 200_000_000;

export function unitOf(values: Values): LengthUnit {
  const unit = values.unit ?? 'mm';
  if (!isLengthUnit(unit)) throw new InputError('cli/unit', `--unit is ${unit}; it can be mm, cm, m or in.`);
  return unit;
}

/** A whole number between bounds. */
export function wholeNumber(
  values: Values,
  name: 'size' | 'second' | 'padding' | 'samples' | 'limit-triangles' | 'triangles' | 'threads' | 'seed' | 'bits',
  fallback: number,
  least: number,
  most: number,
): number {
  const text = values[name];
  if (text === undefined) return fallback;
  const n = Number(text);
  if (!Number.isInteger(n) || n < least || n > most)
    throw new InputError('cli/number', `--${name} is ${text}; it can be a whole number from ${least} to ${most}.`);
  return n;
}

/** A number between bounds; nothing where it wasn't said. */
export function number(
  values: Values,
  name: 'outward' | 'inward' | 'round' | 'reach' | 'angle' | 'tolerance' | 'fewer' | 'unseen',
  least: number,
  most: number,
  unit?: string,
): number | undefined {
  const text = values[name];
  if (text === undefined) return undefined;
  const n = Number(text);
  if (text.trim() === '' || !(n >= least && n <= most))
    throw new InputError('cli/number', `--${name} is ${text}; it can be ${least} to ${most}${unit ? ` ${unit}` : ''}.`);
  return n;
}

/** When what is made is said to be made, ISO: today, or what `SOURCE_DATE_EPOCH` says, so that equal input gives equal bytes (reproducible-builds.org). */
export function madeOn(): string {
  const text = process.env.SOURCE_DATE_EPOCH;
  if (text === undefined || text === '') return new Date().toISOString().slice(0, 10);
  const made = new Date(1000 * Number(text));
  if (!/^\d+$/.test(text) || Number.isNaN(made.getTime()))
    throw new InputError('cli/epoch', `SOURCE_DATE_EPOCH is ${text}; it has to be whole seconds since 1970.`);
  return made.toISOString().slice(0, 10);
}

export function one<T extends string>(values: Values, name: 'y' | 'up', choices: readonly T[], fallback: T): T {
  const text = values[name] ?? fallback;
  const found = choices.find((c) => c === text);
  if (!found) throw new InputError('cli/choice', `--${name} is ${text}; it can be ${choices.join(' or ')}.`);
  return found;
}

/** All of a file, or of standard input. @throws InputError when it can't be opened or is too large */
export async function readWhole(path: string): Promise<Uint8Array> {
  if (path === STANDARD) return standardInput();
  let size: number;
  try {
    const info = await stat(path);
    if (!info.isFile()) throw new InputError('file/kind', `“${path}” is not a file.`);
    size = info.size;
  } catch (error) {
    if (error instanceof InputError) throw error;
    throw new InputError('file/missing', `“${path}” can’t be opened.`);
  }
  if (size > LARGEST_FILE)
    throw new InputError('file/large', `“${path}” is ${(size / 1e6).toFixed(0)} MB; files up to ${LARGEST_FILE / 1e6} MB are read.`);
  return new Uint8Array(await readFile(path));
}

let taken = false;
async function standardInput(): Promise<Uint8Array> {
  if (taken) throw new InputError('file/standard', 'Standard input can only be one of the files.');
  taken = true;
  const chunks: Buffer[] = [];
  let size = 0;
  for await (const chunk of process.stdin as AsyncIterable<Buffer>) {
    size += chunk.length;
    if (size > LARGEST_FILE) throw new InputError('file/large', `Standard input is more than ${LARGEST_FILE / 1e6} MB.`);
    chunks.push(chunk);
  }
  return new Uint8Array(Buffer.concat(chunks));
}

/** What a file is called, for people. */
export const calledAs = (path: string): string => (path === STANDARD ? 'Standard input' : basename(path));

/** What a file is called; of standard input, what it is by its first bytes. */
export function nameOf(path: string, bytes: Uint8Array): string {
  if (path !== STANDARD) return basename(path);
  const begins = new TextDecoder().decode(bytes.subarray(0, 4096)).trimStart();
  if (begins.startsWith('glTF')) return 'standard-input.glb';
  if (begins.startsWith('PK')) return 'standard-input.zip';
  if (/^ply\s/.test(begins)) return 'standard-input.ply';
  if (/^solid\s/.test(begins)) return 'standard-input.stl';
  if (/^ISO-10303-21/.test(begins)) return 'standard-input.step';
  if (!begins.startsWith('{')) return 'standard-input.obj';
  return /"schema"/.test(new TextDecoder().decode(bytes)) && !/"asset"\s*:/.test(begins) ? 'standard-input.json' : 'standard-input.gltf';
}

/** Reads a model from disk, with what it names that lies beside it: an OBJ's MTL, a glTF's data and pictures. */
export async function loadModel(
  path: string,
  values: Values,
  more: Pick<ReadOptions, 'hardAngle'> = {},
  whole?: Uint8Array,
): Promise<Model> {
  const bytes = whole ?? (await readWhole(path));
  const companions: Record<string, Uint8Array> = {};
  for (const name of path === STANDARD ? [] : namedBy(path, bytes)) {
    // Only what lies in its folder or below is followed, never a path out of it.
    const at = resolve(dirname(path), name);
    if (isAbsolute(name) || !at.startsWith(resolve(dirname(path)) + sep)) continue;
    // What isn't there is said by whoever needs it.
    const info = await stat(at).catch(() => null);
    if (info?.isFile() && info.size <= LARGEST_FILE) companions[name] = new Uint8Array(await readFile(at));
  }
  const toleranceMm = number(values, 'tolerance', STEP_TOLERANCE.least, STEP_TOLERANCE.most, 'mm');
  const up = values.up === undefined ? undefined : one(values, 'up', ['y', 'z'] as const, 'y');
  return readModel(nameOf(path, bytes), bytes, { unit: unitOf(values), up, toleranceMm, companions, ...more });
}

/** Other files that a model names. */
function namedBy(path: string, bytes: Uint8Array): string[] {
  if (/\.obj$/i.test(path)) {
    const named = /^mtllib\s+(.+?)\s*$/m.exec(new TextDecoder().decode(bytes.subarray(0, 200_000)))?.[1];
    return named === undefined ? [] : [named];
  }
  if (!/\.gl(b|tf)$/i.test(path)) return [];
  try {
    return urisOf(/\.glb$/i.test(path) ? splitGlb(bytes).json : parseJson(bytes));
  } catch {
    // What is wrong with it is said when it is read.
    return [];
  }
}
