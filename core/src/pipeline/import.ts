import { HIGH_HARD_ANGLE } from '../bake/prepare';
import { type Brief, briefFor } from '../brief/brief';
import type { Step } from '../form/steps';
import { pictureSize } from '../io/head';
import type { Model, ModelPart } from '../io/model';
import { placedBounds } from '../mesh/measures';
import { merge } from '../mesh/merge';
import { cornerNormals } from '../mesh/normals';
import type { PolyMesh } from '../mesh/polymesh';
import { attribute, triangleCount, withAttribute } from '../mesh/polymesh';
import { transform } from '../mesh/transform';
import { renamed } from '../surface/texturing';
import {
  type AssetDocument,
  type ExactFile,
  type Material,
  newDocument,
  type Part,
  type Source,
  UNWRAP_DEFAULTS,
  type UnwrapChoices,
} from './document';
import { assetBounds } from './form';

/** Keeps a mesh and says under which blob. */
export type KeepMesh = (mesh: PolyMesh) => string;
/** Keeps a picture as it came and says under which blob. */
export type KeepTexture = (bytes: Uint8Array) => string;

/** Of what may show in all, cutting exact surfaces into triangles takes one share of so many and simplifying these the others. Cut finer, they could not be simplified to fewer: points stay on the surface (torus, cone, sphere measured at 1, 2, 4, 8 and 16 shares). */
export const EXACT_SHARES = 2;

/** What parts are taken over with: which file they came in, and how finely its exact surfaces were cut. */
export interface FromFile {
  fileName: string;
  exact?: ExactFile;
}

/**
 * A model's parts and the materials they have, as an asset holds them. Where the file has its surfaces exactly, what was cut from them is
 * the high mesh; the low one is made from it by simplifying, see {@link EXACT_SHARES}.
 *
 * @param idOf an id for each part, material, step and region, by its kind and number
 * @param keepTexture keeps the pictures of its materials; without it they have none
 */
export function partsFromModel(
  model: Model,
  keep: KeepMesh,
  idOf: (kind: 'part' | 'm' | 'step' | 'region', number: number) => string,
  { fileName, exact }: FromFile,
  keepTexture?: KeepTexture,
): { parts: Part[]; materials: Material[] } {
  const materials = model.materials.map(
    ({ texturing, ...m }, i): Material => ({
      ...m,
      id: idOf('m', i + 1),
      ...(texturing && keepTexture && { texturing: renamed(texturing, (n) => keepTexture(model.textures[n].bytes)) }),
    }),
  );
  let regions = 0;
  const parts = model.parts.map((p, i): Part => {
    const low = { blob: keep(p.mesh), triangles: triangleCount(p.mesh) };
    return {
      id: idOf('part', i + 1),
      name: p.name,
      role:
        p.material >= 0 && materials[p.material].transmission > 0
          ? 'glass'
          : p.material >= 0 && materials[p.material].emission > 0
            ? 'flame'
            : 'body',
      material: p.material >= 0 ? materials[p.material].id : null,
      move: [0, 0, 0],
      turnDegrees: [0, 0, 0],
      shape: {
        kind: 'mesh',
        low,
        placements: p.placements,
        ...(p.came && { came: p.came }),
        ...(exact && { steps: [simplifying(idOf('step', i + 1), (EXACT_SHARES - 1) * exact.toleranceMm)] }),
      },
      ...(exact && { high: { ...low, name: p.name.slice(0, 120), pairedBy: 'name' as const } }),
      weight: 1,
      declaredOpen: false,
      ...(LOOSE.test(p.name) && { loose: true }),
      ...(p.coloured && {
        regions: p.coloured.map((c) => ({
          id: idOf('region', ++regions),
          name: materials[c.material].name,
          rules: [{ id: 'colour', how: 'add' as const, rule: { kind: 'named' as const, name: c.patches } }],
          weight: 1,
          material: materials[c.material].id,
        })),
      }),
      origin: { kind: 'file', fileName, name: p.name, ...(exact && { exact }) },
    };
  });
  return { parts, materials };
}

/** Names of what is taken off or opened: it does not darken what it covers. Common practice, no source; it can be changed. */
const LOOSE = /(^|[\s_\-.])(stopper|cork|bung|plug|lid|hatch|drawer|door)s?([\s_\-.\d]|$)/i;

/** Takes away what a tolerance lets go. */
const simplifying = (id: string, within: number): Step => ({
  kind: 'simplify',
  id,
  name: 'Simplify',
  enabled: true,
  in: 'low',
  triangles: 4,
  within,
});

/** A file’s pictures as they are kept, for its line among the sources. */
export function texturesFromModel(model: Pick<Model, 'textures'>, keep: KeepTexture): Pick<Source, 'textures'> {
  if (model.textures.length === 0) return {};
  return {
    textures: model.textures.map(({ name, mime, bytes }) => {
      const size = pictureSize(bytes);
      return { name: name.slice(0, 200), mime, blob: keep(bytes), ...(size && { width: size[0], height: size[1] }) };
    }),
  };
}

