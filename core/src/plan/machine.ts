import { type AssetDocument, levelsOf } from '../pipeline/document';

/** Stages that the machine works for. */
export const MACHINE = ['bake', 'surface', 'render', 'hand-off'] as const;
export type MachineStage = (typeof MACHINE)[number];

/** A run of the machine: what it took, minutes, and what it was set to. */
export interface MachineRun {
  minutes: number;
  settings: Record<string, unknown>;
  figures: Record<string, number | string>;
}

const number = (v: unknown): number | null => (typeof v === 'number' && v > 0 ? v : null);

/** How much a run had to do: places in texels of a bake, texels of a set, samples of a picture; null where it doesn’t say. */
function doneBy(stage: Exclude<MachineStage, 'hand-off'>, { settings, figures }: MachineRun): number | null {
  const size = number(settings.size);
  if (stage === 'surface') return size && size * size;
  if (stage === 'bake') {
    const samples = number(settings.samples);
    return size && samples && (size * samples) ** 2;
  }
  const [w, h, samples] = [number(settings.width), number(settings.height), number(figures.samples)];
  return w && h && samples && w * h * samples;
}

/** How much there is to do as a document is set; a picture that ends at a noise has the samples that the run tells it takes. */
function aheadOf(
  stage: Exclude<MachineStage, 'hand-off'>,
  { brief, bake, shot, render }: AssetDocument,
  run: MachineRun,
  exponent: number,
): number | null {
  const size = brief.limits.textureSize;
  if (stage === 'surface') return size * size;
  if (stage === 'bake') return (size * bake.samples) ** 2;
  const pixels = shot.widthPx * shot.heightPx;
  if (render.until === 'samples') return pixels * render.samples;
  const [samples, noise] = [number(run.figures.samples), number(run.figures.noisePercent)];
  return samples && noise && pixels * samples * (render.noise / (noise / 100)) ** (1 / exponent);
}

/** Minutes that one further level of an archive took; null where none was made. */
export function minutesALevel({ settings, figures }: MachineRun): number | null {
  const [levels, seconds] = [number(settings.furtherLevels), number(figures.levelSeconds)];
  return levels && seconds && seconds / 60 / levels;
}

/** An archive takes what it took, with as many further levels as there are to be now; one never made is thought to take as long as another. */
function archiveNow({ handoff }: AssetDocument, run: MachineRun): number {
  const each = minutesALevel(run);
  return each === null ? run.minutes : Math.max(0, run.minutes + each * (levelsOf(handoff) - (number(run.settings.furtherLevels) ?? 0)));
}

/**
 * Minutes of the machine that a stage will take as it is set now, from a run of the same piece: in proportion to what there is to do.
 *
 * @param exponent of noise against samples
 */
export function minutesNow(stage: MachineStage, document: AssetDocument, run: MachineRun, exponent: number): number {
  if (stage === 'hand-off') return archiveNow(document, run);
  const [then, now] = [doneBy(stage, run), aheadOf(stage, document, run, exponent)];
  return then && now ? (run.minutes * now) / then : run.minutes;
}
