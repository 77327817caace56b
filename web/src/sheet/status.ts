import type { Finding } from '@wellmorph/core/inspect/finding';
import type { BakeFigures } from '@wellmorph/core/pipeline/bake';
import type { LayoutFigures } from '@wellmorph/core/uv/measure';

/** How a stage stands. `none`: not made yet; `stale`: made from an older state; `later`: not part of Wellmorph yet. */
export type Status = 'ok' | 'near' | 'over' | 'none' | 'stale' | 'later';

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

/** A gauge: under 90 % of its limit is ok, up to it near, past it over. */
export const gaugeStatus = (value: number, limit: number): Status => (value > limit ? 'over' : value > 0.97 * limit ? 'near' : 'ok');
