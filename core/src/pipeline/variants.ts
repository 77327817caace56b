import { canonical } from '../hash';
import type { Print } from '../print/print';
import type { AssetDocument, Material, Part } from './document';

/** Fields of one thing that are otherwise; null where it has none. */
type Otherwise<T> = { [K in Exclude<keyof T, 'id'>]?: T[K] | null };

/**
 * One of several looks of a piece: what of its labels, colours and finishes is otherwise. Form, layout, light and all else are the
 * piece's own, for every one of them.
 */
export interface Variant {
  id: string;
  name: string;
  /** Fields that are otherwise, by print and by material. */
  prints?: Record<string, Otherwise<Print>>;
  materials?: Record<string, Otherwise<Material>>;
  /** Materials of parts, by part, and of regions, by `part/region`. */
  parts?: Record<string, string | null>;
  regions?: Record<string, string | null>;
}
export const MOST_VARIANTS = 24;
/** What a variant may be otherwise in. */
export const VARIED = ['prints', 'materials', 'parts', 'regions'] as const;
export type Varied = (typeof VARIED)[number];

export const regionKey = (part: string, region: string): string => `${part}/${region}`;
const same = (a: unknown, b: unknown): boolean => a === b || canonical(a ?? null) === canonical(b ?? null);

/** A thing with fields that are otherwise; the very same one where none is. */
function withFields<T extends { id: string }>(thing: T, fields: Otherwise<T> | undefined): T {
  if (!fields) return thing;
  const made = { ...thing } as Record<string, unknown>;
  for (const [key, value] of Object.entries(fields)) {
    if (value === null) delete made[key];
    else made[key] = value;
  }
  return made as unknown as T;
}

/** Fields of a thing that are otherwise than of another; undefined where none is. */
function fieldsBetween<T extends { id: string }>(from: T, to: T): Otherwise<T> | undefined {
  if (from === to) return undefined;
  const keys = [...new Set([...Object.keys(from), ...Object.keys(to)])] as (keyof T)[];
  const changed = keys.filter((k) => !same(from[k], to[k]));
  return changed.length > 0 ? (Object.fromEntries(changed.map((k) => [k, to[k] ?? null])) as Otherwise<T>) : undefined;
}

const shown = new WeakMap<AssetDocument, Map<string, AssetDocument>>();

/**
 * The piece as one of its variants: a document like any other, of which every stage can be made. What is not otherwise in it is the
 * piece's own to the object, so that results both share are found under one name. The piece itself where there is no such variant.
 */
export function asVariant(document: AssetDocument, id: string | null | undefined): AssetDocument {
  const variant = id ? document.variants?.find((v) => v.id === id) : undefined;
  if (!variant) return document;
  let known = shown.get(document);
  if (!known) {
    known = new Map();
    shown.set(document, known);
  }
  let made = known.get(variant.id);
  if (!made) {
    made = laidOver(document, variant);
    known.set(variant.id, made);
  }
  return made;
}

function laidOver(document: AssetDocument, v: Variant): AssetDocument {
  const materials = document.materials.map((m) => withFields<Material>(m, v.materials?.[m.id]));
  const isThere = (id: string | null) => id === null || materials.some((m) => m.id === id);
  const materialOf = (list: Record<string, string | null> | undefined, key: string): string | null | undefined => {
    const id = list?.[key];
    // A material that was removed since makes it as the piece is.
    return id !== undefined && isThere(id) ? id : undefined;
  };
  const parts = document.parts.map((p): Part => {
    const own = materialOf(v.parts, p.id);
    const regions = p.regions?.map((r) => {
      const material = materialOf(v.regions, regionKey(p.id, r.id));
      if (material === undefined) return r;
      const { material: _, ...bare } = r;
      return material === null ? bare : { ...bare, material };
    });
    const isOtherwise = own !== undefined || regions?.some((r, i) => r !== p.regions?.[i]);
    return isOtherwise ? { ...p, ...(own !== undefined && { material: own }), ...(regions && { regions }) } : p;
  });
  return {
    ...document,
    materials,
    parts,
    ...(document.prints && { prints: document.prints.map((p) => withFields<Print>(p, v.prints?.[p.id])) }),
    as: v.id,
  };
}

