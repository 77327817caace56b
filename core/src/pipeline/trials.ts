import { FURTHER } from '../bake/maps/further';
import { LAMPS } from '../light/rig';
import { layerWords } from '../surface/layers/words';
import { figure } from '../units/lengths';
import type { LayoutFigures } from '../uv/measure';
import { CHOSEN } from '../uv/words';
import type { BakeFigures } from './bake';
import { type AssetDocument, composedMaterials, gatherOf, projectOf } from './document';
import type { GatherFigures } from './gather-figures';
import { DELIVERABLES, type Deliverable, levelsOf } from './handoff-choices';
import type { ProjectFigures } from './project-figures';
import type { RenderFigures } from './render';
import { drawnWithMaps, nameOf } from './results';
import type { SurfaceFigures } from './surface';

/** How a finished stage is kept among the trials, whoever ran it: what it was set to, and what came of it. */
export interface TrialWords {
  title: string;
  settings: Record<string, unknown>;
  figures: Record<string, number | string>;
}

/** A layout among the trials. */
export function unwrapTrial(document: AssetDocument, { islands, stretchL2, coverage, density, seams }: LayoutFigures): TrialWords {
  const size = document.brief.limits.textureSize;
  const { places, second, choices: ways = [], ...choices } = document.unwrap;
  const called = (part: string): string => document.parts.find((p) => p.id === part)?.name ?? '';
  return {
    title: `${places?.length ? 'By hand, padding' : 'Padding'} ${choices.padding}, ${size} px${ways.length > 0 ? `, ${ways.length} by choice` : ''}`,
    settings: {
      ...choices,
      size,
      ...(second?.on && { second: `${second.size} px, padding ${second.padding}` }),
      ...(ways.length > 0 && { chosenWays: ways.map((w) => `${called(w.part)} ${CHOSEN[w.method]}`).join(', ') }),
      ...(places?.length && { placed: places.length, lockedIslands: places.filter((p) => p.locked).length }),
    },
    figures: {
      islands,
      stretchL2,
      coverage,
      density,
      ...(seams && { seamMm: seams.lengthMm, hardInsideMm: seams.hardInsideMm }),
    },
  };
}

/** A gathered set among the trials. */
export function gatherTrial(document: AssetDocument, { size, to, parts, comparison }: GatherFigures): TrialWords {
  const { left } = gatherOf(document);
  return {
    title: `${parts.length === 1 ? 'One part on a set' : `${parts.length} parts in one`}, ${size} px`,
    settings: { size, gatheredTo: to === 'second' ? 'second layout' : 'layout of the piece', leftOut: left.length },
    figures: {
      colourOff: comparison.meanColourOff,
      p95Degrees: comparison.channels.normal?.p95 ?? 0,
      keptPercent: 100 * Math.min(1, ...parts.map((p) => p.keepsShare)),
    },
  };
}

/** Photographs laid on, among the trials. */
export function projectTrial(document: AssetDocument, f: ProjectFigures): TrialWords {
  const { blind, left } = projectOf(document);
  return {
    title: `${f.photos.length === 1 ? 'A photograph' : `${f.photos.length} photographs`} laid on, ${f.size} px`,
    settings: { size: f.size, blind, leftOut: left.length },
    figures: { seenPercent: 100 * f.seenShare, colourOff: f.off.mean, ...(f.overlap && { seamOff: f.overlap.after }) },
  };
}

/** A bake among the trials. */
export function bakeTrial(document: AssetDocument, { missedShare, judgement }: BakeFigures): TrialWords {
  const { bake, brief } = document;
  return {
    title: `${bake.distances === 'measured' ? `Measured, ${bake.samples} × ${bake.samples}` : `Uniform ${bake.frontMm} / ${bake.rearMm}`}${bake.directions === 'split' ? ', split' : ''}`,
    settings: {
      ...bake,
      dabs: bake.dabs.length,
      further: bake.further.map((m) => FURTHER[m].name).join(', ') || 'none',
      size: brief.limits.textureSize,
    },
    figures: {
      missedPercent: missedShare * 100,
      meanDegrees: judgement?.mean ?? 0,
      p95Degrees: judgement?.p95 ?? 0,
      worstDegrees: judgement?.worst ?? 0,
    },
  };
}

/** A composed set among the trials. */
export function surfaceTrial(document: AssetDocument, figures: SurfaceFigures): TrialWords {
  const used = composedMaterials(document);
  return {
    title:
      used
        .map((m) => m.name)
        .join(', ')
        .slice(0, 100) || 'No materials',
    settings: Object.fromEntries([
      ['size', figures.size],
      ['seed', document.surface.seed],
      ...used.flatMap((m) => [
        [`${m.name}: roughness`, m.roughness],
        ...m.layers.flatMap((l) => (l.on ? [[`${m.name}: ${l.name}`, layerWords(l)]] : [])),
        [`${m.name}: colour`, m.colour.map((c) => Math.round(c * 255)).join(' ')],
      ]),
    ]),
    figures: {
      soundPercent: 100 * figures.validity.sound,
      layers: used.reduce((n, m) => n + m.layers.filter((l) => l.on).length, 0),
    },
  };
}

/** A picture among the trials. */
export function pictureTrial(document: AssetDocument, { width, height, samples, noise, clippedShare }: RenderFigures): TrialWords {
  const { shot, rig, render } = document;
  const { key, fill, rim } = rig.lamps;
  return {
    title: `${width} × ${height}, ${samples} samples`,
    settings: {
      samples,
      seed: render.seed,
      width,
      height,
      tone: shot.tone,
      maps: drawnWithMaps(document) ? 'composed set' : 'plain materials',
      azimuth: shot.azimuth,
      elevation: shot.elevation,
      lens: shot.lensMm,
      aperture: shot.aperture ?? 'solved',
      seconds: shot.seconds,
      background: rig.background,
      surround: rig.surround,
      ratio: `${key.ratio} : ${fill.ratio} : ${rim.ratio}`,
      lamps: LAMPS.map((n) => `${rig.lamps[n].turn}° ${rig.lamps[n].raise}° ${rig.lamps[n].kelvin} K`).join(', '),
      watts: rig.power ? `${figure(rig.power.key, 2)} : ${figure(rig.power.fill, 2)} : ${figure(rig.power.rim, 2)}` : 'solved',
      materials: nameOf(document, 'surface').slice(0, 8),
    },
    figures: { noisePercent: 100 * noise, samples, clippedPercent: 100 * clippedShare },
  };
}

/** An archive among the trials. @param levelSeconds what its further levels took, s */
export function handoffTrial(
  { handoff, brief, variants }: AssetDocument,
  files: readonly { bytes: number }[],
  levelSeconds: number,
): TrialWords {
  const { include, unit, y, smaller, specular, jpeg, setSheet } = handoff;
  const levels = levelsOf(handoff);
  const goesIn = (Object.keys(DELIVERABLES) as Deliverable[]).filter((d) => include[d]).map((d) => DELIVERABLES[d]);
  return {
    title: goesIn.join(', ').slice(0, 120),
    settings: {
      goesIn: goesIn.join(', '),
      furtherLevels: levels,
      unit,
      y,
      size: brief.limits.textureSize,
      smaller: smaller ?? 0,
      specular: specular === true,
      jpeg: jpeg || 'no',
      setSheet: setSheet === true,
      variants: handoff.variants ? (variants?.length ?? 0) : 0,
    },
    figures: {
      files: files.length,
      megabytes: files.reduce((n, f) => n + f.bytes, 0) / 1e6,
      ...(levels > 0 && { levelSeconds }),
    },
  };
}
