import type { Region } from '../form/regions';
import { hashOf } from '../hash';
import type { Photo } from '../photo/photo';
import type { Print } from '../print/print';
import { bakeSettings } from './bake';
import {
  type AssetDocument,
  canBake,
  composedMaterials,
  gatherOf,
  isMoved,
  type Material,
  painted,
  photosTaken,
  projectOf,
  usedMaterials,
} from './document';
import { fallbackTolerance } from './form';
import { unlabelled } from './labels';
import { printsOf } from './prints';
import { unwrapSettings } from './unwrap';
import { variantsOf } from './variants';

export { usedMaterials } from './document';

/** Raised when an algorithm changes its results, so that what an older one made counts as stale. */
export const VERSIONS = { form: 8, findings: 4, look: 4, unwrap: 7, bake: 7, surface: 5, gather: 2, project: 1, render: 4 } as const;

/** Everything that is kept under a name of its own. Findings and the longer look are kept beside the form they are about. */
export type Kept = keyof typeof VERSIONS;
/** What a piece goes through, in order. */
export type Stage = Exclude<Kept, 'findings' | 'look' | 'gather' | 'project'>;
export const STAGES: readonly Stage[] = ['form', 'unwrap', 'bake', 'surface', 'render'];
export const KEPT = Object.keys(VERSIONS) as Kept[];
export const isKept = (kind: string): kind is Kept => Object.hasOwn(VERSIONS, kind);

/** Whether the picture is drawn with the composed set: a choice that is stored, and there has to be something to compose. */
export const drawnWithMaps = (document: AssetDocument): boolean => document.render.maps && usedMaterials(document).length > 0;

/** What a result stands on, by kind, in a fixed order; null where the document says that it does without. */
export function inputsOf(document: AssetDocument, kind: Kept): (Kept | null)[] {
  const bake = canBake(document) ? 'bake' : null;
  switch (kind) {
    case 'form':
      return [];
    case 'findings':
    case 'look':
    case 'unwrap':
      return ['form'];
    case 'bake':
      return ['unwrap'];
    case 'surface':
      return ['unwrap', bake];
    case 'gather':
      // What has no pictures of its own is gathered as it is composed.
      return isAllTextured(document) ? ['form', 'unwrap', null, null] : ['form', 'unwrap', 'surface', bake];
    case 'project':
      return ['unwrap'];
    case 'render':
      return drawnWithMaps(document) ? ['unwrap', 'surface', bake] : ['form', null, null];
  }
}

/** Whether every material that parts have is textured as it came. */
export const isAllTextured = (document: AssetDocument): boolean => {
  const used = usedMaterials(document);
  return used.length > 0 && used.every((m) => m.texturing !== undefined);
};

/** A material without what doesn't show. */
const looks = ({ name: _, source: __, touched: ___, derived: ____, ...look }: Material) => look;
/** A print, and its artwork, without what doesn’t show. */
function inked({ name: _, on: __, smallest: ___, keepClear: ____, artwork, ...print }: Print) {
  if (artwork.kind !== 'picture') return { ...print, artwork };
  const { fileName: _____, dpi: ______, source: _______, ...picture } = artwork;
  return { ...print, artwork: picture };
}
const materialsOf = (document: AssetDocument) => {
  const prints = printsOf(document).map(inked);
  const regions = painted(document).map(({ part, region }) => [part.id, region.id, region.material]);
  return {
    materials: composedMaterials(document).map(looks),
    parts: document.parts.map((p) => [p.id, p.material]),
    ...(regions.length > 0 && { regions }),
    ...(prints.length > 0 && { prints }),
  };
};
/** A region without what it is made of. */
const faces = ({ material: _, ...region }: Region) => region;

/** A photograph without what changes nothing of its camera. */
const drawnOver = ({ name: _, known: __, left: ___, ...photo }: Photo) => photo;

/** The brief without what changes nothing of a piece: when it is due, how lengths are shown, whom it shares terms with. */
function briefOf({ brief }: AssetDocument) {
  const { family: _, ...own } = brief;
  return { ...own, deadline: null, unit: null };
}

