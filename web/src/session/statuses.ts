import { allFindings } from '@wellmorph/core/pipeline/all-findings';
import type { Kept } from '@wellmorph/core/pipeline/results';
import { type Status, stageStatuses } from '@wellmorph/core/pipeline/status';
import type { Station } from '@/shared/stations';
import { isFresh, type SheetState } from './state';

/** What the line of stages is made from. */
export type Standing = Pick<SheetState, 'document' | 'form' | 'findings' | 'look' | 'unwrap' | 'bake' | 'surface' | 'render' | 'forming'>;

/** How each station of an open asset stands; null before it is there. */
export function stationStatuses(s: Standing): Record<Station, Status> | null {
  const { document, form, forming } = s;
  if (!document) return null;
  const made = <T>(kind: Kept, view: { name: string; figures: T } | null) =>
    view ? { figures: view.figures, fresh: isFresh(document, view, kind) } : undefined;
  const isThere = form !== null && form.ledger.triangles > 0;
  const stages = stageStatuses(document, {
    form: isThere ? { findings: allFindings(document, s), fresh: forming || isFresh(document, form, 'form') } : undefined,
    unwrap: made('unwrap', s.unwrap),
    bake: made('bake', s.bake),
    surface: made('surface', s.surface),
    render: made('render', s.render),
  });
  return { brief: 'ok', ...stages };
}
