import { nearestKnown } from '../bake/spread';
import { StageError } from '../errors';
import { decodePng, encodePng, type Pixels } from '../image/png';
import { type ComposedSet, type ComposeFigures, composeFigures, composeRows, emptySet, setPixels, thresholdsOf } from '../surface/compose';
import { type BakedField, emptyGround, fillGround, type Ground, type GroundInput } from '../surface/ground';
import type { Material } from '../surface/material';
import { type Validity, VERDICT_COLOURS, VERDICTS, type Verdict, validity } from '../surface/validity';
import { checkpoint, QUIET, part as share, type Task } from '../task';
import { type AssetDocument, sharers } from './document';
import type { PartMesh } from './form';
import { isLaid } from './inspect';
import { usedMaterials } from './results';

/** What is kept of composing a set. */
export interface SurfaceFigures {
  size: number;
  composed: ComposeFigures;
  /** Share of judged texels under each verdict. */
  validity: Record<Verdict, number>;
  /** Whether the bake's maps drove the masks. */
  curvature: boolean;
  occlusion: boolean;
  seconds: number;
}

/** PNG files of a set, as delivered. */
export interface SurfaceFiles {
  baseColour: Uint8Array;
  orm: Uint8Array;
  emissive?: Uint8Array;
  validity: Uint8Array;
}

/** The bake’s maps that masks are made from, PNG bytes. */
export interface BakedMaps {
  occlusion?: Uint8Array;
  curvature?: Uint8Array;
}

/** Rows composed at once. */
const ROWS = 64;

/** What masks stand on: the laid-out surface, its materials and the baked maps at a size. */
export function groundInput(document: AssetDocument, laid: readonly PartMesh[], maps: BakedMaps, size: number): GroundInput {
  if (laid.length === 0 || !laid.every(isLaid))
    throw new StageError('surface/layout', 'There is no layout to compose on yet; unwrap first.');
  const materials = usedMaterials(document);
  const chosen = new Map(document.parts.map((p) => [p.id, p.material]));
  const shares = sharers(document);
  return {
    parts: laid
      .filter((p) => shares[p.id] === undefined)
      .map((p) => ({ mesh: p.mesh, material: materials.findIndex((m) => m.id === chosen.get(p.id)) }))
      .filter((p) => p.material >= 0),
    size,
    curvature: field(maps.curvature),
    occlusion: field(maps.occlusion),
    seed: document.surface.seed,
  };
}

function field(png: Uint8Array | undefined): BakedField | null {
  if (!png) return null;
  const p = decodePng(png);
  const data = p.depth === 8 ? (p.data as Uint8Array) : Uint8Array.from(p.data, (x) => x >> 8);
  return { size: p.width, channels: p.channels, data };
}

/** Occlusion at the set's size, one byte per texel. */
function occlusionAt(f: BakedField | null, size: number): Uint8Array | null {
  if (!f) return null;
  const out = new Uint8Array(size * size);
  const k = f.size / size;
  for (let y = 0; y < size; y++)
    for (let x = 0; x < size; x++)
      out[y * size + x] = f.data[f.channels * (Math.floor((y + 0.5) * k) * f.size + Math.floor((x + 0.5) * k))];
  return out;
}

/** What composing at one size needs, kept while sliders move. */
export interface PreparedSurface {
  ground: Ground;
  occlusion: Uint8Array | null;
  /** Where each texel outside the islands takes its value from, see core/bake/spread. */
  spread: Int32Array;
  /** Which of the bake's maps drove it. */
  from: { curvature: boolean; occlusion: boolean };
}

