import { fieldName } from '@wellmorph/core/pipeline/field-names';
import { stringify } from 'csv-stringify/sync';
import { type LoggedRun, listRuns, type RunsWanted } from './db/runs';

/** Rows that are read at a time: what is written out can be long. */
const PAGE = 500;

async function all(wanted: RunsWanted): Promise<LoggedRun[]> {
  const out: LoggedRun[] = [];
  // In the order of their numbers, which none that comes meanwhile can shift.
  for (let page = 0; ; page++) {
    const { runs } = await listRuns({ ...wanted, sort: 'number', order: 'asc', page, size: PAGE });
    out.push(...runs);
    if (runs.length < PAGE) return out;
  }
}

/** What a run was, without what only this database understands. */
const told = ({
  id,
  number,
  asset,
  stage,
  title,
  settings,
  figures,
  milliseconds,
  forecastSeconds,
  verdict,
  note,
  at,
  program,
  about,
  setAside,
}: LoggedRun) => ({
  run: number,
  id,
  at,
  piece: asset,
  stage,
  title,
  settings,
  figures,
  seconds: milliseconds / 1000,
  forecastSeconds,
  verdict,
  note,
  program,
  about,
  setAside: setAside ?? [],
});

/** A column’s name, with the unit its figures are in: lengths are kept in mm. */
const column = (key: string): string => `${fieldName(key)}${key.endsWith('Mm') && !/, mm$/.test(fieldName(key)) ? ', mm' : ''}`;

const cell = (v: unknown): string | number =>
  typeof v === 'number' || typeof v === 'string' ? v : v === undefined || v === null ? '' : JSON.stringify(v);

/**
 * Runs as a file: JSON as they are, or CSV (RFC 4180) with a column for every setting and figure that any of them has. What would be read
 * as a formula by a table program is written as text.
 */
export async function exported(wanted: RunsWanted, format: 'csv' | 'json'): Promise<string> {
  const runs = (await all(wanted)).map(told);
  if (format === 'json') return JSON.stringify({ runs }, null, 1);
  const keys = (of: 'settings' | 'figures') => [...new Set(runs.flatMap((r) => Object.keys(r[of])))];
  const [settings, figures] = [keys('settings'), keys('figures')];
  const header = [
    ...[
      'run',
      'at',
      'piece',
      'stage',
      'title',
      'verdict',
      'note',
      'seconds',
      'forecast, s',
      'size, mm',
      'materials',
      'set aside',
      'program',
    ],
    ...settings.map((k) => `set: ${column(k)}`),
    ...figures.map((k) => `came to: ${column(k)}`),
  ];
  const rows = runs.map((r) => [
    ...[r.run, r.at, r.piece, r.stage, r.title, r.verdict, r.note, r.seconds, r.forecastSeconds, r.about?.sizeMm].map(cell),
    cell(r.about?.materials.join('; ')),
    cell(r.setAside.map((w) => w.reason).join('; ')),
    cell(r.program),
    ...settings.map((k) => cell(r.settings[k])),
    ...figures.map((k) => cell(r.figures[k])),
  ]);
  return stringify([header, ...rows], { record_delimiter: 'windows', escape_formulas: true });
}
