import { nearestKnown, spread } from '../bake/spread';
import { EXPECTED_COVERAGE } from '../brief/advice';
import { StageError } from '../errors';
import { COMPARED, type Compared, compareGathered, type GatherComparison } from '../gather/compare';
import { type BandCounts, type Gathered, type GatherJob, gatherAll, samplesFor } from '../gather/gather';
import { plainTexturing, TO } from '../gather/look';
import { type GatherPart, layoutName, prepareGather } from '../gather/prepare';
import { encodePng, type Pixels } from '../image/png';
import type { CamePicture, CamePictures } from '../io/glb-came';
import { decodeTexture } from '../io/textures';
import { triangleArea } from '../mesh/measures';
import { attribute, triangleCount } from '../mesh/polymesh';
import { type Allocate, PRIVATE } from '../rays/tree';
import type { Material } from '../surface/material';
import { PLAIN_TEXTURING, type Slot, type TextureUse, type Texturing } from '../surface/texturing';
import { checkpoint, QUIET, part as share, type Task } from '../task';
import { figure } from '../units/lengths';
import { SECOND, secondAsFirst } from '../uv/second';
import { keepsLayouts } from './came';
import { type AssetDocument, deliveredParts, gatherOf, isMoved, originalOf, usedMaterials } from './document';
import { exportGlb, exportOptions } from './export';
import type { PartMesh } from './form';
import { isLaid } from './inspect';

/** The pictures a gathered set can have. */
export const GATHERED = ['baseColour', 'orm', 'normal', 'emission', 'height', 'transmission'] as const;
export type GatheredMap = (typeof GATHERED)[number];

/** What is known of one part that was gathered. */
export interface GatheredPart {
  id: string;
  name: string;
  group: 'opaque' | 'clear';
  /** Texels of its finest picture along one of the set, over its area: the mean, and of 95 of 100 places at most. */
  averaged: number;
  averagedP95: number;
  /** Side the set would need to keep all of it, px, 0 where there are no pictures; and what share of its texels along a line the set keeps. */
  neededPx: number;
  keepsShare: number;
}

/** What is kept of gathering. */
export interface GatherFigures {
  size: number;
  to: 'first' | 'second';
  parts: GatheredPart[];
  /** Names of parts that were left as they were. */
  left: string[];
  maps: GatheredMap[];
  comparison: GatherComparison;
  /** Share of places that the source has not. */
  lostShare: number;
  /** Places read. */
  samples: number;
  /** Emission that full white stands for. */
  glow: number;
  /** Whether anything is cut out, and anything clear. */
  cutOut: boolean;
  clear: boolean;
  seconds: number;
}

/** What the parts are gathered from beside their own pictures: the composed set and the baked normals, PNG bytes, on the first layout. */
export interface GatherSet {
  baseColour?: Uint8Array;
  orm?: Uint8Array;
  normal?: Uint8Array;
}

/** One of the usual mistakes, looked for before anything is drawn. */
export interface GatherCheck {
  id: 'parts' | 'layout' | 'size';
  level: 'ok' | 'near' | 'over';
  sentence: string;
  /** What would mend it. */
  fix?: 'take-all' | 'second-on' | 'to-first' | 'to-second';
}

/** Parts that are gathered: all that go out and aren’t left. */
export const gatheredParts = (document: AssetDocument): AssetDocument['parts'] => {
  const { left } = gatherOf(document);
  return deliveredParts(document).filter((p) => !left.includes(p.id));
};

/**
 * The three usual mistakes: a part forgotten, a set of the wrong size, and a layout that is drawn to while it is read from.
 *
 * @param density px/cm that the layout drawn to reaches at that size, where it is known
 */
