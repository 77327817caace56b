import { readdir, readFile, stat } from 'node:fs/promises';
import { basename, extname, join } from 'node:path';
import { InputError, WellmorphError } from '@wellmorph/core/errors';
import type { Finding } from '@wellmorph/core/inspect/finding';
import { FORMATS } from '@wellmorph/core/io/read';
import { isAssetFile, openAsset } from '@wellmorph/core/pipeline/asset-file';
import { textureMemoryMB } from '@wellmorph/core/pipeline/delivered';
import type { AssetDocument } from '@wellmorph/core/pipeline/document';
import { deliversTangents } from '@wellmorph/core/pipeline/export';
import { formAsset, type LoadMesh } from '@wellmorph/core/pipeline/form';
import { documentFromModel } from '@wellmorph/core/pipeline/import';
import { inspectAsset, ledgerOf, withWaivers } from '@wellmorph/core/pipeline/inspect';
import { checkLimits, densityOf, judge, type Limits, limitWords, picturesMB } from '@wellmorph/core/pipeline/limits';
import { lookClosely } from '@wellmorph/core/pipeline/look';
import { Memory } from '@wellmorph/core/pipeline/memory';
import { reportOf, reportText, table } from '@wellmorph/core/pipeline/report';
import { QUIET } from '@wellmorph/core/task';
import { figure } from '@wellmorph/core/units/lengths';
import { loadModel, readWhole, wholeNumber } from '../input';
import { type Judged, junit } from '../junit';
import { kits } from '../kit';
import { memoryStore } from '../memory';
import type { Values } from '../options';
import { type Outcome, stderrTask } from '../output';
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
          .filter((f) => FORMATS.some((e) => extname(f).toLowerCase() === `.${e}`) || f.toLowerCase().endsWith('.asset.zip'))
          .sort()
          .map((f) => join(path, f)),
      );
    }
  }
  return out;
}

async function checkFile(path: string, values: Values, limits: Limits): Promise<Outcome & { judged: Judged }> {
  const task = stderrTask();
  const memory = new Memory();
  const { document, load, notes, pictures } = isAssetFile(path) ? await openedAsset(path) : await importedModel(path, values, limits);
  const formed = formAsset(document, 'low', load, memory, await kits.best(document));
  const ledger = ledgerOf(formed.parts, memory, deliversTangents(document));
  const quick = inspectAsset(document, formed, ledger, QUIET, memory);
  const look = lookClosely(document, formed, memory, task, !isAssetFile(path));
  const findings = withWaivers(document, [...quick, ...look.findings]);
  const densities = formed.parts.map((p) => densityOf(p.mesh, limits.textureSize ?? 1024)).filter((d) => d !== null);
  const judged = judge(
    limits,
    { ...ledger, memoryMB: pictures ?? textureMemoryMB(document), densityPxPerCm: densities.length > 0 ? Math.min(...densities) : null },
    // Over its triangles a model is told by the limit itself.
    limits.triangles === undefined ? findings : findings.filter((f) => f.kind !== 'over-limit'),
  );
  const report = reportOf(document, basename(path), formed.parts, ledger, findings, look.neighbours, notes, judged.limits);
  const allowed = new Set(findings.filter((f) => isAllowed(f, judged.open)).map((f) => f.id));
  return {
    json: report,
    text: reportText(report, allowed),
    failed: judged.open.length > 0 || judged.limits.some((l) => !l.kept),
    judged: { file: path, ...judged },
  };
}

interface Opened {
  document: AssetDocument;
  load: LoadMesh;
  notes: string[];
  /** Memory of the pictures a model brings, MB. */
  pictures?: number;
}

async function openedAsset(path: string): Promise<Opened> {
  return { ...openAsset(basename(path), await readWhole(path)), notes: [] };
}

async function importedModel(path: string, values: Values, limits: Limits): Promise<Opened> {
  const model = await loadModel(path, values);
  const store = memoryStore();
  const document = documentFromModel(basename(path), model, { fileName: basename(path), licence: '', note: '' }, store.keep);
  document.brief.limits.triangles = limits.triangles ?? Number.MAX_SAFE_INTEGER;
  document.brief.limits.memoryMB = Number.MAX_SAFE_INTEGER;
  return { document, load: store.load, notes: model.notes, pictures: picturesMB(model.textures) };
}

const isAllowed = (f: Finding, open: readonly Finding[]): boolean => f.severity === 'error' && f.kind !== 'over-limit' && !open.includes(f);
