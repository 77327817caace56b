import { nearestKnown } from '../bake/spread';
import { StageError } from '../errors';
import { patchIndex } from '../form/places';
import { findRegion } from '../form/regions';
import { decodePng, type Packing, type Pixels } from '../image/png';
import { PngPacker } from '../image/png-bands';
import { movedTo } from '../maths/moved';
import { faceCount } from '../mesh/polymesh';
import { printRows } from '../print/ink';
import {
  addCounts,
  type ComposedSet,
  type ComposeFigures,
  type Counts,
  composeFigures,
  composeRows,
  copied,
  emptySet,
  type KeptSet,
  noCounts,
  type Over,
  setPixels,
} from '../surface/compose';
import { type BakedField, emptyGround, fillGround, type Ground, type GroundInput } from '../surface/ground';
import { type Boards, type BoardsDrawn, boardsOf, emptyPlaces, fillPlaces, type Places } from '../surface/layers/places';
import { asksOf, type Limits, limitsOf, type Stack, stacksOf, wantsPlaces } from '../surface/layers/stack';
import type { Material } from '../surface/material';
import { type ReliefFigures, reliefNormals, reliefPixels } from '../surface/relief';
import { type SeamDifference, seamDifference } from '../surface/seam-difference';
import { type Validity, VERDICT_COLOURS, VERDICTS, type Verdict, validity } from '../surface/validity';
import { checkpoint, QUIET, part as share, type Task } from '../task';
import { type AssetDocument, composedMaterials, painted, sharers } from './document';
import type { PartMesh } from './form';
import { isLaid } from './inspect';
import {
  judgePrints,
  type LaidOrNot,
  layPrints,
  NO_PICTURES,
  overOf,
  type PrintedFigures,
  type PrintPictures,
  type SetPrint,
  setPrints,
} from './printed';

/** What is kept of composing a set. */
export interface SurfaceFigures {
  size: number;
  composed: ComposeFigures;
  /** Share of judged texels under each verdict. */
  validity: Record<Verdict, number>;
  /** Whether the bake's maps drove the masks. */
  curvature: boolean;
  occlusion: boolean;
  /** How much the colour differs across seams; absent where none is. */
  seams?: SeamDifference;
  /** What became of its prints; absent where there are none. */
  printed?: PrintedFigures;
  /** How high and how steep what stands out is; absent where nothing does. */
  relief?: ReliefFigures;
  seconds: number;
}

/** PNG files of a set, as delivered. */
export interface SurfaceFiles {
  baseColour: Uint8Array;
  orm: Uint8Array;
  emissive?: Uint8Array;
  /** Clear coat in red, its roughness in green, linear; where a layer changes them. */
  coat?: Uint8Array;
  /** Light let through, linear; where a layer changes it. */
  clear?: Uint8Array;
  /** What stands out, laid over the baked normals: 8 bits, Y up. In their place wherever the set is used. */
  normal?: Uint8Array;
  validity: Uint8Array;
}

/** The bake’s maps that masks are made from, PNG bytes. */
export interface BakedMaps {
  occlusion?: Uint8Array;
  curvature?: Uint8Array;
  /** 8 bits, Y up. */
  normal?: Uint8Array;
}

/** Rows composed at once. */
const ROWS = 64;

/** What masks stand on: the laid-out surface, its materials and the baked maps at a size. */
export function groundInput(document: AssetDocument, laid: readonly PartMesh[], maps: BakedMaps, size: number): GroundInput {
  if (laid.length === 0 || !laid.every(isLaid))
    throw new StageError('surface/layout', 'There is no layout to compose on yet; unwrap first.');
  const materials = composedMaterials(document);
  const chosen = new Map(document.parts.map((p) => [p.id, p.material]));
  const shares = sharers(document);
  return {
    parts: laid
      .filter((p) => shares[p.id] === undefined)
      .map((p) => {
        const material = materials.findIndex((m) => m.id === chosen.get(p.id));
        const ofFace = facesOf(document, p, material, materials);
        return { id: p.id, mesh: p.mesh, material, ...(ofFace && { ofFace }) };
      })
      .filter((p) => p.material >= 0),
    size,
    curvature: field(maps.curvature),
    occlusion: field(maps.occlusion),
    seed: document.surface.seed,
  };
}

