import type { Vec3 } from '../maths/vec3';

/** How bad a finding is. */
export type Severity = 'error' | 'warning' | 'information';
/** What can be found. */
export type FindingKind =
  | 'inward'
  | 'winding'
  | 'non-manifold'
  | 'bow-tie'
  | 'open-rim'
  | 'doubles'
  | 'degenerate'
  | 'crossing'
  | 'warped'
  | 'ngon'
  | 'crease'
  | 'pinch'
  | 'band'
  | 'chord'
  | 'thin-wall'
  | 'hidden'
  | 'idle-loops'
  | 'flats'
  | 'scaled'
  | 'origin'
  | 'gone'
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
  | 'uv-flat'
  | 'uv-outside'
  | 'uv-overlap'
  | 'uv-mirrored'
  | 'uv-spread'
  | 'layout'
  | 'bake';
/** Mends: of a stored mesh, or of what the document says about its parts. */
export const FIX_NAMES = {
  'turn-outward': 'Turn outward',
  weld: 'Close up',
  'weld-keep-seam': 'Close up, keep the opening as a seam',
  'remove-degenerate': 'Remove them',
  'split-non-manifold': 'Split the vertices',
  'fill-rims': 'Fill the rims',
  triangulate: 'Cut them into triangles',
  'mark-hard': 'Make them hard edges',
  'remove-loops': 'Remove the loops',
  'remove-hidden': 'Remove the faces',
  'join-flats': 'Join the flats',
  'apply-scale': 'Apply the scale',
  'leave-gap': 'Leave a gap',
  'move-origin': 'Move the piece there',
  'add-clear': 'Add a step that removes them',
  'add-shade': 'Add a step that shades it',
} as const;
/** What can be done about a finding. */
export type FixId = keyof typeof FIX_NAMES;

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
  /** Triangles the piece would have less without it, copies counted. */
  frees?: number;
  /** Box round everything it covers, in the part's own space, mm: a waiver holds only there. */
  covers?: Box;
  /** The reason a person gave for it being meant. */
  waived?: string;
  /** A waiver was given, but it covers something else now. */
  reopened?: string;
}

/** min x y z, max x y z */
export type Box = readonly [number, number, number, number, number, number];

/** The box round places, in thousandths of a millimetre; none round no place. */
export function boxRound(places: readonly Vec3[]): Box | undefined {
  if (places.length === 0) return undefined;
  const box = [Infinity, Infinity, Infinity, -Infinity, -Infinity, -Infinity];
  for (const p of places)
    for (let k = 0; k < 3; k++) {
      box[k] = Math.min(box[k], p[k]);
      box[3 + k] = Math.max(box[3 + k], p[k]);
    }
  return box.map((x) => Math.round(x * 1000) / 1000) as unknown as Box;
}

/** Units of things counted: another number is another thing. What is measured may change a little. */
export const MEASURED: ReadonlySet<string> = new Set(['mm', 'mm²', 'px', '°', '1/mm', '%', 'MB', 'px/cm']);
/** What is measured may change by this share, and places by as much of the size of what they cover, before a waiver is open again. */
const SAME = 0.02;

/** Whether a finding is still what a waiver was given for: as much of it, and in the same place. */
export function stillCovers(f: Pick<Finding, 'value' | 'unit' | 'covers'>, waiver: { value: number; covers?: Box }): boolean {
  const room = (MEASURED.has(f.unit) ? SAME : 1e-6) * Math.max(Math.abs(waiver.value), MEASURED.has(f.unit) ? 0 : 1);
  if (Math.abs(f.value - waiver.value) > room) return false;
  const [a, b] = [f.covers, waiver.covers];
  if (!a || !b) return true;
  const size = Math.hypot(b[3] - b[0], b[4] - b[1], b[5] - b[2]);
  return a.every((x, i) => Math.abs(x - b[i]) <= SAME * size + 0.05);
}

/** At most this many places are kept with a finding. */
export const PLACES = 60;

/** What is said about a part; its places may be more than are kept, and what it covers more than its places. */
export interface Said extends Pick<Finding, 'kind' | 'severity' | 'value' | 'unit' | 'limit' | 'message' | 'why' | 'frees'> {
  where: Vec3[];
  covered?: Vec3[];
  fixes?: FixId[];
}

/** A finding about a part. */
export function finding(part: { id: string; name: string }, { where, covered = where, fixes = [], ...said }: Said): Finding {
  const covers = boxRound(covered);
  return {
    ...said,
    id: `${said.kind}:${part.id}`,
    part: part.id,
    partName: part.name,
    where: where.slice(0, PLACES),
    fixes,
    ...(covers && { covers }),
  };
}

/** What only concerns looks comes after what concerns the form. */
const OF_LOOKS: ReadonlySet<FindingKind> = new Set(['no-material', 'default-material']);

/** Worst first; then by part and kind, so that the order never jumps. */
export function worstFirst(findings: Finding[]): Finding[] {
  const rank = { error: 0, warning: 1, information: 2 };
  return [...findings].sort(
    (a, b) =>
      Number(Boolean(a.waived)) - Number(Boolean(b.waived)) ||
      rank[a.severity] - rank[b.severity] ||
      Number(OF_LOOKS.has(a.kind)) - Number(OF_LOOKS.has(b.kind)) ||
      (a.id < b.id ? -1 : 1),
  );
}