export function gatherChecks(document: AssetDocument, density: number | null, wanted: number | null): GatherCheck[] {
  const { left, to, size } = gatherOf(document);
  const all = deliveredParts(document);
  const forgotten = all.filter((p) => left.includes(p.id));
  const bare = all.filter((p) => !left.includes(p.id) && !document.materials.some((m) => m.id === p.material));
  const out: GatherCheck[] = [];
  const names = (parts: readonly { name: string }[]) => parts.map((p) => p.name).join(', ');
  if (forgotten.length === all.length)
    out.push({ id: 'parts', level: 'over', sentence: 'Every part is left out: there is nothing to gather.', fix: 'take-all' });
  else if (forgotten.length > 0)
    out.push({
      id: 'parts',
      level: 'near',
      sentence: `Left as ${forgotten.length === 1 ? 'it is' : 'they are'}: ${names(forgotten)}.`,
      fix: 'take-all',
    });
  else if (bare.length > 0)
    out.push({ id: 'parts', level: 'near', sentence: `Without a material, so gathered plain grey: ${names(bare)}.` });
  else out.push({ id: 'parts', level: 'ok', sentence: `All ${all.length} parts are gathered.` });
  const second = document.unwrap.second?.on === true;
  if (to === 'second' && !second)
    out.push({ id: 'layout', level: 'over', sentence: 'There is no second layout to draw to yet.', fix: 'second-on' });
  else if (to === 'first' && keepsLayouts(document))
    out.push({
      id: 'layout',
      level: 'over',
      sentence:
        'It would be drawn to the very layouts the pictures are read from, where islands lie on each other; a second one has a place for each.',
      fix: second ? 'to-second' : 'second-on',
    });
  else
    out.push({
      id: 'layout',
      level: 'ok',
      sentence: `Read from ${keepsLayouts(document) ? 'the layouts the files brought' : 'the files’ own layouts'}, drawn to ${to === 'second' ? 'the second layout' : 'the layout of the piece'}.`,
    });
  if (to === 'second' && second && document.unwrap.second?.size !== size)
    out.push({
      id: 'size',
      level: 'near',
      sentence: `The second layout is packed for ${document.unwrap.second?.size} px and the set is ${size} px: its gaps are ${figure(((document.unwrap.second?.padding ?? 0) * size) / (document.unwrap.second?.size ?? size), 1)} texels wide there.`,
      fix: 'second-on',
    });
  else if (density !== null && wanted !== null && density < 0.98 * wanted)
    out.push({
      id: 'size',
      level: 'near',
      sentence: `At ${size} px it has ${figure(density, 1)} px/cm; the closest view wants ${figure(wanted, 1)}.`,
    });
  else out.push({ id: 'size', level: 'ok', sentence: `One set of ${size} px${density !== null ? `, ${figure(density, 1)} px/cm` : ''}.` });
  return out;
}

/** @throws StageError in one sentence when nothing can be gathered so */
function inputFor(
  document: AssetDocument,
  formed: readonly PartMesh[],
  laid: readonly PartMesh[],
  pictures: CamePictures,
  set: GatherSet,
): { parts: GatherPart[]; size: number; read(blob: string): Pixels } {
  const { to, size } = gatherOf(document);
  const wrong = gatherChecks(document, null, null).find((c) => c.level === 'over');
  if (wrong) throw new StageError(`gather/${wrong.id}`, wrong.sentence);
  if (laid.length === 0 || !laid.every(isLaid)) throw new StageError('gather/layout', 'There is no layout to draw to yet; unwrap first.');
  const own = new Map<string, Uint8Array>();
  const put = (name: string, bytes: Uint8Array | undefined): string | undefined => {
    if (bytes) own.set(name, bytes);
    return bytes && name;
  };
  const [baseColour, orm, normal] = [put('set colour', set.baseColour), put('set finish', set.orm), put('baked normals', set.normal)];
  const use = (picture: string | undefined, slot: Slot, channel?: number): TextureUse[] =>
    picture ? [{ picture, slot, layout: 0, ...(channel !== undefined && { channel }) }] : [];
  const composed: TextureUse[] = [
    ...use(baseColour, 'baseColour'),
    ...use(orm, 'occlusion', 0),
    ...use(orm, 'roughness', 1),
    ...use(orm, 'metallic', 2),
    ...use(normal, 'normal'),
  ];
  const chosen = new Map(gatheredParts(document).map((p) => [p.id, p]));
  const parts = laid.flatMap((p): GatherPart[] => {
    const part = chosen.get(p.id);
    if (!part) return [];
    const target = to === 'second' ? secondAsFirst(p).mesh : p.mesh;
    if (to === 'second' && !attribute(p.mesh, SECOND.uv, 'corner'))
      throw new StageError('gather/layout', `${p.name} has no second layout; unwrap again.`);
    const material = document.materials.find((m) => m.id === originalMaterial(document, part));
    const came = material?.texturing;
    const { texturing, source } = came
      ? { texturing: came, source: formed.find((f) => f.id === p.id)?.mesh ?? p.mesh }
      : { texturing: withSet(material, composed), source: p.mesh };
    return [{ id: p.id, name: p.name, target, source, texturing, transmission: came ? 0 : (material?.transmission ?? 0) }];
  });
  const read = (blob: string): Pixels => {
    const bytes = own.get(blob);
    if (bytes) return decodeTexture(blob, bytes);
    const found = pictures.get(blob);
    if (!found) throw new StageError('gather/picture', 'A picture that a material came with is no longer stored.');
    return decodeTexture(found.name, found.bytes);
  };
  return { parts, size, read };
}

