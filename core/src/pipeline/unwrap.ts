import { StageError } from '../errors';
import { areaOf } from '../mesh/measures';
import { attribute, withAttribute, withoutAttribute } from '../mesh/polymesh';
import { QUIET, part as share, type Task } from '../task';
import { type Flattened, flatten } from '../uv/charts';
import { type LayoutFigures, measureLayout } from '../uv/measure';
import { type Divisible, divide, islandsOf } from '../uv/pack/divide';
import { pack } from '../uv/pack/pack';
import { type AssetDocument, type Part, sharers, stepsOf } from './document';
import type { PartMesh } from './form';

/** What a layout follows from, beside the parts themselves. */
export interface UnwrapSettings {
  size: number;
  padding: number;
  seamAngle: number;
  rotate: boolean;
  /** Part id → weight; 1 where absent. */
  weights: Record<string, number>;
  /** Part id → weights of its regions, in their order. */
  regions: Record<string, number[]>;
  /** Islands stay as they are cut: they are only packed. */
  whole?: boolean;
  /** Parts whose islands stay in one piece, as those that carry print. */
  wholeParts?: string[];
  /** Copies that have the texels of another part: id → that part’s. */
  shares?: Record<string, string>;
}

/** Laid-out parts and how good the layout is. */
export interface UnwrapResult {
  /** Parts in the order given, with `uv` (corner, v up) and `island` (face). */
  parts: PartMesh[];
  figures: LayoutFigures;
}

/** The settings a document gives its layout. */
export function unwrapSettings(document: AssetDocument): UnwrapSettings {
  const shares = sharers(document);
  const printed = document.parts.filter(carriesPrint).map((p) => p.id);
  return {
    ...(Object.keys(shares).length > 0 && { shares }),
    size: document.brief.limits.textureSize,
    ...document.unwrap,
    ...(printed.length > 0 && { wholeParts: printed }),
    weights: Object.fromEntries(document.parts.map((p) => [p.id, p.weight])),
    regions: Object.fromEntries(document.parts.filter((p) => p.regions?.length).map((p) => [p.id, (p.regions ?? []).map((r) => r.weight)])),
  };
}

/**
 * Seams, islands, one shared tile. Every island is laid at true size, so density is equal from the start; weights then
 * scale parts against each other. Copies that share texels have the layout of what they are copies of.
 */
export function unwrap(all: readonly PartMesh[], settings: UnwrapSettings, task: Task = QUIET): UnwrapResult {
  const sharedBy = (p: PartMesh): PartMesh | undefined => all.find((q) => q.id === settings.shares?.[p.id]);
  const parts = all.filter((p) => !sharedBy(p));
  if (parts.length === 0) throw new StageError('unwrap/empty', 'There is no surface to unwrap yet.');
  const laidFlat = parts.map((p, i): Divisible => {
    const laid = flatten(p.mesh, { seamAngle: settings.seamAngle }, share(task, (0.4 * i) / parts.length, (0.4 * (i + 1)) / parts.length));
    return { mesh: p.mesh, laid, weights: islandWeights(p, laid, settings), whole: wholeIslands(p, laid, settings) };
  });
  const divided = settings.whole ? laidFlat : divide(laidFlat, settings, share(task, 0.4, 0.6));
  const flats = divided.map((d) => d.laid);
  const weights = divided.map((d) => d.weights);
  const { scale, places } = pack(islandsOf(divided), settings, share(task, 0.6, 0.95));
  let base = 0;
  const out = parts.map((p, i): PartMesh => {
    const laid = flats[i];
    const uv = new Float64Array(laid.flat.length);
    for (let f = 0; f < laid.island.length; f++) {
      const place = places[base + laid.island[f]];
      const k = scale * weights[i][laid.island[f]];
      const [c, s] = [Math.cos(place.angle) * k, Math.sin(place.angle) * k];
      for (let corner = p.mesh.faceStart[f]; corner < p.mesh.faceStart[f + 1]; corner++) {
        const [x, y] = [laid.flat[2 * corner], laid.flat[2 * corner + 1]];
        uv[2 * corner] = c * x - s * y + place.x;
        uv[2 * corner + 1] = s * x + c * y + place.y;
      }
    }
    base += laid.islands;
    const bare = withoutAttribute(withoutAttribute(p.mesh, 'chart'), 'flat');
    const withUv = withAttribute(bare, { name: 'uv', domain: 'corner', size: 2, data: roundedUv(uv) });
    return { ...p, mesh: withAttribute(withUv, { name: 'island', domain: 'face', size: 1, data: laid.island }) };
  });
  const figures = measureLayout(out, settings.size);
  task.progress(1);
  const laid = new Map(out.map((p) => [p.id, p]));
  return { parts: all.map((p) => laid.get(p.id) ?? { ...p, mesh: (laid.get(sharedBy(p)?.id ?? '') as PartMesh).mesh }), figures };
}

/** To 2⁻²⁴ of the tile: corners that meet in an island get the same bits whichever facet they came from. */
const roundedUv = (uv: Float64Array): Float64Array => uv.map((x) => Math.round(x * 16777216) / 16777216);

/** The part's weight times that of the region an island lies in. */
function islandWeights(p: PartMesh, laid: Flattened, settings: UnwrapSettings): Float64Array {
  const out = new Float64Array(laid.islands).fill(settings.weights[p.id] ?? 1);
  const region = attribute(p.mesh, 'region', 'face')?.data;
  const own = settings.regions[p.id] ?? [];
  if (!region) return out;
  const done = new Uint8Array(laid.islands);
  for (let f = 0; f < laid.island.length; f++) {
    const i = laid.island[f];
    if (done[i]) continue;
    done[i] = 1;
    if (region[f] > 0) out[i] *= own[region[f] - 1] ?? 1;
  }
  return out;
}

/** Printed sheets, films and labels: artwork wants them in one piece. */
const carriesPrint = (part: Part): boolean =>
  part.role === 'print' || stepsOf(part).some((s) => s.enabled && (s.kind === 'wrap' || s.kind === 'leaf'));

/** Islands that stay in one piece: all of a part that carries print, and those a person marked as regions. */
function wholeIslands(p: PartMesh, laid: Flattened, settings: UnwrapSettings): Uint8Array {
  const out = new Uint8Array(laid.islands);
  if (settings.wholeParts?.includes(p.id)) return out.fill(1);
  const region = attribute(p.mesh, 'region', 'face')?.data;
  if (region) for (let f = 0; f < laid.island.length; f++) if (region[f] > 0) out[laid.island[f]] = 1;
  return out;
}

/** Whether every part has a layout already. */
export const hasLayout = (parts: readonly PartMesh[]): boolean => parts.length > 0 && parts.every((p) => attribute(p.mesh, 'uv', 'corner'));

/** Surface with texels of its own, mm². */
export const uniqueArea = (parts: readonly PartMesh[]): number => parts.reduce((s, p) => s + areaOf(p.mesh), 0);