/** Whose material each face has, where regions of a part have their own; later regions lie over earlier ones. */
function facesOf(document: AssetDocument, { id, mesh }: PartMesh, own: number, materials: readonly Material[]): Uint8Array | null {
  const mine = painted(document).filter((p) => p.part.id === id);
  if (mine.length === 0) return null;
  const out = new Uint8Array(faceCount(mesh)).fill(own);
  const index = patchIndex(mesh);
  for (const { region, material } of mine) {
    const at = materials.findIndex((m) => m.id === material.id);
    for (const f of findRegion(mesh, region, index).faces) out[f] = at;
  }
  return out;
}

function field(png: Uint8Array | undefined): BakedField | null {
  if (!png) return null;
  const p = decodePng(png);
  const data = p.depth === 8 ? (p.data as Uint8Array) : Uint8Array.from(p.data, (x) => x >> 8);
  return { size: p.width, channels: p.channels, data };
}

/** The baked normals at a set’s size; null where there are none, or of another size. */
function bakedNormals(png: Uint8Array | undefined, size: number): Pixels | null {
  const p = png && decodePng(png);
  return p && p.width === size && p.height === size && p.channels >= 3 ? p : null;
}

/** The first channels of a baked field at another size, each texel that of the middle of its own. */
function resampled(f: BakedField, size: number, channels: number): Uint8Array {
  const out = new Uint8Array(channels * size * size);
  const k = f.size / size;
  for (let y = 0; y < size; y++)
    for (let x = 0; x < size; x++) {
      const from = f.channels * (Math.floor((y + 0.5) * k) * f.size + Math.floor((x + 0.5) * k));
      for (let c = 0; c < channels; c++) out[channels * (y * size + x) + c] = f.data[from + c];
    }
  return out;
}

/** The baked normals at a preview’s size. */
function normalsAt(png: Uint8Array | undefined, size: number): Pixels | null {
  const f = field(png);
  return f && f.channels >= 3 ? { width: size, height: size, channels: 3, depth: 8, data: resampled(f, size, 3) } : null;
}

/** What stands out of a preview, laid over what is baked, as a picture carried past the islands; null where nothing does. */
export function previewNormals({ laid, normals, ground, spread }: PreparedSurface, set: ComposedSet): Uint8Array | null {
  if (!set.height || !laid) return null;
  const made = reliefNormals(laid.boards.parts, set.size, set.height, ground.owner, normals);
  return reliefPixels(made.normals, set.size, spread).data as Uint8Array;
}

/** What composing at one size needs, kept while sliders move. */
export interface PreparedSurface {
  ground: Ground;
  occlusion: Uint8Array | null;
  /** Where each texel outside the islands takes its value from, see core/bake/spread. */
  spread: Int32Array;
  /** Which of the bake's maps drove it. */
  from: { curvature: boolean; occlusion: boolean };
  /** What fields are laid by, and where every texel lies, kept for a preview; a whole set asks for places row by row. */
  laid: { boards: Boards; places: Places } | null;
  /** The baked normals at this size, for a preview. */
  normals: Pixels | null;
  seed: number;
}

/** Draws the ground that every material is composed on; done once for many tries. */
export function prepareSurface(
  input: GroundInput,
  task: Task = QUIET,
  allocate?: (bytes: number) => ArrayBufferLike,
  withPlaces = true,
  normals?: Uint8Array,
): PreparedSurface {
  const ground = emptyGround(input.size, allocate);
  for (let from = 0; from < input.size; from += ROWS) {
    checkpoint(task);
    fillGround(input, ground, from, Math.min(input.size, from + ROWS));
    task.progress(from / input.size, 'laying the ground');
  }
  const around = nearestKnown(ground.owner, input.size);
  const spread = allocate ? new Int32Array(allocate(around.byteLength)) : around;
  if (spread !== around) spread.set(around);
  checkpoint(task);
  return {
    ground,
    spread,
    laid: withPlaces ? laidOut(input, allocate) : null,
    normals: normalsAt(normals, input.size),
    seed: input.seed,
    occlusion: input.occlusion && resampled(input.occlusion, input.size, 1),
    from: { curvature: input.curvature !== null, occlusion: input.occlusion !== null },
  };
}

function laidOut(input: GroundInput, allocate?: (bytes: number) => ArrayBufferLike): PreparedSurface['laid'] {
  const { normals, ...boards } = boardsOf(input.parts);
  const places = emptyPlaces(input.size, 0, input.size, allocate);
  fillPlaces(input.parts, { ...boards, normals }, places);
  return { boards: allocate ? movedTo(boards, allocate) : boards, places };
}

