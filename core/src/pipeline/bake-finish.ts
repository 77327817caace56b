import { total } from '../bake/bands';
import { BandBaker } from '../bake/cast';
import { ringsFound, ringsOf } from '../bake/dilate';
import { type Distances, histogram } from '../bake/distances';
import { type Judged, judge } from '../bake/judge';
import { curvatureMap } from '../bake/maps/curvature';
import { furtherFile } from '../bake/maps/files';
import { leaningShare, normalMap } from '../bake/maps/normal';
import { occlusionMap } from '../bake/maps/occlusion';
import { bandedShare, narrowShare, occlusionNoise } from '../bake/narrow';
import { offPicture } from '../bake/off';
import type { BakeGeometry } from '../bake/prepare';
import { emptyTexels, type Texels } from '../bake/texels';
import { verdictOf } from '../bake/verdict';
import { encodePng } from '../image/png';
import { rayWords } from '../rays/kernel/host';
import { checkpoint, QUIET, part as share, type Task } from '../task';
import {
  type AboutPart,
  type BakeFigures,
  type BakeFiles,
  type BakeResult,
  type BakeSettings,
  type PreparedBake,
  prepareBake,
} from './bake';
import { exportGlb } from './export';
import type { PartMesh } from './form';

/** The texel pass on this thread; workers run the same {@link BandBaker} side by side. */
export function bakeTexels(prepared: BakeGeometry, task: Task = QUIET): Texels {
  const texels = emptyTexels(prepared);
  const baker = new BandBaker(prepared, texels);
  for (let b = 0; b < baker.bands; b++) {
    checkpoint(task);
    baker.bake(b);
    task.progress((b + 1) / baker.bands, rayWords('casting rays'));
  }
  return texels;
}

/** Maps, figures and the judgement, once the texels are there. */
export async function finishBake(
  bake: PreparedBake,
  texels: Texels,
  settings: BakeSettings,
  low: readonly PartMesh[],
  seconds: number,
  task: Task = QUIET,
): Promise<BakeResult> {
  task.progress(0, 'writing maps');
  const files: BakeFiles = {};
  const figures = figuresOf(bake, texels, settings, seconds);
  const rings = ringsFound(texels.state, texels.size, settings.carriedPx);
  if (settings.normal) {
    files.normal = encodePng(normalMap(texels, settings, rings));
    files.glbNormal = settings.y === 'up' && settings.bits === 8 ? files.normal : encodePng(normalMap(texels, { y: 'up', bits: 8 }, rings));
  }
  if (settings.occlusion) files.occlusion = encodePng(occlusionMap(texels, rings));
  if (settings.curvature) files.curvature = encodePng(curvatureMap(texels, rings));
  for (const map of settings.further) {
    checkpoint(task);
    // What is missed is no hole in opacity: it is what opacity says.
    const made = furtherFile(map, texels, map === 'opacity' ? { ...ringsOf(texels.state, texels.size), blank: rings.blank } : rings, {
      bits: settings.bits,
      thicknessMm: settings.thicknessMm,
      legend: bake.ids?.legend ?? [],
    });
    files[map] = encodePng(made.png);
    if (made.exr && (map === 'thickness' || map === 'position' || map === 'height')) files[`${map}Exr`] = made.exr;
    if (made.range) figures.ranges[map] = made.range;
  }
  if (files.normal) {
    task.progress(0.4, 'judging');
    const judged = await judgeBake(bake, settings, low, files.normal);
    files.judged = encodePng(offPicture(judged.off, judged.size), 1);
    figures.judgement = judged.judgement;
    figures.verdict = verdictOf(judged.judgement, {
      ...settings,
      missedShare: figures.missedShare,
      backShare: figures.backShare,
      neededFront: figures.uniform.front,
      neededRear: figures.uniform.rear,
    });
  }
  figures.bytes = Object.fromEntries(Object.entries(files).map(([name, file]) => [name, file.length]));
  task.progress(1);
  return { figures, files };
}

