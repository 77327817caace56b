import { readdir, readFile, stat } from 'node:fs/promises';
import { basename, extname, join } from 'node:path';
import { InputError, WellmorphError } from '@wellmorph/core/errors';
import type { Finding } from '@wellmorph/core/inspect/finding';
import { FORMATS } from '@wellmorph/core/io/model';
import { boundsOf, isWatertight, volumeOf } from '@wellmorph/core/mesh/measures';
import { vertexCount } from '@wellmorph/core/mesh/polymesh';
import { formAsset } from '@wellmorph/core/pipeline/form';
import { documentFromModel } from '@wellmorph/core/pipeline/import';
import { inspectAsset, ledgerOf } from '@wellmorph/core/pipeline/inspect';
import { checkLimits, densityOf, judge, type LimitKept, type Limits, limitWords, picturesMB } from '@wellmorph/core/pipeline/limits';
import { figure } from '@wellmorph/core/units/lengths';
import { loadModel, wholeNumber } from '../input';
import { type Judged, junit } from '../junit';
import { memoryStore } from '../memory';
import type { Values } from '../options';
import { type Outcome, stderrTask, table } from '../output';
import { writeWhole } from '../write';

/** Measures files, or the models of folders, and says what is wrong with them and which limits they pass. */
export async function checkCommand(files: string[], values: Values): Promise<Outcome> {
  if (files.length === 0) throw new InputError('cli/files', 'check takes files or folders.');
  const limits = await limitsOf(values);
  const paths = await modelsIn(files);
  if (paths.length === 0)
    throw new InputError('cli/files', `There is no model in ${files.map((f) => `“${f}”`).join(', ')}: ${FORMATS.join(', ')} are read.`);
  if (paths.length === 1 && paths[0] === files[0]) {
    const one = await checkFile(paths[0], values, limits);
    if (values.junit !== undefined) await writeWhole(values.junit, new TextEncoder().encode(junit([one.judged])));
    return one;
  }
  const all: (Awaited<ReturnType<typeof checkFile>> | { judged: Judged; json: unknown; failed: true; text: string })[] = [];
  for (const path of paths) {
    try {
      all.push(await checkFile(path, values, limits));
    } catch (error) {
      // One file that can't be read doesn't keep the others from being looked at.
      if (!(error instanceof WellmorphError)) throw error;
      const judged: Judged = { file: path, limits: [], open: [], unreadable: error.message };
      all.push({ judged, json: { file: path, unreadable: error.message }, failed: true, text: '' });
    }
  }
  if (values.junit !== undefined) await writeWhole(values.junit, new TextEncoder().encode(junit(all.map((a) => a.judged))));
  const failed = all.some((a) => a.failed);
  const row = ({ judged: j, failed: no }: (typeof all)[number]): string[] => [
    j.file,
    j.unreadable === undefined ? figure(j.limits.find((l) => l.what === 'triangles')?.value ?? 0, 0) : '–',
    figure(j.open.length, 0),
    j.unreadable ??
      (j.limits
        .filter((l) => !l.kept)
        .map(limitWords)
        .join(', ') ||
        (no ? 'findings' : 'good')),
  ];
  return {
    json: { files: all.map((a) => a.json), failed },
    text: `${table([['file', 'triangles', 'to mend', ''], ...all.map(row)])}\n${failed ? `${all.filter((a) => a.failed).length} of ${all.length} files don’t pass.` : `All ${all.length} files pass.`}\n`,
    failed,
  };
}

/** The limits of a limits file, with what the command line says itself. */
async function limitsOf(values: Values): Promise<Limits> {
  const own = values['limit-triangles'] === undefined ? {} : { triangles: wholeNumber(values, 'limit-triangles', 0, 1, 1e9) };
  if (values.limits === undefined) return own;
  let plain: unknown;
  try {
    plain = JSON.parse(await readFile(values.limits, 'utf8'));
  } catch (error) {
    throw new InputError('limits/file', `“${values.limits}” ${error instanceof SyntaxError ? 'is no JSON' : 'can’t be opened'}.`);
  }
  return { ...checkLimits(plain), ...own };
}

