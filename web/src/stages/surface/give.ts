import type { AssetDocument, Part } from '@wellmorph/core/pipeline/document';
import { fromLibraryFor, LIBRARY } from '@wellmorph/core/surface/library';
import type { AssetSession } from '@/session/session';
import { newId } from '@/sheet/ids';

/** What a part can be given: nothing, a material the asset has, or one of the library it doesn't have yet. */
export function materialChoices(document: AssetDocument): (readonly [value: string, name: string])[] {
  const own = document.materials.map((m) => [m.id, m.name] as const);
  const more = LIBRARY.filter((l) => !document.materials.some((m) => m.base === l.key)).map((l) => [`new:${l.key}`, l.name] as const);
  return [['', 'none'], ...own, ...more];
}

const purposeOf = (session: AssetSession) => session.document?.brief.purpose ?? 'game';

/** Gives parts a material by one of the choices above; one change, however many parts. */
export function giveMaterial(session: AssetSession, parts: readonly string[], value: string): void {
  if (value.startsWith('new:'))
    session.dispatch({ type: 'material.add', material: fromLibraryFor(purposeOf(session), value.slice(4), newId()), parts: [...parts] });
  else for (const part of parts) session.dispatch({ type: 'part.set', part, patch: { material: value === '' ? null : value } });
}

/** Gives a region a material of its own, or takes it away again. */
export function giveRegion(session: AssetSession, part: Part, region: NonNullable<Part['regions']>[number], value: string): void {
  const { material: _, ...bare } = region;
  let material = value;
  if (value.startsWith('new:')) {
    material = newId();
    session.dispatch({ type: 'material.add', material: fromLibraryFor(purposeOf(session), value.slice(4), material) });
  }
  session.dispatch({ type: 'region.set', part: part.id, region: material === '' ? bare : { ...bare, material } });
}
