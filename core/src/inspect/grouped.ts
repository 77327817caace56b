import { figure, millimetres } from '../units/lengths';
import { type Finding, type FindingKind, type FixId, MEASURED, type Severity } from './finding';

/** Findings of one kind that say the same of several parts, or one alone. */
export interface Group {
  /** The same from one look to the next while it is of the same kind. */
  id: string;
  kind: FindingKind;
  severity: Severity;
  /** Worst first. */
  findings: readonly Finding[];
  /** One sentence for all of them. */
  message: string;
  why: string;
  /** Fixes that every one of them has. */
  fixes: FixId[];
  /** Triangles the piece would have less without all of them. */
  frees?: number;
  waived?: string;
  reopened?: string;
}

/** What each kind is, where it is said of several parts at once; others keep their first sentence. */
const SAID: Partial<Record<FindingKind, string>> = {
  inward: 'faces that look inward',
  winding: 'neighbouring faces that run opposite ways',
  'non-manifold': 'edges with more than two faces',
  'bow-tie': 'points where separate surfaces touch',
  'open-rim': 'open rims',
  doubles: 'points that lie together and are not joined',
  degenerate: 'faces without area',
  crossing: 'surfaces that cross themselves',
  warped: 'faces that are not flat',
  ngon: 'faces of many corners on smooth surfaces',
  crease: 'smooth edges between flat faces',
  pinch: 'points where the surface pinches',
  band: 'edges where reflected lines break',
  chord: 'flat faces that stand for a round surface',
  'thin-wall': 'walls thinner than the brief wants',
  hidden: 'faces never seen from outside',
  'idle-loops': 'loops that shape nothing',
  flats: 'flats divided for nothing',
  scaled: 'a scale or a mirror left on',
  coincident: 'surfaces that share a plane with another',
  'no-material': 'no material',
  'default-material': 'materials still as the file brought them',
  'uv-flat': 'faces without area in the layout',
  'uv-outside': 'faces outside the tile',
  'uv-overlap': 'faces that share texels',
  'uv-mirrored': 'mirrored faces in the layout',
  'uv-spread': 'densities that differ',
};

/** A sentence with what only one part has of it taken out: names and figures. */
const pattern = (f: Finding): string =>
  (f.partName ? f.message.replaceAll(f.partName, '…') : f.message).replace(/“[^”]*”/g, '…').replace(/\d[\d.,\u00a0\u202f ]*/g, '#');

/** One entry for each kind of each severity; what was waived, or was and has changed, stays apart by its reason. */
const keyOf = (f: Finding): string =>
  [f.kind, f.severity, f.waived ?? '', f.reopened ?? '', SAID[f.kind] ? '' : pattern(f), f.part === null ? f.id : ''].join('\n');

/** Findings of one kind over several parts as one entry, where the first of them stood. */
export function grouped(findings: readonly Finding[]): Group[] {
  const byKey = new Map<string, Finding[]>();
  for (const f of findings) {
    const key = keyOf(f);
    byKey.set(key, [...(byKey.get(key) ?? []), f]);
  }
  return [...byKey.values()].map((list) => groupOf(list));
}

function groupOf(list: readonly Finding[]): Group {
  const [first] = list;
  if (list.length === 1) {
    const { id, kind, severity, message, why, fixes, frees, waived, reopened } = first;
    return { id, kind, severity, findings: list, message, why, fixes, frees, waived, reopened };
  }
  const worst = [...list].sort((a, b) => excess(b) - excess(a) || (a.id < b.id ? -1 : 1));
  const frees = list.reduce((n, f) => n + (f.frees ?? 0), 0);
  return {
    id: `all:${keyOf(first).replaceAll('\n', ':')}`,
    kind: first.kind,
    severity: first.severity,
    findings: worst,
    message: messageOf(worst),
    // What is said of all of them has to be true of each.
    why: list.every((f) => f.why === first.why) ? first.why : '',
    fixes: first.fixes.filter((x) => list.every((f) => f.fixes.includes(x))),
    ...(frees > 0 && { frees }),
    ...(first.waived && { waived: first.waived }),
    ...(first.reopened && { reopened: first.reopened }),
  };
}

/** How far over its limit it is; what has to be at least something, how far under. */
const excess = (f: Finding): number => (f.kind === 'thin-wall' ? f.limit - f.value : f.value - f.limit);

function messageOf(worst: readonly Finding[]): string {
  const [most] = worst;
  const said = SAID[most.kind];
  const n = figure(worst.length, 0);
  if (!said)
    return `${most.message} ${worst.length === 2 ? 'One more says the same.' : `${figure(worst.length - 1, 0)} more say the same.`}`;
  const begins = `${n} parts: ${said}`;
  if (most.unit === 'part') return `${begins}.`;
  const at = most.unit === 'mm' ? millimetres(most.value, 3) : `${figure(most.value, 2)}${most.unit === '°' ? '' : '\u00a0'}${most.unit}`;
  if (MEASURED.has(most.unit)) return `${begins}, at worst ${at} on ${most.partName}.`;
  const all = worst.reduce((sum, f) => sum + f.value, 0);
  const even = worst.every((f) => f.value === most.value);
  return `${begins}, ${figure(all, 0)} ${most.unit} in all, ${even ? `${figure(most.value, 0)} on each` : `most on ${most.partName}: ${figure(most.value, 0)}`}.`;
}
