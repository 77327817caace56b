import type { Finding } from '../inspect/finding';
import { type AssetDocument, photographedParts } from './document';
import { withWaivers } from './inspect';
import { labelled } from './labels';
import type { Look } from './look';
import { nameOf } from './results';

/** What of a document's findings is stored, each with the name it is stored under. */
export interface Found {
  findings: ({ name: string } & { findings: readonly Finding[] }) | null;
  look: ({ name: string } & Pick<Look, 'findings'>) | null;
}

/** Everything found: by forming, and by the longer look where that is of the same form; waivers and labels as they are now. */
export function allFindings(document: AssetDocument, { findings, look }: Found): Finding[] {
  const formed = findings?.findings ?? [];
  const looked = look && look.name === nameOf(document, 'look') ? look.findings : [];
  const photographed = photographedParts(document);
  const found = [...formed, ...looked].filter((f) => f.kind !== 'no-material' || !f.part || !photographed.has(f.part));
  return withWaivers(document, labelled(found, document));
}
