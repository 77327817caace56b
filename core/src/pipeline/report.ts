import type { Finding, FindingKind } from '../inspect/finding';
import { grouped } from '../inspect/grouped';
import { boundsOf, isWatertight, volumeOf } from '../mesh/measures';
import { vertexCount } from '../mesh/polymesh';
import { figure, millimetres } from '../units/lengths';
import { type AssetDocument, WANTED } from './document';
import type { PartMesh } from './form';
import type { Ledger } from './inspect';
import { type LimitKept, limitWords } from './limits';
import type { Neighbours } from './look';
import { standingWords } from './standings';

/** What was measured and found of a piece, as it is exported and printed. */
export interface Report {
  file: string;
  triangles: number;
  gpuVertices: number;
  drawCalls: number;
  sizeMm: [number, number, number];
  parts: {
    name: string;
    triangles: number;
    copies: number;
    vertices: number;
    gpuVertices: number;
    boundsMm: { min: [number, number, number]; max: [number, number, number] };
    areaMm2: number;
    /** Null where it isn’t closed: then it has none. */
    volumeMm3: number | null;
    watertight: boolean;
  }[];
  findings: {
    id: string;
    kind: FindingKind;
    severity: Finding['severity'];
    part: string | null;
    value: number;
    unit: string;
    limit: number;
    message: string;
    /** Triangles that mending it frees. */
    frees?: number;
    waived?: string;
    reopened?: string;
  }[];
  neighbours: { a: string; b: string; gapMm: number; sunkMm: number; wanted?: string; met?: boolean }[];
  notes: string[];
  limits?: LimitKept[];
}

/** Puts a report together: the same whoever asks for it. */
export function reportOf(
  document: AssetDocument,
  file: string,
  parts: readonly PartMesh[],
  ledger: Ledger,
  findings: readonly Finding[],
  neighbours: readonly Neighbours[],
  notes: readonly string[] = [],
  limits: readonly LimitKept[] = [],
): Report {
  const name = (id: string) => document.parts.find((p) => p.id === id)?.name ?? '?';
  return {
    file,
    triangles: ledger.triangles,
    gpuVertices: ledger.gpuVertices,
    drawCalls: ledger.drawCalls,
    sizeMm: ledger.sizeMm,
    parts: parts.map((p, i) => {
      const b = boundsOf(p.mesh);
      return {
        name: p.name,
        triangles: ledger.parts[i].triangles,
        copies: ledger.parts[i].copies,
        vertices: vertexCount(p.mesh),
        gpuVertices: ledger.parts[i].gpuVertices,
        boundsMm: { min: b.min, max: b.max },
        areaMm2: ledger.parts[i].areaMm2,
        volumeMm3: isWatertight(p.mesh) ? volumeOf(p.mesh) : null,
        watertight: isWatertight(p.mesh),
      };
    }),
    findings: findings.map((f) => ({
      id: f.id,
      kind: f.kind,
      severity: f.severity,
      part: f.partName || null,
      value: f.value,
      unit: f.unit,
      limit: f.limit,
      message: f.message,
      ...(f.frees !== undefined && { frees: f.frees }),
      ...(f.waived !== undefined && { waived: f.waived }),
      ...(f.reopened !== undefined && { reopened: f.reopened }),
    })),
    neighbours: neighbours.map((n) => {
      const r = document.relations?.find((x) => x.id === n.relation);
      return {
        a: name(n.a),
        b: name(n.b),
        gapMm: n.gap,
        sunkMm: n.sunk,
        ...(r && {
          wanted: r.wanted === 'gap' || r.wanted === 'sunk' ? `${WANTED[r.wanted]} of ${millimetres(r.mm, 3)}` : WANTED[r.wanted],
          met: n.met ?? true,
        }),
      };
    }),
    notes: [...notes],
    ...(limits.length > 0 && { limits: [...limits] }),
  };
}

/** Rows of text in columns: the first to the left, numbers to the right. */
export function table(rows: string[][]): string {
  const widths = rows[0].map((_, i) => Math.max(...rows.map((r) => r[i].length)));
  return `${rows.map((r) => r.map((cell, i) => (i === 0 ? cell.padEnd(widths[i]) : cell.padStart(widths[i]))).join('  ')).join('\n')}\n`;
}

/** A finding of the report, as those are that it was made from; what only the sheet wants of them is empty. */
const asFinding = (f: Report['findings'][number]): Finding => ({
  ...f,
  partName: f.part ?? '',
  why: '',
  where: [],
  fixes: [],
});

/** Names of parts that are told one by one. */
const MOST_NAMES = 6;
/** Which parts, at the end of what is said of several: `(Lid, Base and 4 more)`. */
function partsWords(names: readonly string[]): string {
  const more = names.length - MOST_NAMES;
  const told = names.slice(0, MOST_NAMES);
  return more > 0 ? `(${told.join(', ')} and ${figure(more, 0)} more)` : `(${told.slice(0, -1).join(', ')} and ${told[told.length - 1]})`;
}

/** Pairs of neighbours that are told to be read. */
const MOST_NEIGHBOURS = 40;

/** The report to read. @param allowed findings a limits file lets be, by id */
export function reportText(report: Report, allowed: ReadonlySet<string> = new Set()): string {
  const rows = [
    ['part', 'triangles', 'vertices', 'on the card', 'mm', 'closed'],
    ...report.parts.map((p) => [
      p.name,
      figure(p.triangles * p.copies, 0),
      figure(p.vertices, 0),
      figure(p.gpuVertices, 0),
      [0, 1, 2].map((k) => figure(p.boundsMm.max[k] - p.boundsMm.min[k], 1)).join(' × '),
      p.watertight ? 'yes' : 'no',
    ]),
  ];
  const limits = (report.limits ?? [])
    .map((l) => `${l.kept ? 'met' : l.what === 'density' ? 'under' : 'over'}: ${l.what}, ${limitWords(l)}\n`)
    .join('');
  const said = grouped(report.findings.map(asFinding))
    .map((g) => {
      const after = g.waived
        ? ` (meant: ${g.waived})`
        : g.reopened
          ? ` (waived before, and changed since: ${g.reopened})`
          : g.findings.every((f) => allowed.has(f.id))
            ? ' (allowed)'
            : '';
      const places = g.findings.length > 1 ? ` ${partsWords(g.findings.map((f) => f.partName))}` : '';
      return `${g.severity}: ${g.message}${g.frees ? ` Frees ${figure(g.frees, 0)} triangles.` : ''}${places}${after}\n`;
    })
    .join('');
  const between = report.neighbours
    .slice(0, MOST_NEIGHBOURS)
    .map(
      (n) =>
        `${n.met === false ? 'not as wanted' : 'between parts'}: ${n.a} and ${n.b}, ${standingWords({ gap: n.gapMm, sunk: n.sunkMm, at: [0, 0, 0] })}${n.wanted ? `, wanted ${n.wanted}` : ''}\n`,
    )
    .join('');
  const more = report.neighbours.length - MOST_NEIGHBOURS;
  const rest = more > 0 ? `and ${figure(more, 0)} more pairs of parts, in the report as JSON\n` : '';
  const notes = report.notes.map((n) => `note: ${n}\n`).join('');
  return `${table(rows)}\n${notes}${limits}${said || 'Nothing found.\n'}${between && `\n${between}${rest}`}`;
}