/** Every variant of a piece as a document of its own. */
export const variantsOf = (document: AssetDocument): AssetDocument[] => (document.variants ?? []).map((v) => asVariant(document, v.id));

/** What the variant is called that a piece is shown as; undefined where it is shown as itself. */
export const variantName = ({ variants, as }: Pick<AssetDocument, 'variants' | 'as'>): string | undefined =>
  variants?.find((v) => v.id === as)?.name;
/** What a piece is called as it is shown. */
export function calledAs(document: Pick<AssetDocument, 'name' | 'variants' | 'as'>): string {
  const variant = variantName(document);
  return variant ? `${document.name}, ${variant}` : document.name;
}

/** The variant of a piece that looks so. @param piece as it is itself @param look as it is in the variant */
export function variantBetween({ id, name }: Pick<Variant, 'id' | 'name'>, piece: AssetDocument, look: AssetDocument): Variant {
  const prints: Variant['prints'] = {};
  for (const p of piece.prints ?? []) {
    const now = look.prints?.find((x) => x.id === p.id);
    const fields = now ? fieldsBetween<Print>(p, now) : p.on ? { on: false } : undefined;
    if (fields) prints[p.id] = fields;
  }
  const materials: Variant['materials'] = {};
  for (const m of piece.materials) {
    const now = look.materials.find((x) => x.id === m.id);
    const fields = now && fieldsBetween<Material>(m, now);
    if (fields) materials[m.id] = fields;
  }
  const parts: Variant['parts'] = {};
  const regions: Variant['regions'] = {};
  for (const p of piece.parts) {
    const now = look.parts.find((x) => x.id === p.id);
    if (!now || now === p) continue;
    if (now.material !== p.material) parts[p.id] = now.material;
    for (const r of p.regions ?? []) {
      const there = now.regions?.find((x) => x.id === r.id);
      if (there && there.material !== r.material) regions[regionKey(p.id, r.id)] = there.material ?? null;
    }
  }
  const made: Variant = { id, name };
  for (const [key, list] of Object.entries({ prints, materials, parts, regions }))
    if (Object.keys(list).length > 0) Object.assign(made, { [key]: list });
  return made;
}

/** A part of the look with the materials of the piece's own; the piece's to the object where nothing else of it changed. */
function sharedPart(now: Part, before: Part | undefined, own: Part | undefined): Part {
  if (!own) return now;
  if (now === before) return own;
  const { regions, ...rest } = now;
  const made: Part = {
    ...rest,
    material: own.material,
    ...(regions && {
      regions: regions.map((r) => {
        const theirs = own.regions?.find((x) => x.id === r.id);
        if (!theirs) return r;
        const { material: _, ...bare } = r;
        return theirs.material === undefined ? bare : { ...bare, material: theirs.material };
      }),
    }),
  };
  return same(made, own) ? own : made;
}

/**
 * The piece after something was changed while it was looked at as a variant. What became of labels, colours and finishes is the
 * variant's alone; all else is of the piece. A print or material that is new is kept with the piece, the print switched off there; one
 * that is removed is only left off in the variant, unless nothing else has it.
 *
 * @param look the variant before, as {@link asVariant} gives it @param after what the change made of that
 */