/** Draws the ground that every material is composed on; done once for many tries. */
export function prepareSurface(input: GroundInput, task: Task = QUIET, allocate?: (bytes: number) => ArrayBufferLike): PreparedSurface {
  const ground = emptyGround(input.size, allocate);
  for (let from = 0; from < input.size; from += ROWS) {
    checkpoint(task);
    fillGround(input, ground, from, Math.min(input.size, from + ROWS));
    task.progress(from / input.size, 'laying the ground');
  }
  const around = nearestKnown(ground.owner, input.size);
  const spread = allocate ? new Int32Array(allocate(around.byteLength)) : around;
  if (spread !== around) spread.set(around);
  return {
    ground,
    spread,
    occlusion: occlusionAt(input.occlusion, input.size),
    from: { curvature: input.curvature !== null, occlusion: input.occlusion !== null },
  };
}

/** Composes the set on a ground that was prepared. Texels, top row first. */
export function composePrepared(
  prepared: PreparedSurface,
  materials: readonly Material[],
  task: Task = QUIET,
): { set: ComposedSet; figures: ComposeFigures } {
  const { ground } = prepared;
  const set = emptySet(
    ground.size,
    materials.some((m) => m.emission > 0),
  );
  const counts = new Float64Array(3 * materials.length);
  const limits = thresholdsOf(ground, materials);
  for (let from = 0; from < ground.size; from += ROWS) {
    checkpoint(task);
    composeRows(ground, materials, limits, prepared.occlusion, set, from, Math.min(ground.size, from + ROWS), counts);
    task.progress(from / ground.size, 'composing');
  }
  return { set, figures: composeFigures(counts, materials, ground.size) };
}

/** The whole stage at one size. `clock` gives seconds. */
export function composeAsset(
  document: AssetDocument,
  laid: readonly PartMesh[],
  maps: BakedMaps,
  size: number,
  clock: () => number,
  task: Task = QUIET,
): { files: SurfaceFiles; figures: SurfaceFigures; set: ComposedSet } {
  const start = clock();
  const materials = usedMaterials(document);
  if (materials.length === 0) throw new StageError('surface/materials', 'No part has a material yet; give them one first.');
  const prepared = prepareSurface(groundInput(document, laid, maps, size), share(task, 0, 0.45));
  const { set, figures } = composePrepared(prepared, materials, share(task, 0.45, 0.6));
  const judged = validity(set, prepared.ground, materials);
  task.progress(0.65, 'carrying colours past the edges');
  const pixels = setPixels(set, prepared.ground.owner, prepared.spread);
  checkpoint(task);
  task.progress(0.85, 'writing textures');
  const files: SurfaceFiles = {
    baseColour: encodePng(pixels.baseColour),
    orm: encodePng(pixels.orm),
    ...(pixels.emissive && { emissive: encodePng(pixels.emissive) }),
    validity: encodePng(validityPixels(judged, size)),
  };
  const seconds = clock() - start;
  return {
    files,
    set,
    figures: {
      size,
      composed: figures,
      validity: judged.shares,
      ...prepared.from,
      seconds,
    },
  };
}

/** The validity map as a picture. */
export function validityPixels(judged: Validity, size: number): Pixels {
  const data = new Uint8Array(3 * size * size);
  for (let i = 0; i < judged.verdict.length; i++) data.set(VERDICT_COLOURS[VERDICTS[judged.verdict[i]]], 3 * i);
  return { width: size, height: size, channels: 3, depth: 8, data };
}

/** What the figures come to in a sentence, and how bad it is. */
export function surfaceVerdict(f: SurfaceFigures): { level: 'ok' | 'near' | 'over'; sentence: string } {
  const wrong = VERDICTS.filter((v) => v !== 'outside' && v !== 'sound' && v !== 'not judged' && f.validity[v] > 0.002).sort(
    (a, b) => f.validity[b] - f.validity[a],
  );
  if (wrong.length === 0) return { level: 'ok', sentence: 'Every judged texel is within what real surfaces reflect.' };
  const share = wrong.reduce((s, v) => s + f.validity[v], 0);
  return {
    level: share > 0.1 ? 'over' : 'near',
    sentence: `${(100 * share).toFixed(1)} % of the judged texels are not: mostly ${wrong[0]}.`,
  };
}
