import { escaped } from '../drawing/escaped';
import type { Step } from '../form/steps';
import type { AssetDocument } from './document';

/**
 * Names that people give are labels: no mesh, texel or figure depends on them. What is kept under the hash of its inputs is made from
 * a document whose labels are marks, and each mark becomes the label of the day when the result is shown. So renaming a part makes
 * nothing stale, and equal names of results mean equal bytes.
 */
type Kind = 'part' | 'step' | 'region' | 'material' | 'print';
const mark = (kind: Kind, id: string): string => `⟦${kind} ${id}⟧`;
const MARKS = /⟦(part|step|region|material|print) ([^⟧]*)⟧/g;

/** What stands for a thing that has been removed since. */
const GONE: Record<Kind, string> = {
  part: 'a removed part',
  step: 'a removed step',
  region: 'a removed region',
  material: 'a removed material',
  print: 'a removed print',
};

const bare = new WeakMap<AssetDocument, AssetDocument>();

/** The same document with marks in place of the names of parts, steps, regions, materials and prints. Kept by document. */
export function unlabelled(document: AssetDocument): AssetDocument {
  const known = bare.get(document);
  if (known) return known;
  const made: AssetDocument = {
    ...document,
    name: '',
    parts: document.parts.map((p) => ({
      ...p,
      name: mark('part', p.id),
      shape: p.shape.steps
        ? { ...p.shape, steps: p.shape.steps.map(({ same: _, ...s }) => ({ ...s, name: mark('step', s.id) }) as Step) }
        : p.shape,
      ...(p.regions && { regions: p.regions.map((r) => ({ ...r, name: mark('region', r.id) })) }),
    })),
    materials: document.materials.map((m) => ({ ...m, name: mark('material', m.id) })),
    ...(document.prints && { prints: document.prints.map((p) => ({ ...p, name: mark('print', p.id) })) }),
    rig: { ...document.rig, name: '' },
    shot: { ...document.shot, name: '' },
  };
  bare.set(document, made);
  // Its own marks stand for themselves.
  bare.set(made, made);
  return made;
}

const label = (document: AssetDocument, kind: Kind, id: string): string => {
  const found =
    kind === 'part'
      ? document.parts.find((p) => p.id === id)
      : kind === 'material'
        ? document.materials.find((m) => m.id === id)
        : kind === 'print'
          ? document.prints?.find((p) => p.id === id)
          : document.parts
              .flatMap((p): readonly { id: string; name: string }[] => (kind === 'step' ? (p.shape.steps ?? []) : (p.regions ?? [])))
              .find((x) => x.id === id);
  return found?.name ?? GONE[kind];
};

/** A text with every mark replaced by today's label. */
export const labelledText = (text: string, document: AssetDocument): string =>
  text.includes('⟦') ? text.replace(MARKS, (_, kind: Kind, id: string) => label(document, kind, id)) : text;

/** A drawing, SVG, with every mark in it replaced by today's label, written as XML wants it: a drawing that is kept has marks too. */
export function labelledSvg(svg: Uint8Array, document: AssetDocument): Uint8Array<ArrayBuffer> {
  const text = new TextDecoder().decode(svg).replace(MARKS, (_, kind: Kind, id: string) => escaped(label(document, kind, id)));
  return new TextEncoder().encode(text);
}

/** A value with every mark in its texts replaced by today's label; bytes and typed arrays are left as they are. */
export function labelled<T>(value: T, document: AssetDocument): T {
  if (typeof value === 'string') return labelledText(value, document) as T;
  if (Array.isArray(value)) {
    const made = value.map((x) => labelled(x, document));
    return (made.some((x, i) => x !== value[i]) ? made : value) as T;
  }
  if (value === null || typeof value !== 'object' || Object.getPrototypeOf(value) !== Object.prototype) return value;
  let changed = false;
  const entries = Object.entries(value).map(([k, x]) => {
    const made = labelled(x, document);
    changed ||= made !== x;
    return [k, made] as const;
  });
  return changed ? (Object.fromEntries(entries) as T) : value;
}