const originalMaterial = (document: AssetDocument, part: AssetDocument['parts'][number]): string | null =>
  part.material ?? originalOf(document, part).material;

/** A composed material said as one with pictures: those of the set, where it is in it; its glow and its glass are numbers. */
function withSet(m: Material | undefined, composed: TextureUse[]): Texturing {
  if (!m) return { ...PLAIN_TEXTURING, uses: [], baseColour: [0.45, 0.45, 0.45, 1], metallic: 0, roughness: 0.5 };
  const plain = plainTexturing(m) as Texturing<never>;
  const inSet = composed.length > 0 && m.transmission === 0 && m.emission === 0;
  if (!inSet) return { ...plain, uses: composed.filter((u) => u.slot === 'normal') };
  return { ...plain, uses: composed, baseColour: [1, 1, 1, 1], roughness: 1, metallic: 1 };
}

/** A gathering ready to be drawn, in memory that workers can share. */
export interface PreparedGather {
  job: GatherJob;
  parts: { id: string; name: string }[];
  /** mm², of each part’s triangles. */
  areas: Float64Array[];
}

/**
 * Everything that drawing needs.
 *
 * @param formed the parts as they were formed, with the layouts that files brought @param laid the parts with the layout drawn to
 * @throws InputError or StageError in one sentence
 */
export function prepareGatherOf(
  document: AssetDocument,
  formed: readonly PartMesh[],
  laid: readonly PartMesh[],
  pictures: CamePictures,
  set: GatherSet,
  allocate: Allocate = PRIVATE,
): PreparedGather {
  const { parts, size, read } = inputFor(document, formed, laid, pictures, set);
  return {
    job: prepareGather({ parts, size, picture: read }, allocate),
    parts: parts.map(({ id, name }) => ({ id, name })),
    areas: parts.map(({ target }) => Float64Array.from({ length: triangleCount(target) }, (_, t) => triangleArea(target, t))),
  };
}

/** Which pictures a set needs: colour and finish always, the rest where anything has it. */
function mapsOf({ looks }: GatherJob): GatheredMap[] {
  const gives = (to: number) => looks.some((l) => l.taps.some((t) => t.gives.some((g) => g.to === to)));
  return GATHERED.filter(
    (m) =>
      m === 'baseColour' ||
      m === 'orm' ||
      (m === 'normal' && looks.some((l) => l.normal >= 0)) ||
      (m === 'emission' && looks.some((l) => Math.max(l.plain[TO.glowRed], l.plain[TO.glowGreen], l.plain[TO.glowBlue]) > 0)) ||
      (m === 'height' && gives(TO.height)) ||
      (m === 'transmission' && looks.some((l) => l.plain[TO.transmission] > 0)),
  );
}

/** A gathered set: its pictures as PNG, and what is known of it. */
export interface GatherResult {
  figures: GatherFigures;
  files: Partial<Record<GatheredMap, Uint8Array>>;
}