export function takenIn(piece: AssetDocument, look: AssetDocument, after: AssetDocument): AssetDocument {
  const variant = piece.variants?.find((v) => v.id === look.as);
  if (!variant) return after;
  const own = <T extends { id: string }>(list: readonly T[] | undefined, id: string) => list?.find((x) => x.id === id);
  const gone = (piece.prints ?? []).filter((p) => !own(after.prints, p.id));
  const isElsewhere = (p: Print) => p.on || piece.variants?.some((v) => v.id !== variant.id && v.prints?.[p.id]);
  const prints = [
    ...(after.prints ?? []).map((p) => own(piece.prints, p.id) ?? { ...p, on: false }),
    ...gone.filter((p) => isElsewhere(p)),
  ];
  const materials = after.materials.map((m) => own(piece.materials, m.id) ?? m);
  const parts = after.parts.map((p) => sharedPart(p, own(look.parts, p.id), own(piece.parts, p.id)));
  const { as: _, prints: __, ...rest } = after;
  const made: AssetDocument = {
    ...rest,
    materials: sameList(materials, piece.materials),
    parts: sameList(parts, piece.parts),
    ...(prints.length > 0 && { prints: sameList(prints, piece.prints ?? []) }),
  };
  return { ...made, variants: (piece.variants ?? []).map((v) => (v === variant ? variantBetween(v, made, after) : v)) };
}
const sameList = <T>(a: readonly T[], b: readonly T[]): T[] =>
  a.length === b.length && a.every((x, i) => x === b[i]) ? (b as T[]) : [...a];

/** Something a variant is otherwise in: which thing of the piece, what it is called, and what of it. */
export interface Difference {
  of: Varied;
  key: string;
  name: string;
  words: string;
}

const PRINT_WORDS: Partial<Record<keyof Print, string>> = {
  name: 'name',
  artwork: 'artwork',
  width: 'size',
  height: 'size',
  at: 'place',
  across: 'place',
  up: 'place',
  turn: 'turn',
  mirrored: 'mirroring',
  part: 'part',
  region: 'region',
  ink: 'ink',
  smallest: 'smallest text',
  keepClear: 'keep-clear',
};
const MATERIAL_WORDS: Partial<Record<keyof Material, string>> = {
  name: 'name',
  colour: 'colour',
  metallic: 'metal',
  roughness: 'roughness',
  ior: 'index',
  transmission: 'light let through',
  coat: 'coat',
  coatRoughness: 'coat',
  emission: 'glow',
  layers: 'layers',
  texturing: 'pictures',
};

/** In words, what a variant is otherwise in. What of it is not on the piece any more is left out. */
export function differencesOf(document: AssetDocument, v: Variant): Difference[] {
  const out: Difference[] = [];
  const list = (words: readonly (string | undefined)[]) => [...new Set(words.filter((w) => w !== undefined))].join(', ');
  const material = (id: string | null) => document.materials.find((m) => m.id === id)?.name ?? 'no material';
  for (const [key, fields] of Object.entries(v.prints ?? {})) {
    const print = document.prints?.find((p) => p.id === key);
    if (!print) continue;
    const { on, ...rest } = fields;
    const words = list(Object.keys(rest).map((k) => PRINT_WORDS[k as keyof Print]));
    const said = on === undefined ? words : on ? (words ? `only here, ${words}` : 'only here') : 'left off';
    out.push({ of: 'prints', key, name: print.name, words: said });
  }
  for (const [key, fields] of Object.entries(v.materials ?? {})) {
    const found = document.materials.find((m) => m.id === key);
    const words = list(Object.keys(fields).map((k) => MATERIAL_WORDS[k as keyof Material]));
    if (found && words) out.push({ of: 'materials', key, name: found.name, words });
  }
  for (const [key, id] of Object.entries(v.parts ?? {})) {
    const part = document.parts.find((p) => p.id === key);
    if (part) out.push({ of: 'parts', key, name: part.name, words: material(id) });
  }
  for (const [key, id] of Object.entries(v.regions ?? {})) {
    const part = document.parts.find((p) => p.regions?.some((r) => regionKey(p.id, r.id) === key));
    const region = part?.regions?.find((r) => regionKey(part.id, r.id) === key);
    if (part && region) out.push({ of: 'regions', key, name: `${region.name} of ${part.name}`, words: material(id) });
  }
  return out;
}