/** Files as they are, folders by the models in them, at any depth, in order. */
async function modelsIn(paths: readonly string[]): Promise<string[]> {
  const out: string[] = [];
  for (const path of paths) {
    const isFolder = await stat(path)
      .then((s) => s.isDirectory())
      .catch(() => false);
    if (!isFolder) out.push(path);
    else {
      const found = await readdir(path, { recursive: true });
      out.push(
        ...found
          .filter((f) => FORMATS.some((e) => extname(f).toLowerCase() === `.${e}`))
          .sort()
          .map((f) => join(path, f)),
      );
    }
  }
  return out;
}

async function checkFile(path: string, values: Values, limits: Limits): Promise<Outcome & { judged: Judged }> {
  const model = await loadModel(path, values);
  const store = memoryStore();
  const document = documentFromModel(basename(path), model, { fileName: basename(path), licence: '', note: '' }, store.keep);
  document.brief.limits.triangles = limits.triangles ?? Number.MAX_SAFE_INTEGER;
  document.brief.limits.memoryMB = Number.MAX_SAFE_INTEGER;
  const formed = formAsset(document, 'low', store.load);
  const ledger = ledgerOf(formed.parts, document);
  const findings = inspectAsset(document, formed, ledger, stderrTask());
  const densities = formed.parts.map((p) => densityOf(p.mesh, limits.textureSize ?? 1024)).filter((d) => d !== null);
  // Over its triangles a model is told by the limit itself.
  const judged = judge(
    limits,
    { ...ledger, memoryMB: picturesMB(model.textures), densityPxPerCm: densities.length > 0 ? Math.min(...densities) : null },
    findings.filter((f) => f.kind !== 'over-limit'),
  );
  const parts = formed.parts.map((p, i) => {
    const b = boundsOf(p.mesh);
    return {
      name: p.name,
      triangles: ledger.parts[i].triangles,
      copies: ledger.parts[i].copies,
      vertices: vertexCount(p.mesh),
      gpuVertices: ledger.parts[i].gpuVertices,
      boundsMm: { min: b.min, max: b.max },
      areaMm2: ledger.parts[i].areaMm2,
      volumeMm3: volumeOf(p.mesh),
      watertight: isWatertight(p.mesh),
    };
  });
  const json = {
    file: basename(path),
    triangles: ledger.triangles,
    parts,
    findings: findings.map((f) => ({
      id: f.id,
      severity: f.severity,
      part: f.partName || null,
      value: f.value,
      unit: f.unit,
      limit: f.limit,
      message: f.message,
    })),
    notes: model.notes,
    ...(judged.limits.length > 0 && { limits: judged.limits }),
  };
  const rows = [
    ['part', 'triangles', 'vertices', 'on the card', 'mm', 'closed'],
    ...parts.map((p) => [
      p.name,
      figure(p.triangles * p.copies, 0),
      figure(p.vertices, 0),
      figure(p.gpuVertices, 0),
      [0, 1, 2].map((k) => figure(p.boundsMm.max[k] - p.boundsMm.min[k], 1)).join(' × '),
      p.watertight ? 'yes' : 'no',
    ]),
  ];
  const said = findings.map((f) => `${f.severity}: ${f.message}${isAllowed(f, judged.open) ? ' (allowed)' : ''}\n`).join('');
  const over = judged.limits.map((l: LimitKept) => `${l.kept ? 'kept' : 'passed'}: ${l.what}, ${limitWords(l)}\n`).join('');
  return {
    json,
    text: `${table(rows)}\n${over}${said || 'Nothing found.\n'}`,
    failed: judged.open.length > 0 || judged.limits.some((l) => !l.kept),
    judged: { file: path, ...judged },
  };
}

const isAllowed = (f: Finding, open: readonly Finding[]): boolean => f.severity === 'error' && f.kind !== 'over-limit' && !open.includes(f);