/** Compares what was drawn with its source, carries it past the islands and packs it. */
export function finishGather(
  document: AssetDocument,
  { job, parts, areas }: PreparedGather,
  gathered: Gathered,
  counts: BandCounts,
  seconds: number,
  task: Task = QUIET,
): GatherResult {
  const { size, to } = gatherOf(document);
  const maps = mapsOf(job);
  const { looks } = job;
  const compared = COMPARED.filter(
    (c): c is Compared =>
      !(c === 'normal' && !maps.includes('normal')) &&
      !(c === 'emission' && !maps.includes('emission')) &&
      !(c === 'height' && !maps.includes('height')) &&
      !(c === 'opacity' && !looks.some((l) => l.clear || l.cutOut)),
  );
  task.progress(0, 'comparing with what it came from');
  const files: GatherResult['files'] = {};
  const from = nearestKnown(gathered.state, size);
  const carried: Gathered = { ...gathered };
  for (const map of maps) carried[map] = spread(gathered[map], CHANNELS[map], from);
  const comparison = compareGathered(job, carried, areas, compared);
  for (const [i, map] of maps.entries()) {
    checkpoint(task);
    task.progress(0.4 + (0.6 * i) / maps.length, 'writing pictures');
    const bare = map === 'baseColour' && !looks.some((l) => l.clear || l.cutOut);
    files[map] = encodePng({
      width: size,
      height: size,
      channels: bare ? 3 : CHANNELS[map],
      depth: 8,
      data: bare ? withoutAlpha(carried.baseColour) : carried[map],
    });
  }
  task.progress(1);
  return {
    files,
    figures: {
      size,
      to,
      parts: parts.map((p, i) => partFigures(p, job, i, areas[i], size)),
      left: deliveredParts(document)
        .filter((p) => gatherOf(document).left.includes(p.id))
        .map((p) => p.name),
      maps,
      comparison,
      lostShare: counts.lost / Math.max(1, counts.samples),
      samples: counts.samples,
      glow: job.glow,
      cutOut: looks.some((l) => l.cutOut),
      clear: looks.some((l) => l.clear),
      seconds,
    },
  };
}

const CHANNELS: Record<GatheredMap, 1 | 3 | 4> = { baseColour: 4, orm: 3, normal: 3, emission: 3, height: 1, transmission: 1 };
function withoutAlpha(data: Uint8Array): Uint8Array {
  const out = new Uint8Array((data.length / 4) * 3);
  for (let i = 0, o = 0; i < data.length; i += 4) {
    out[o++] = data[i];
    out[o++] = data[i + 1];
    out[o++] = data[i + 2];
  }
  return out;
}

function partFigures(
  { id, name }: { id: string; name: string },
  { parts, looks }: GatherJob,
  i: number,
  areas: Float64Array,
  size: number,
): GatheredPart {
  const { finer, look } = parts[i];
  const order = [...finer.keys()].sort((a, b) => finer[a] - finer[b]);
  const whole = areas.reduce((n, a) => n + a, 0) || 1;
  let [sum, kept, seen, p95] = [0, 0, 0, 0];
  for (const t of order) {
    sum += areas[t] * Math.max(1, finer[t]);
    kept += areas[t] / Math.max(1, finer[t]);
    if (seen < 0.95 * whole) p95 = finer[t];
    seen += areas[t];
  }
  return {
    id,
    name,
    group: looks[look].clear ? 'clear' : 'opaque',
    averaged: sum / whole,
    averagedP95: p95,
    neededPx: Math.ceil(p95 * size),
    keepsShare: kept / whole,
  };
}

/** The whole stage on this thread. `clock` gives seconds. */
export function gatherAsset(
  document: AssetDocument,
  formed: readonly PartMesh[],
  laid: readonly PartMesh[],
  pictures: CamePictures,
  set: GatherSet,
  clock: () => number,
  task: Task = QUIET,
): GatherResult {
  const started = clock();
  const prepared = prepareGatherOf(document, formed, laid, pictures, set);
  const { gathered, counts } = gatherAll(prepared.job, share(task, 0.1, 0.8));
  return finishGather(document, prepared, gathered, counts, clock() - started, share(task, 0.8, 1));
}

/** About how many places a job reads, for a forecast before it is drawn. */
export function placesOf({ parts, size }: GatherJob): number {
  let n = 0;
  for (const { uv, finer } of parts)
    for (let t = 0; t < finer.length; t++) {
      const o = 6 * t;
      const area = Math.abs((uv[o + 2] - uv[o]) * (uv[o + 5] - uv[o + 1]) - (uv[o + 4] - uv[o]) * (uv[o + 3] - uv[o + 1])) / 2;
      n += area * size * size * samplesFor(finer[t]) ** 2;
    }
  return n;
}

/**
 * About how many places will be read, before any picture is unpacked: by how finely each part’s pictures lie on it beside the set.
 *
 * @param density px/cm of the set, or null where its layout isn’t laid yet: then as is usual for a tile
 */
