import type { Vec3 } from '../maths/vec3';

export type Severity = 'error' | 'warning' | 'information';
export type FindingKind =
  | 'inward'
  | 'winding'
  | 'non-manifold'
  | 'open-rim'
  | 'doubles'
  | 'degenerate'
  | 'coincident'
  | 'no-material'
  | 'default-material'
  | 'over-limit'
  | 'step'
  | 'note'
  | 'relation'
  | 'travel'
  | 'region'
  | 'seam'
  | 'layout'
  | 'bake';
export type FixId = 'turn-outward' | 'weld' | 'weld-keep-seam' | 'remove-degenerate' | 'split-non-manifold';

export const FIX_NAMES: Record<FixId, string> = {
  'turn-outward': 'Turn outward',
  weld: 'Weld',
  'weld-keep-seam': 'Weld, keep the opening as a seam',
  'remove-degenerate': 'Remove them',
  'split-non-manifold': 'Split the vertices',
};

/** Something measured to be wrong or wasteful. */
export interface Finding {
  /** Kind and part: the same finding keeps its id from one look to the next. */
  id: string;
  kind: FindingKind;
  severity: Severity;
  /** Part id, or null for the whole asset. */
  part: string | null;
  partName: string;
  value: number;
  unit: string;
  limit: number;
  /** One sentence: what and how much. */
  message: string;
  /** One sentence: why it matters. */
  why: string;
  /** Places to fly to, in the part's own space, mm. */
  where: Vec3[];
  fixes: FixId[];
  /** The reason a person gave for it being meant. */
  waived?: string;
}

/** At most this many places are kept with a finding. */
export const PLACES = 60;

/** Worst first; then by part and kind, so that the order never jumps. */
export function worstFirst(findings: Finding[]): Finding[] {
  const rank = { error: 0, warning: 1, information: 2 };
  return [...findings].sort(
    (a, b) => Number(Boolean(a.waived)) - Number(Boolean(b.waived)) || rank[a.severity] - rank[b.severity] || (a.id < b.id ? -1 : 1),
  );
}
