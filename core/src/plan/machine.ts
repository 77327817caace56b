import type { AssetDocument } from '../pipeline/document';

/** Stages that the machine works for. */
export const MACHINE = ['bake', 'surface', 'render'] as const;
export type MachineStage = (typeof MACHINE)[number];

/** A run of the machine: what it took, minutes, and what it was set to. */
export interface MachineRun {
  minutes: number;
  settings: Record<string, unknown>;
  figures: Record<string, number | string>;
}

const number = (v: unknown): number | null => (typeof v === 'number' && v > 0 ? v : null);

/** How much a run had to do: places in texels of a bake, texels of a set, samples of a picture; null where it doesn’t say. */
function doneBy(stage: MachineStage, { settings, figures }: MachineRun): number | null {
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
function toDo(stage: MachineStage, { brief, bake, shot, render }: AssetDocument, run: MachineRun, exponent: number): number | null {
  const size = brief.limits.textureSize;
  if (stage === 'surface') return size * size;
  if (stage === 'bake') return (size * bake.samples) ** 2;
  const pixels = shot.widthPx * shot.heightPx;
  if (render.until === 'samples') return pixels * render.samples;
  const [samples, noise] = [number(run.figures.samples), number(run.figures.noisePercent)];
  return samples && noise && pixels * samples * (render.noise / (noise / 100)) ** (1 / exponent);
}

/**
 * Minutes of the machine that a stage will take as it is set now, from a run of the same piece: in proportion to what there is to do.
 *
 * @param exponent of noise against samples
 */
export function minutesNow(stage: MachineStage, document: AssetDocument, run: MachineRun, exponent: number): number {
  const [then, now] = [doneBy(stage, run), toDo(stage, document, run, exponent)];
  return then && now ? (run.minutes * now) / then : run.minutes;
}