export function forecastPlaces(document: AssetDocument, formed: readonly PartMesh[], density: number | null): number {
  const known = new Map(document.sources.flatMap((s) => s.textures ?? []).map((t) => [t.blob, t]));
  const chosen = new Map(gatheredParts(document).map((p) => [p.id, p]));
  const parts = formed.flatMap(({ id, mesh }) => {
    const part = chosen.get(id);
    if (!part) return [];
    const uses = document.materials.find((m) => m.id === part.material)?.texturing?.uses ?? [];
    let [area, finest] = [0, 0];
    for (let t = 0; t < triangleCount(mesh); t++) area += triangleArea(mesh, t);
    for (const use of uses) {
      const { width, height } = known.get(use.picture) ?? {};
      const uv = attribute(mesh, layoutName(use.layout), 'corner')?.data;
      if (!width || !height || !uv) continue;
      let flat = 0;
      for (let t = 0; t < triangleCount(mesh); t++) {
        const [a, b, c] = [0, 1, 2].map((k) => 2 * mesh.triangles[3 * t + k]);
        flat += Math.abs((uv[b] - uv[a]) * (uv[c + 1] - uv[a + 1]) - (uv[c] - uv[a]) * (uv[b + 1] - uv[a + 1])) / 2;
      }
      const [x, y] = use.scale ?? [1, 1];
      finest = Math.max(finest, Math.sqrt((flat * Math.abs(x * y) * width * height) / Math.max(area, 1e-12)));
    }
    return [{ area, finest }];
  });
  const whole = parts.reduce((n, p) => n + p.area, 0);
  const px = density !== null ? density / 10 : gatherOf(document).size * Math.sqrt(EXPECTED_COVERAGE / Math.max(whole, 1e-12));
  return parts.reduce((n, p) => n + p.area * px * px * samplesFor(p.finest / px) ** 2, 0);
}

/** What the figures come to in a sentence, and how bad it is. */
export function gatherVerdict(f: GatherFigures): { level: 'ok' | 'near' | 'over'; sentence: string } {
  const { meanColourOff, channels } = f.comparison;
  const normal = channels.normal?.p95 ?? 0;
  const worst = [...f.parts].sort((a, b) => a.keepsShare - b.keepsShare)[0];
  if (f.lostShare > 0.001)
    return { level: 'over', sentence: `${figure(100 * f.lostShare, 2)} % of its places were not found on what it came from.` };
  if (meanColourOff > 2 || normal > 1)
    return {
      level: 'near',
      sentence:
        meanColourOff > 2
          ? `Its mean colour is ${figure(meanColourOff, 1)} of 255 off.`
          : `Normals are up to ${figure(normal, 1)}° off in 95 of 100 places: the set is too small for them.`,
    };
  if (worst && worst.keepsShare < 0.95)
    return {
      level: 'near',
      sentence: `Nothing is off, and something is lost: ${worst.name} would need ${figure(worst.neededPx, 0)} px; at ${f.size} it keeps ${figure(100 * worst.keepsShare, 0)} %.`,
    };
  return { level: 'ok', sentence: 'It shows what it came from, as finely as that was.' };
}

/** The gathered set as materials of the piece: an opaque one, and a clear one where anything is clear. `name` says under which names its pictures are kept. */
export function gatheredMaterials(
  f: GatherFigures,
  name: (map: GatheredMap) => string | undefined,
): (Material & { texturing: Texturing })[] {
  const use = (map: GatheredMap, slot: Slot, channel?: number): TextureUse[] => {
    const picture = name(map);
    return picture ? [{ picture, slot, layout: 0, ...(channel !== undefined && { channel }) }] : [];
  };
  const glow = f.maps.includes('emission') ? f.glow : 0;
  const made = (clear: boolean): Material & { texturing: Texturing } => {
    const alpha = clear ? 'blend' : f.cutOut ? 'mask' : 'opaque';
    return {
      id: clear ? 'gathered-clear' : 'gathered',
      name: clear ? 'Gathered, clear' : 'Gathered',
      base: null,
      source: 'gathered from the materials of the piece',
      touched: true,
      colour: [1, 1, 1],
      metallic: 0,
      roughness: 1,
      ior: 1.5,
      transmission: clear ? 0.5 : 0,
      coat: 0,
      coatRoughness: 0.1,
      emission: 0,
      wear: null,
      dirt: null,
      texturing: {
        ...PLAIN_TEXTURING,
        uses: [
          ...use('baseColour', 'baseColour'),
          ...(alpha === 'opaque' ? [] : use('baseColour', 'alpha', 3)),
          ...use('orm', 'occlusion', 0),
          ...use('orm', 'roughness', 1),
          ...use('orm', 'metallic', 2),
          ...use('normal', 'normal'),
          ...use('emission', 'emission'),
          ...(clear ? use('transmission', 'transmission', 0) : []),
        ],
        emission: [glow, glow, glow],
        alpha,
        whole: true,
      },
    };
  };
  const groups = new Set(f.parts.map((p) => p.group));
  return [...(groups.has('opaque') ? [made(false)] : []), ...(groups.has('clear') ? [made(true)] : [])];
}

