import { nearestKnown, spread } from '../bake/spread';
import { EXPECTED_COVERAGE } from '../brief/advice';
import { StageError } from '../errors';
import { type BandCounts, type Gathered, samplesFor } from '../gather/bands';
import { COMPARED, type Compared, compareGathered } from '../gather/compare';
import { type GatherJob, gatherAll } from '../gather/gather';
import { plainTexturing, TO } from '../gather/look';
import { type GatherPart, layoutName, prepareGather } from '../gather/prepare';
import { encodePng, type Pixels } from '../image/png';
import type { CamePictures } from '../io/glb-came';
import { decodeTexture } from '../io/textures';
import { triangleArea } from '../mesh/measures';
import { attribute, triangleCount } from '../mesh/polymesh';
import { type Allocate, PRIVATE } from '../rays/tree';
import type { Material } from '../surface/material';
import { PLAIN_TEXTURING, type Slot, type TextureUse, type Texturing } from '../surface/texturing';
import { checkpoint, QUIET, part as share, type Task } from '../task';
import { SECOND, secondAsFirst } from '../uv/second';
import { type AssetDocument, deliveredParts, gatherOf, originalOf } from './document';
import type { PartMesh } from './form';
import { GATHERED, type GatheredMap, type GatheredPart, type GatherFigures, gatherChecks, gatheredParts } from './gather-figures';
import { isLaid } from './inspect';

/** What the parts are gathered from beside their own pictures: the composed set and the baked normals, PNG bytes, on the first layout. */
export interface GatherSet {
  baseColour?: Uint8Array;
  orm?: Uint8Array;
  normal?: Uint8Array;
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
    return [{ id: p.id, name: p.name, target, source, texturing }];
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
