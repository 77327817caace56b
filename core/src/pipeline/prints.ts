import type { Print } from '../print/print';
import type { Over } from '../surface/compose';
import type { Material } from '../surface/material';
import { cameMaterials } from './came';
import { type AssetDocument, deliveredParts, photographedParts } from './document';

/** What printing asks of a document. */
export type PrintedDocument = Pick<AssetDocument, 'parts' | 'materials' | 'prints'>;

/** Prints that go on the set: switched on, on parts that go out. */
export const printsOf = (document: Pick<AssetDocument, 'parts' | 'prints'>): Print[] => {
  const parts = new Set(deliveredParts(document).map((p) => p.id));
  return (document.prints ?? []).filter((p) => p.on && parts.has(p.part));
};

/** Which maps prints ask of a piece’s set. */
export function overBy(document: PrintedDocument): Over {
  const prints = printsOf(document);
  return {
    relief: prints.some(({ ink }) => (ink.relief ?? 0) !== 0),
    coat: prints.some(({ ink }) => ink.coat !== undefined),
    clear: prints.some((p) => (materialUnder(document, p)?.transmission ?? 0) > 0),
  };
}
/** The material a print lies on. */
export const materialUnder = ({ parts, materials }: PrintedDocument, { part }: Print): Material | undefined =>
  materials.find((m) => m.id === parts.find((p) => p.id === part)?.material);
/** Prints on parts that go out in the pictures they came with, or in photographs: they are not on those. */
export function unprinted(document: AssetDocument): Print[] {
  const came = new Set(cameMaterials(document).map((m) => m.id));
  const photographed = photographedParts(document);
  return printsOf(document).filter((p) => photographed.has(p.part) || came.has(materialUnder(document, p)?.id ?? ''));
}
/** Ids of materials that a print with a coat of its own lies on. */
export const coatedBy = (document: PrintedDocument): ReadonlySet<string> =>
  new Set(printsOf(document).flatMap((p) => (p.ink.coat === undefined ? [] : (materialUnder(document, p)?.id ?? []))));
