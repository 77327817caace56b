import { canonical } from '../hash';
import type { Print } from '../print/print';
import type { Over } from '../surface/compose';
import type { AssetDocument } from './document';
import { overBy, printsOf } from './prints';
import { nameOf } from './results';

const withPrints = (document: AssetDocument, prints: readonly Print[]): AssetDocument => {
  const { prints: _, ...rest } = document;
  return prints.length > 0 ? { ...rest, prints: [...prints] } : rest;
};

/** What sets lie on, as one word: those that differ in prints alone, if at all, have the same. */
export const groundOf = (document: AssetDocument): string => nameOf(withPrints(document, []), 'surface');

/** Several pieces on one ground with only those prints that all have, from the surface up: what is composed once for all of them. */
export function sharedBy(documents: readonly AssetDocument[]): AssetDocument {
  const [first, ...others] = documents;
  const lists = others.map((d) => printsOf(d).map((p) => canonical(p)));
  const own = printsOf(first);
  const differs = own.findIndex((p, i) => lists.some((list) => list[i] !== canonical(p)));
  return withPrints(first, differs < 0 ? own : own.slice(0, differs));
}

/** Which maps any of several sets asks for. */
export function overAny(documents: readonly AssetDocument[]): Over {
  const all = documents.map(overBy);
  return { relief: all.some((o) => o.relief), coat: all.some((o) => o.coat), clear: all.some((o) => o.clear) };
}
