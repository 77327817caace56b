import { InputError } from '../../errors';
import type { Step } from '../../form/steps';
import { type AssetDocument, type Material, originalOf, type Part } from '../document';
import { fieldName } from '../field-names';

/**
 * A kind of change: what it may look like, what it does, how it is told. One file each; {@link ./index} lists them, and one that is
 * forgotten there does not compile.
 */
export interface CommandKind<C extends { type: string }> {
  readonly type: C['type'];
  /** What a request may hold, checked by class-validator. */
  readonly shape: new () => C;
  /** The command as the descriptions of steps and regions know it: what those don't name is not kept. */
  cleaned?(command: C): C;
  /** Stored files it refers to. */
  blobs?(command: C): string[];
  /** Made by the server alone, from what it holds; never taken from a page. */
  readonly byServer?: true;
  /**
   * Writes the change into a draft, whose patches give the inverse.
   *
   * @throws InputError in one sentence when it refers to something that isn't there; nothing has changed then
   */
  apply(draft: AssetDocument, command: C): void;
  /** What it did, for the history. `before` is the document it was made on. */
  words(command: C, before: AssetDocument): string;
  /**
   * Paths of what it decides, `/` between their steps, `*` for every one. Made on an older state, it is only applied to the newer one when nothing that
   * was changed in between is, holds or lies in one of them.
   */
  touches(command: C): string[];
}

/** A part of a document. @throws InputError when it is not there */
export function partIn(d: AssetDocument, id: string): Part {
  const found = d.parts.find((p) => p.id === id);
  if (!found) throw new InputError('command/part', 'The part this change is for is no longer there.');
  return found;
}

/** The steps of a part, to be changed in place. @throws InputError when the part is not there */
export function stepsIn(d: AssetDocument, part: string): Step[] {
  const p = partIn(d, part);
  if (p.shape.kind === 'copy')
    throw new InputError('command/copy', `“${p.name}” is a copy of “${originalOf(d, p).name}”; its steps are that one’s.`);
  p.shape.steps ??= [];
  return p.shape.steps;
}

/** Where a step is among others. @throws InputError when it is not there */
export function stepAt(list: readonly Step[], id: string): number {
  const i = list.findIndex((s) => s.id === id);
  if (i < 0) throw new InputError('command/step', 'The step this change is for is no longer there.');
  return i;
}

/** A material of a document. @throws InputError when it is not there */
export function materialIn(d: AssetDocument, id: string): Material {
  const found = d.materials.find((m) => m.id === id);
  if (!found) throw new InputError('command/material', 'The material this change is for is no longer there.');
  return found;
}

/** A list with one thing put in place of the one with its id, or at its end. */
export function withOne<T extends { id: string }>(list: readonly T[] | undefined, one: T): T[] {
  const known = list ?? [];
  return known.some((x) => x.id === one.id) ? known.map((x) => (x.id === one.id ? one : x)) : [...known, one];
}

/** Moves one thing of a list by so many places, no further than its ends. */
export function moved<T>(list: T[], from: number, by: number): void {
  const to = Math.max(0, Math.min(list.length - 1, from + by));
  if (to !== from) list.splice(to, 0, ...list.splice(from, 1));
}
export const movedWords = (by: number): string => `${by < 0 ? 'up' : 'down'}${Math.abs(by) === 1 ? '' : ` by ${Math.abs(by)} places`}`;

export const partName = (before: AssetDocument, id: string): string => before.parts.find((p) => p.id === id)?.name ?? 'a part';
export const stepNamed = (before: AssetDocument, part: string, id: string): string =>
  before.parts.find((p) => p.id === part)?.shape.steps?.find((s) => s.id === id)?.name ?? 'a step';
export const fieldsOf = (patch: object): string => [...new Set(Object.keys(patch).map(withoutUnit))].join(', ');
const withoutUnit = (field: string): string => fieldName(field).replace(/, [^ ,]+$/, '');
/** One path for each field of a patch. */
export const under = (path: string, patch: object): string[] => Object.keys(patch).map((field) => `${path}/${field}`);
