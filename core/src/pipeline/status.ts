import { adviseBrief } from '../brief/advice';
import type { Finding } from '../inspect/finding';
import { type FlatChoice, stretchNotMeant } from '../uv/chosen/choices';
import type { LayoutFigures } from '../uv/measure';
import type { BakeFigures } from './bake';
import type { AssetDocument } from './document';
import type { RenderFigures } from './render';
import { type SurfaceFigures, surfaceVerdict } from './surface';

/** How a stage stands. `none`: not made yet; `stale`: made from an older state. */
export type Status = 'ok' | 'near' | 'over' | 'none' | 'stale';

/** How a form stands, from its findings. */
export function formStatus(findings: readonly Finding[], fresh: boolean): Status {
  if (!fresh) return 'stale';
  const open = findings.filter((f) => !f.waived);
  if (open.some((f) => f.severity === 'error')) return 'over';
  return open.some((f) => f.severity === 'warning') ? 'near' : 'ok';
}

/** A gauge whose figure should not pass its limit: past it over, in its last 3 % near. */
export const gaugeStatus = (value: number, limit: number): Status => (value > limit ? 'over' : value > 0.97 * limit ? 'near' : 'ok');

/** A gauge whose figure should reach what is wanted: within 2 % of it ok, down to 60 % near, below that over. */
export const reachedStatus = (value: number, wanted: number): Status =>
  value >= 0.98 * wanted ? 'ok' : value >= 0.6 * wanted ? 'near' : 'over';

/**
 * How a layout stands: as its worst gauge. Stretch above 1.1 on average, but for what is stretched on purpose, shows in any pattern, a tile filled to less than 40 % is
 * wasteful: common practice, no source.
 */
export function unwrapStatus(f: LayoutFigures, wantedDensity: number, fresh: boolean, choices: readonly FlatChoice[] = []): Status {
  if (!fresh) return 'stale';
  if (f.overlapTexels > 0 || f.folds > 0 || f.outside) return 'over';
  return worstOf([reachedStatus(f.density, wantedDensity), stretchNotMeant(f, choices) > 1.1 || f.coverage < 0.4 ? 'near' : 'ok']);
}

export const bakeStatus = (f: BakeFigures, fresh: boolean): Status => (fresh ? (f.verdict?.level ?? 'ok') : 'stale');

export const surfaceStatus = (f: SurfaceFigures, fresh: boolean): Status => (fresh ? surfaceVerdict(f).level : 'stale');

/** The light is solved for the piece as it is whenever it is looked at; a locked shot is settled. */
export const lightStatus = (document: Pick<AssetDocument, 'shot' | 'parts'>): Status =>
  document.parts.length === 0 ? 'none' : document.shot.locked ? 'ok' : 'near';

/** Noise of 2 % shows as grain at first sight: common practice, no source. */
export const renderStatus = (f: RenderFigures, fresh: boolean): Status => (fresh ? (f.noise > 0.02 ? 'near' : 'ok') : 'stale');

/** The worst of several, for where there is room for one mark. */
export const worstOf = (list: readonly Status[]): Status =>
  (['over', 'stale', 'near', 'none', 'ok'] as const).find((s) => list.includes(s)) ?? 'none';

/** Handing over is as far as the worst of what it takes. */
export function handoffStatus(stages: readonly Status[]): Status {
  if (stages.includes('over')) return 'over';
  if (stages.includes('none')) return 'none';
  if (stages.includes('stale')) return 'stale';
  return stages.includes('near') ? 'near' : 'ok';
}

/** What the stages came to: figures, and whether they are of the document as it is. What was never made is left out. */
export interface Made {
  form?: { findings: readonly Finding[]; fresh: boolean };
  unwrap?: { figures: LayoutFigures; fresh: boolean };
  bake?: { figures: BakeFigures; fresh: boolean };
  surface?: { figures: SurfaceFigures; fresh: boolean };
  render?: { figures: RenderFigures; fresh: boolean };
}
/** How each stage stands. */
export type StageStatuses = Record<'form' | 'unwrap' | 'bake' | 'surface' | 'light' | 'render' | 'hand-off', Status>;

/** How every stage stands: the one place that says so, for the sheet and for the list of assets. */
export function stageStatuses(document: AssetDocument, made: Made): StageStatuses {
  const { form, unwrap, bake, surface, render } = made;
  const stages = {
    form: form ? formStatus(form.findings, form.fresh) : 'none',
    unwrap: unwrap
      ? unwrapStatus(unwrap.figures, adviseBrief(document.brief).wanted.densityPxPerCm, unwrap.fresh, document.unwrap.choices)
      : 'none',
    bake: bake ? bakeStatus(bake.figures, bake.fresh) : 'none',
    surface: surface ? surfaceStatus(surface.figures, surface.fresh) : 'none',
    light: lightStatus(document),
    render: render ? renderStatus(render.figures, render.fresh) : 'none',
  } as const;
  return { ...stages, 'hand-off': handoffStatus(Object.values(stages)) };
}