/** What pictures of a gathered set are called in files: `asset_channel.png`. */
export const GATHERED_CHANNELS: Record<GatheredMap, { channel: string; what: string }> = {
  baseColour: { channel: 'basecolor', what: 'base colour, sRGB' },
  orm: { channel: 'orm', what: 'occlusion, roughness, metallic; linear' },
  normal: { channel: 'normal', what: 'tangent-space normal, Y up, linear' },
  emission: { channel: 'emissive', what: 'emission, sRGB' },
  height: { channel: 'height', what: 'height, linear' },
  transmission: { channel: 'transmission', what: 'light let through, linear' },
};

/** A gathered set as it goes along with a piece. */
export interface GatheredSet {
  figures: GatherFigures;
  files: Partial<Record<GatheredMap, Uint8Array>>;
}

/** The pictures of a set by the names that {@link asGathered} gives them here. */
export const picturesOfSet = ({ files }: GatheredSet, base: string): Map<string, CamePicture> =>
  new Map(
    GATHERED.flatMap((map) => {
      const bytes = files[map];
      return bytes ? [[map, { name: `${base}_${GATHERED_CHANNELS[map].channel}`, mime: 'image/png', bytes }] as const] : [];
    }),
  );

/** Which parts are one draw: all of one material that stand still, unless they are to stay apart. */
export function drawnTogether(document: AssetDocument, f: GatherFigures): (part: string) => string | null {
  const group = new Map(f.parts.map((p) => [p.id, p.group]));
  const { apart } = gatherOf(document);
  return (id) => {
    const part = document.parts.find((p) => p.id === id);
    const own = group.get(id);
    if (apart || !part || !own || isMoved(part)) return null;
    return own === 'clear' ? `${document.name}, clear` : document.name;
  };
}

/** Draws of a piece that is handed over gathered. */
export function gatheredDraws(document: AssetDocument, f: GatherFigures): number {
  const together = drawnTogether(document, f);
  const groups = new Set<string>();
  let alone = 0;
  for (const p of deliveredParts(document)) {
    const name = together(p.id);
    if (name === null) alone++;
    else groups.add(name);
  }
  return groups.size + alone;
}

/** A gathered piece as a GLB. */
export function gatheredGlb(document: AssetDocument, laid: readonly PartMesh[], set: GatheredSet, base: string): Promise<Uint8Array> {
  const made = asGathered(document, laid, set.figures, (map) => (set.files[map] ? map : undefined));
  const options = exportOptions(made.document, { pictures: picturesOfSet(set, base) });
  return exportGlb(made.parts, { ...options, together: drawnTogether(document, set.figures) });
}

/** A piece as it is handed over gathered: the materials of the set in place of its own, and the layout drawn to as the first. */
export function asGathered(
  document: AssetDocument,
  laid: readonly PartMesh[],
  f: GatherFigures,
  name: (map: GatheredMap) => string | undefined,
): { document: AssetDocument; parts: PartMesh[] } {
  const made = gatheredMaterials(f, name);
  const group = new Map(f.parts.map((p) => [p.id, p.group === 'clear' ? 'gathered-clear' : 'gathered']));
  // A second layout of our own stays beside the first.
  const spent = f.to === 'first' && document.unwrap.second?.on ? /^(uv[34]|colour)$/ : /^(uv[2-4]|island2|colour)$/;
  return {
    document: {
      ...document,
      materials: [...made, ...usedMaterials(document).filter((m) => document.parts.some((p) => p.material === m.id && !group.has(p.id)))],
      parts: document.parts.map((p) => ({ ...p, material: group.get(p.id) ?? p.material })),
      unwrap: { ...document.unwrap, filed: 'kept' },
    },
    parts: laid.map((p) => {
      if (!group.has(p.id)) return p;
      const { mesh } = f.to === 'second' ? secondAsFirst(p) : p;
      // Nothing of the old layouts goes along: whoever reads the file can’t take one for another.
      return { ...p, mesh: { ...mesh, attributes: mesh.attributes.filter((a) => !spent.test(a.name)) } };
    }),
  };
}