/** An asset from a model: one part per mesh, one material per source colour. Ids come from names and order. */
export function documentFromModel(
  name: string,
  model: Model,
  source: Source,
  keep: KeepMesh,
  exact?: FromFile['exact'],
  keepTexture?: KeepTexture,
): AssetDocument {
  const { parts, materials } = partsFromModel(model, keep, (kind, n) => `${kind}${n}`, { fileName: source.fileName, exact }, keepTexture);
  const b = assetBounds(model.parts.map((p, i) => ({ id: parts[i].id, name: p.name, mesh: p.mesh, placements: p.placements })));
  const brief: Brief = briefFor('game');
  brief.sizeMm = [0, 1, 2].map((k) => Math.round((b.max[k] - b.min[k]) * 100) / 100) as [number, number, number];
  const triangles = parts.reduce((n, p) => n + (p.shape.kind === 'mesh' ? p.shape.low.triangles * p.shape.placements.length : 0), 0);
  brief.limits.triangles = Math.max(brief.limits.triangles, Math.ceil(triangles / 500) * 500);
  const textures = keepTexture ? texturesFromModel(model, keepTexture) : {};
  // A layout that is there stays until something else is asked; what is there several times has its texels once.
  const laid = (p: ModelPart) => attribute(p.mesh, 'uv', 'corner') !== undefined;
  const filed =
    model.parts.length > 0 && (model.parts.every(laid) || model.parts.some((p) => laid(p) && model.materials[p.material]?.texturing));
  const unwrap: UnwrapChoices = { ...UNWRAP_DEFAULTS, twins: 'once', ...(filed && { filed: 'kept' }) };
  return { ...newDocument(name, brief), materials, parts, unwrap, sources: [{ ...source, ...textures }] };
}

/** A part and the index of the high mesh that belongs to it, and of those that are named as belonging to it too. */
export interface Pairing {
  part: string;
  high: number;
  by: 'name' | 'place';
  more?: number[];
}

/** Name without case, spaces, numbers of copies and the usual endings of low and high meshes. */
export const pairName = (name: string): string =>
  name
    .toLowerCase()
    .replace(/[\s_.-]+/g, ' ')
    .replace(/\b(low|high|lo|hi|lp|hp)\b/g, '')
    .replace(/\s+/g, ' ')
    .trim();

/** Pairs an asset's parts with high meshes: by name first, then by where they stand and how large they are. */
export function pairHigh(
  low: readonly { id: string; name: string; mesh: PolyMesh; placements: ModelPart['placements'] }[],
  high: readonly ModelPart[],
): Pairing[] {
  const out: Pairing[] = [];
  const taken = new Set<number>();
  for (const l of low) {
    const i = high.findIndex((h, k) => !taken.has(k) && pairName(h.name) === pairName(l.name) && pairName(h.name) !== '');
    if (i >= 0) {
      taken.add(i);
      out.push({ part: l.id, high: i, by: 'name' });
    }
  }
  const box = (mesh: PolyMesh, m: ModelPart['placements'][number]) => {
    const b = placedBounds(mesh, m);
    return { middle: [0, 1, 2].map((k) => (b.min[k] + b.max[k]) / 2), size: Math.hypot(...[0, 1, 2].map((k) => b.max[k] - b.min[k])) };
  };
  for (const l of low) {
    if (out.some((p) => p.part === l.id)) continue;
    const own = box(l.mesh, l.placements[0]);
    let best = { i: -1, gap: own.size * 0.25 };
    for (const [i, h] of high.entries()) {
      if (taken.has(i)) continue;
      const b = box(h.mesh, h.placements[0]);
      const gap = Math.hypot(...own.middle.map((x, k) => x - b.middle[k])) + Math.abs(own.size - b.size);
      if (gap < best.gap) best = { i, gap };
    }
    if (best.i >= 0) {
      taken.add(best.i);
      out.push({ part: l.id, high: best.i, by: 'place' });
    }
  }
  // “Flask bolts” goes with “flask”, once that has its own, where they lie on it: “leg 002” may be another leg.
  for (const [i, h] of high.entries()) {
    if (taken.has(i)) continue;
    const name = pairName(h.name);
    const owners = low.filter((l) => pairName(l.name) !== '' && name.startsWith(`${pairName(l.name)} `) && liesOn(h, l));
    const nearest = owners.sort((a, b) => b.name.length - a.name.length)[0];
    const pair = out.find((p) => p.part === nearest?.id);
    if (pair) pair.more = [...(pair.more ?? []), i];
  }
  return out.sort((a, b) => (a.part < b.part ? -1 : 1));
}

/** How far beyond a part’s box what belongs to it may begin: a share of its size. */
const BESIDE = 0.05;
/** Whether a mesh lies in the box round a part, or beside it. */
function liesOn(high: ModelPart, low: { mesh: PolyMesh; placements: ModelPart['placements'] }): boolean {
  const [a, b] = [placedBounds(high.mesh, high.placements[0]), placedBounds(low.mesh, low.placements[0])];
  const room = BESIDE * Math.hypot(...b.max.map((x, k) => x - b.min[k]));
  return [0, 1, 2].every((k) => a.min[k] <= b.max[k] + room && a.max[k] >= b.min[k] - room);
}

/** A high mesh brought into its low part's space, so that rays need no matrix. */
export function intoPartSpace(high: ModelPart, inverseOfLow: ModelPart['placements'][number]): PolyMesh {
  return transform(transform(high.mesh, high.placements[0]), inverseOfLow);
}

/** Several high meshes as the one that a part is baked from; what came without normals of its own keeps those it shades with. */
export function togetherAsOne(meshes: readonly PolyMesh[]): PolyMesh {
  const some = meshes.some((m) => attribute(m, 'normal', 'corner'));
  if (meshes.length < 2 || !some) return merge(meshes);
  return merge(
    meshes.map((m) =>
      attribute(m, 'normal', 'corner')
        ? m
        : withAttribute(m, { name: 'normal', domain: 'corner', size: 3, data: cornerNormals(m, { hardAngle: HIGH_HARD_ANGLE }) }),
    ),
  );
}