/**
 * Composes a set on a ground that was prepared with its places. Texels, top row first.
 *
 * @param kept what layers came to in earlier tries on the same ground: of a stack of which one layer changed only that one and those that
 * follow it are worked out @param prints that lie over it
 */
export function composePrepared(
  { ground, occlusion, laid, seed }: PreparedSurface,
  materials: readonly Material[],
  task: Task = QUIET,
  kept?: KeptSet,
  prints: readonly SetPrint[] = [],
): { set: ComposedSet; figures: ComposeFigures; prints: LaidOrNot[] } {
  const boards = laid?.boards ?? null;
  const ready = layPrints(prints, boards?.parts ?? []);
  const printed = (set: ComposedSet): ComposedSet => {
    for (const p of ready) if (p.wrong === undefined) printRows(p.ready, set, ground.owner, 0, ground.size, 2);
    return set;
  };
  // While a print is moved nothing under it is.
  const text = kept ? JSON.stringify([materials, overOf(prints)]) : '';
  const same = kept?.same(text);
  if (same) return { set: printed(same.set), figures: same.figures, prints: ready };
  const fresh = emptySet(ground.size, materials, undefined, overOf(prints));
  const set = kept?.begin(fresh) ?? fresh;
  const stacks = stacksOf(materials, limitsOf(materials, ground), boards, seed);
  const counts = noCounts(stacks);
  checkpoint(task);
  composeRows({ ground, materials, stacks, boards, occlusion }, laid?.places ?? null, set, 0, ground.size, counts, kept);
  const figures = composeFigures(counts, materials, stacks, ground.size);
  kept?.settle(text, figures);
  // What is kept to be composed into again has nothing printed on it.
  return { set: printed(kept && prints.length > 0 ? copied(set) : set), figures, prints: ready };
}

/** A set ready to be composed by strips, in any order and by any number of workers. */
export interface SetJob {
  materials: readonly Material[];
  parts: GroundInput['parts'];
  prepared: PreparedSurface;
  limits: Limits;
  /** What places are drawn from, where a layer asks for them. */
  drawn: BoardsDrawn | null;
  /** What is printed over its materials. */
  prints: readonly SetPrint[];
  set: ComposedSet;
}

/**
 * Lays the ground of a set.
 *
 * @param allocate memory that workers share @param pictures of what is printed @param over maps that are asked for; those that the prints
 * ask for when absent
 * @throws StageError in one sentence
 */
export function prepareSet(
  document: AssetDocument,
  laid: readonly PartMesh[],
  maps: BakedMaps,
  size: number,
  task: Task = QUIET,
  allocate?: (bytes: number) => ArrayBufferLike,
  pictures: PrintPictures = NO_PICTURES,
  over?: Over,
): SetJob {
  const materials = composedMaterials(document);
  if (materials.length === 0) throw new StageError('surface/materials', 'No part has a material yet; give them one first.');
  const input = groundInput(document, laid, maps, size);
  const prepared = prepareSurface({ ...input, asks: materials.map(asksOf) }, task, allocate, false);
  const drawn = wantsPlaces(materials) ? boardsOf(input.parts) : null;
  const prints = setPrints(document, input.parts, pictures, size);
  return {
    materials,
    prints,
    // Handing them on to several threads then copies nothing.
    ...(allocate ? movedTo({ parts: input.parts, drawn }, allocate) : { parts: input.parts, drawn }),
    prepared,
    limits: limitsOf(materials, prepared.ground),
    set: emptySet(size, materials, allocate, over ?? overOf(prints)),
  };
}

/** Rows of a strip: so many that what is kept of each of its texels stays small. */
const rowsOf = (size: number): number => Math.max(8, Math.floor(131_072 / size));
/** How many strips a set has. */
export const stripsOf = (size: number): number => Math.ceil(size / rowsOf(size));

/** Composes strips of a set. */
export class SetComposer {
  private readonly stacks: readonly Stack[];
  private readonly prints: readonly LaidOrNot[];
  constructor(private readonly job: SetJob) {
    this.stacks = stacksOf(job.materials, job.limits, job.drawn, job.prepared.seed);
    this.prints = layPrints(job.prints, job.parts);
  }

  draw(strip: number): Counts {
    const { materials, parts, drawn, set, prepared } = this.job;
    const { size } = set;
    const from = strip * rowsOf(size);
    const to = Math.min(size, from + rowsOf(size));
    const counts = noCounts(this.stacks);
    let places: Places | null = null;
    if (drawn) {
      places = emptyPlaces(size, from, to);
      fillPlaces(parts, drawn, places);
    }
    const { ground, occlusion } = prepared;
    composeRows({ ground, materials, stacks: this.stacks, boards: drawn, occlusion }, places, set, from, to, counts);
    for (const p of this.prints) if (p.wrong === undefined) printRows(p.ready, set, ground.owner, from, to, 4);
    return counts;
  }
}

