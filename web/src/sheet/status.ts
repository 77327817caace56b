import type { Finding } from '@wellmorph/core/inspect/finding';
import type { BakeFigures } from '@wellmorph/core/pipeline/bake';
import type { AssetDocument } from '@wellmorph/core/pipeline/document';
import type { RenderFigures } from '@wellmorph/core/pipeline/render';
import { type SurfaceFigures, surfaceVerdict } from '@wellmorph/core/pipeline/surface';
import type { LayoutFigures } from '@wellmorph/core/uv/measure';

/** How a stage stands. `none`: not made yet; `stale`: made from an older state. */
export type Status = 'ok' | 'near' | 'over' | 'none' | 'stale';

export function formStatus(findings: readonly Finding[], fresh: boolean): Status {
  if (!fresh) return 'stale';
  const open = findings.filter((f) => !f.waived);
  if (open.some((f) => f.severity === 'error')) return 'over';
  return open.some((f) => f.severity === 'warning') ? 'near' : 'ok';
}

/** Stretch above 1.1 on average shows in any pattern: common practice, no source. */
export function unwrapStatus(f: LayoutFigures, fresh: boolean): Status {
  if (!fresh) return 'stale';
  if (f.overlapTexels > 0 || f.folds > 0) return 'over';
  return f.stretchL2 > 1.1 || f.coverage < 0.4 ? 'near' : 'ok';
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

/** A gauge: under 90 % of its limit is ok, up to it near, past it over. */
export const gaugeStatus = (value: number, limit: number): Status => (value > limit ? 'over' : value > 0.97 * limit ? 'near' : 'ok');