/** What a kind of result depends on in the document itself; what it depends on through others is in their names. */
function sliceOf(document: AssetDocument, kind: Kept): unknown {
  switch (kind) {
    case 'form':
      return {
        shapes: document.parts.map((p) => ({
          id: p.id,
          shape: p.shape,
          move: p.move,
          turn: p.turnDegrees,
          regions: (p.regions ?? []).map(faces),
          seams: p.seams ?? [],
          aid: p.aid ?? false,
        })),
        counts: document.form.counts,
        locks: document.form.locks,
        dimensions: document.dimensions.map((x) => [x.name, x.formula, x.kind]),
        fallback: fallbackTolerance(document),
      };
    case 'findings':
      return {
        brief: briefOf(document),
        parts: document.parts.map((p) => [p.id, p.role, p.material, p.declaredOpen, p.travel ?? null]),
        relations: document.relations ?? [],
        ...(document.parts.some((p) => p.origin?.gone) && {
          gone: document.parts.flatMap((p) => (p.origin?.gone ? [[p.id, p.origin]] : [])),
        }),
        untouched: document.materials.filter((m) => !m.touched).map((m) => m.id),
        maps: [document.bake.normal, document.materials.filter((m) => m.emission > 0).map((m) => m.id)],
      };
    case 'look':
      return {
        parts: document.parts.map((p) => [p.id, p.role, p.travel ?? null, p.declaredOpen]),
        relations: document.relations ?? [],
        brief: briefOf(document),
      };
    case 'unwrap':
      return unwrapSettings(document);
    case 'bake':
      return {
        settings: bakeSettings(document),
        highTolerance: document.form.highToleranceMm,
        // What parts are made of is only seen where ids are by material.
        ...(document.bake.further.includes('id') &&
          document.bake.idBy === 'material' && {
            materials: document.parts.map((p) => [p.id, p.material, ...(p.regions ?? []).map((r) => r.material ?? null)]),
          }),
        parts: document.parts.map((p) => ({
          id: p.id,
          role: p.role,
          moves: isMoved(p),
          high: p.high?.blob ?? null,
          ...(document.bake.movingOpen && { travel: p.travel ?? null }),
        })),
      };
    case 'surface':
      return { settings: document.surface, size: document.brief.limits.textureSize, ...materialsOf(document) };
    case 'gather': {
      const { on: _, apart: __, ...settings } = gatherOf(document);
      return { settings, ...materialsOf(document) };
    }
    case 'project': {
      const { on: _, unlit: __, ...settings } = projectOf(document);
      return { settings, photos: photosTaken(document).map(drawnOver) };
    }
    case 'render': {
      const { locked: _, ...shot } = document.shot;
      const { maps: __, ...settings } = document.render;
      const photo = document.photos?.find((p) => p.id === shot.photo);
      return { rig: document.rig, shot, settings, ...materialsOf(document), ...(photo && { photo: drawnOver(photo) }) };
    }
  }
}

/** A result as it is kept: its name, the names of what it stands on, its figures, and its files by the hash of their bytes. */
export interface StoredResult {
  name: string;
  stage: Kept;
  inputs: (string | null)[];
  figures: unknown;
  blobs: Record<string, string>;
}

const named = new WeakMap<AssetDocument, Map<Kept, string>>();

/**
 * The name of a result: SHA-256 of the algorithm's version, the document's slice without labels, and the names of what it stands
 * on. It follows from the document alone: equal name, equal bytes; anything else is stale.
 */
export function nameOf(document: AssetDocument, kind: Kept): string {
  const bare = unlabelled(document);
  let names = named.get(bare);
  if (!names) {
    names = new Map();
    named.set(bare, names);
  }
  let name = names.get(kind);
  if (name === undefined) {
    const inputs = inputsOf(bare, kind).map((input) => input && nameOf(bare, input));
    name = hashOf({ kind, v: VERSIONS[kind], slice: sliceOf(bare, kind), inputs });
    names.set(kind, name);
  }
  return name;
}

/** The names of all that a document's results could be. */
export const namesOf = (document: AssetDocument): Record<Kept, string> =>
  Object.fromEntries(KEPT.map((kind) => [kind, nameOf(document, kind)])) as Record<Kept, string>;

/** The names of all that its variants’ results could be, where they are not its own: they are kept as long as those. */
export function namesOfAll(document: AssetDocument): Record<Kept, string> & Record<string, string> {
  const own = namesOf(document);
  const known = new Set(Object.values(own));
  const further = variantsOf(document).flatMap((look) =>
    Object.entries(namesOf(look)).flatMap(([kind, name]) => (known.has(name) ? [] : [[`${kind} ${look.as}`, name] as const])),
  );
  return { ...own, ...Object.fromEntries(further) };
}