/** Packs the pictures of sets: of one that differs little from the last it packed, no more than that. */
export class SetPacker {
  private readonly packers = new Map<string, PngPacker>();

  pack(map: string, pixels: Pixels, level?: Packing): Uint8Array {
    const packer = this.packers.get(map) ?? new PngPacker();
    this.packers.set(map, packer);
    return packer.pack(pixels, level);
  }
}

/**
 * Judges a composed set and packs it.
 *
 * @param strips what was counted on each, by number @param packer one that packed sets like it
 */
export function finishSet(
  { materials, parts, prepared, set, limits, drawn, prints }: SetJob,
  strips: readonly Counts[],
  maps: BakedMaps,
  seconds: () => number,
  task: Task = QUIET,
  packer = new SetPacker(),
): { files: SurfaceFiles; figures: SurfaceFigures } {
  const { size } = set;
  const stacks = stacksOf(materials, limits, drawn, prepared.seed);
  const counts = noCounts(stacks);
  for (const c of strips) addCounts(counts, c);
  const judged = validity(set, prepared.ground, materials);
  task.progress(0.1, 'carrying colours past the edges');
  const pixels = setPixels(set, prepared.ground.owner, prepared.spread);
  const seams = seamDifference(parts, pixels.baseColour);
  checkpoint(task);
  let stands: { normal: Uint8Array; relief: ReliefFigures } | null = null;
  if (set.height) {
    task.progress(0.25, 'standing out');
    const { normals, figures: relief } = reliefNormals(
      parts,
      size,
      set.height,
      prepared.ground.owner,
      bakedNormals(maps.normal, size),
      task,
    );
    stands = { normal: packer.pack('normal', reliefPixels(normals, size, prepared.spread)), relief };
  }
  checkpoint(task);
  task.progress(0.6, 'writing textures');
  const files: SurfaceFiles = {
    baseColour: packer.pack('baseColour', pixels.baseColour),
    orm: packer.pack('orm', pixels.orm),
    ...(pixels.emissive && { emissive: packer.pack('emissive', pixels.emissive) }),
    ...(pixels.coat && { coat: packer.pack('coat', pixels.coat) }),
    ...(pixels.clear && { clear: packer.pack('clear', pixels.clear) }),
    ...(stands && { normal: stands.normal }),
    // Hardly more than a few colours.
    validity: packer.pack('validity', validityPixels(judged, size), 1),
  };
  return {
    files,
    figures: {
      size,
      composed: composeFigures(counts, materials, stacks, size),
      validity: judged.shares,
      ...prepared.from,
      ...(prints.length > 0 && { printed: judgePrints(layPrints(prints, parts), size) }),
      ...(seams && { seams }),
      ...(stands && { relief: stands.relief }),
      seconds: seconds(),
    },
  };
}

/** The whole stage at one size, on this thread. `clock` gives seconds. @param pictures of what is printed */
export function composeAsset(
  document: AssetDocument,
  laid: readonly PartMesh[],
  maps: BakedMaps,
  size: number,
  clock: () => number,
  task: Task = QUIET,
  pictures: PrintPictures = NO_PICTURES,
): { files: SurfaceFiles; figures: SurfaceFigures; set: ComposedSet } {
  const start = clock();
  const job = prepareSet(document, laid, maps, size, share(task, 0, 0.35), undefined, pictures);
  const composer = new SetComposer(job);
  const strips = Array.from({ length: stripsOf(size) }, (_, strip) => {
    checkpoint(task);
    task.progress(0.35 + (0.25 * strip) / stripsOf(size), 'composing');
    return composer.draw(strip);
  });
  return { ...finishSet(job, strips, maps, () => clock() - start, share(task, 0.6, 1)), set: job.set };
}

/** The validity map as a picture. */
export function validityPixels(judged: Validity, size: number): Pixels {
  const data = new Uint8Array(3 * size * size);
  const colours = VERDICTS.map((v) => VERDICT_COLOURS[v]);
  for (let i = 0, o = 0; i < judged.verdict.length; i++) {
    const [r, g, b] = colours[judged.verdict[i]];
    data[o++] = r;
    data[o++] = g;
    data[o++] = b;
  }
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