function figuresOf(bake: PreparedBake, texels: Texels, settings: BakeSettings, seconds: number): BakeFigures {
  const all = new Float32Array(bake.distances.reduce((n, d) => n + d.signed.length, 0));
  let at = 0;
  for (const d of bake.distances) {
    all.set(d.signed, at);
    at += d.signed.length;
  }
  const { counts } = texels;
  const samples = Math.max(1, total(counts.samples));
  return {
    pairs: bake.figures.map((p, i) => ({
      ...p,
      missedShare: counts.missed[i] / Math.max(1, counts.samples[i]),
      backShare: counts.back[i] / Math.max(1, counts.samples[i]),
      mendingShare: counts.mending[i] / Math.max(1, counts.texels[i]),
    })),
    histogram: histogram(all, 40),
    uniform: {
      front: Math.max(...bake.distances.map((d) => d.uniform.front)),
      rear: Math.max(...bake.distances.map((d) => d.uniform.rear)),
    },
    doubledTexels: total(counts.doubled),
    trials: trialsOf(bake.distances),
    missedShare: total(counts.missed) / samples,
    backShare: total(counts.back) / samples,
    mendingShare: total(counts.mending) / Math.max(1, total(counts.texels)),
    narrowShare: settings.normal ? narrowShare(texels) : 0,
    bandedShare: settings.normal ? bandedShare(texels) : 0,
    occlusionNoise: settings.occlusion ? occlusionNoise(texels, settings.occlusionRays) : 0,
    rays: counts.rays,
    seconds,
    leaningShare: leaningShare(texels, 10),
    roundedMm: bake.prepared.pairs.some((p) => p.rounded && p.rounded.sideRegion.length > 0) ? settings.roundMm : 0,
    ranges: {},
    ...(bake.ids && { ids: bake.ids }),
  };
}

/** What so many times the distances would come to, over all parts: each as its surface was tried. */
function trialsOf(distances: readonly Distances[]): NonNullable<BakeFigures['trials']> {
  const tried = distances.filter((d) => d.trials.length > 0);
  const sum = (i: number, of: 'missed' | 'wrong' | 'of') => tried.reduce((n, d) => n + d.trials[i][of], 0);
  return (tried[0]?.trials ?? []).map(({ times }, i) => ({
    times,
    missedShare: sum(i, 'missed') / Math.max(1, sum(i, 'of')),
    wrongShare: sum(i, 'wrong') / Math.max(1, sum(i, 'of')),
  }));
}

/** Judges the delivered map on the delivered mesh, under the parts’ ids, so that equal names can't be mixed up. */
async function judgeBake(bake: PreparedBake, settings: BakeSettings, low: readonly PartMesh[], png: Uint8Array): Promise<Judged> {
  const { pairs } = bake.prepared;
  const baked = low.filter((l) => pairs.some((p) => p.id === l.id));
  const glb = await exportGlb(
    baked.map((l) => ({ ...l, name: l.id })),
    { name: 'judged', tangents: true, materials: [], materialOf: () => null },
  );
  const judged = await judge({
    glb,
    png,
    y: settings.y,
    high: new Map(pairs.map((p) => [p.id, p.high])),
    rounded: new Map(pairs.flatMap((p) => (p.rounded ? [[p.id, p.rounded.radius] as const] : []))),
  });
  const names = new Map(pairs.map((p) => [p.id, p.name]));
  const named = (id: string) => names.get(id) ?? id;
  const j = judged.judgement;
  return {
    ...judged,
    judgement: {
      ...j,
      parts: j.parts.map((p) => ({ ...p, name: named(p.name) })),
      places: j.places.map((p) => ({ ...p, part: named(p.id) })),
      worstAt: { ...j.worstAt, part: named(j.worstAt.part) },
    },
  };
}

/** Everything in one thread: what the command line runs. `clock` gives seconds. */
export async function bake(
  low: readonly PartMesh[],
  high: readonly PartMesh[],
  about: ReadonlyMap<string, AboutPart>,
  settings: BakeSettings,
  clock: () => number,
  task: Task = QUIET,
): Promise<BakeResult> {
  const start = clock();
  const made = prepareBake(low, high, about, settings, share(task, 0, 0.2));
  const texels = bakeTexels(made.prepared, share(task, 0.2, 0.9));
  return finishBake(made, texels, settings, low, clock() - start, share(task, 0.9, 1));
}
