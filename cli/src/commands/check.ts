import { readdir, readFile, stat } from 'node:fs/promises';
import { basename, extname, join } from 'node:path';
import { InputError } from '@wellmorph/core/errors';
import type { Finding } from '@wellmorph/core/inspect/finding';
import { FORMATS } from '@wellmorph/core/io/read';
import { kits } from '@wellmorph/core/node/kit';
import { isAssetFile, openAsset } from '@wellmorph/core/pipeline/asset-file';
import { textureMemoryMB } from '@wellmorph/core/pipeline/delivered';
import { type AssetDocument, sharers } from '@wellmorph/core/pipeline/document';
import { deliversTangents } from '@wellmorph/core/pipeline/export';
import { formAsset, type LoadMesh } from '@wellmorph/core/pipeline/form';
import { documentFromModel } from '@wellmorph/core/pipeline/import';
import { inspectAsset, ledgerOf, withWaivers } from '@wellmorph/core/pipeline/inspect';
import { checkLimits, densityOf, judge, type Limits, limitWords, picturesMB } from '@wellmorph/core/pipeline/limits';
import { lookClosely } from '@wellmorph/core/pipeline/look';
import { MeshCache } from '@wellmorph/core/pipeline/mesh-cache';
import { reportOf, reportText, table } from '@wellmorph/core/pipeline/report';
import { QUIET } from '@wellmorph/core/task';
import { figure } from '@wellmorph/core/units/lengths';
import { loadModel, nameOf, readWhole, wholeNumber } from '../input';
import { type Judged, junit } from '../junit';
import { meshStore } from '../mesh-store';
import type { Values } from '../options';
import { type Outcome, stderrTask } from '../output';
import { STANDARD, tryOutput, writeWhole } from '../write';

/** Measures files, or the models of folders, and says what is wrong with them and which limits they pass. */
export async function checkCommand(files: string[], values: Values): Promise<Outcome> {
  if (files.length === 0) throw new InputError('cli/files', 'check takes files or folders.');
  const limits = await limitsOf(values);
  if (values.junit !== undefined) await tryOutput(values.junit);
  const found = await modelsIn(files);
  if (found.length === 0)
    throw new InputError('cli/files', `There is no model in ${files.map((f) => `“${f}”`).join(', ')}: ${FORMATS.join(', ')} are read.`);
  const all: Told[] = [];
  for (const f of found) {
    try {
      all.push(await checkFile(f, values, limits));
    } catch (error) {
      // One file that can't be read doesn't keep the others from being looked at, whatever it did.
      const unreadable = error instanceof Error ? error.message : String(error);
      const judged: Judged = { file: f.name, triangles: null, limits: [], open: [], unreadable };
      all.push({ judged, json: { file: f.name, unreadable }, failed: true, text: '', error });
    }
  }
  if (values.junit !== undefined) await writeWhole(values.junit, new TextEncoder().encode(junit(all.map((a) => a.judged))));
  if (found.length === 1 && found[0].path === files[0]) {
    if (all[0].error !== undefined) throw all[0].error;
    return all[0];
  }
  const failed = all.some((a) => a.failed);
  const row = ({ judged: j, failed: no }: (typeof all)[number]): string[] => [
    j.file,
    j.triangles === null ? '–' : figure(j.triangles, 0),
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

type Told = Outcome & { judged: Judged; error?: unknown };

/** A file, and what it is called: in a folder by its way from there, else as it was given. */
interface Found {
  path: string;
  name: string;
}

/** Files as they are, folders by the models in them, at any depth, in order. */
async function modelsIn(paths: readonly string[]): Promise<Found[]> {
  const out: Found[] = [];
  for (const path of paths) {
    const isFolder = await stat(path)
      .then((s) => s.isDirectory())
      .catch(() => false);
    if (!isFolder) out.push({ path, name: paths.length === 1 && path !== STANDARD ? basename(path) : path });
    else {
      const found = await readdir(path, { recursive: true });
      out.push(
        ...found
          .filter((f) => FORMATS.some((e) => extname(f).toLowerCase() === `.${e}`) || f.toLowerCase().endsWith('.asset.zip'))
          .sort()
          .map((f) => ({ path: join(path, f), name: paths.length === 1 ? f : join(path, f) })),
      );
    }
  }
  return out;
}

async function checkFile({ path, name }: Found, values: Values, limits: Limits): Promise<Told> {
  const task = stderrTask(values);
  const memory = new MeshCache();
  const { document, load, notes, pictures, vertices, own } = await opened(path, values, limits);
  const formed = formAsset(document, 'low', load, memory, await kits.best(document));
  const ledger = ledgerOf(formed.parts, memory, deliversTangents(document), vertices, sharers(document));
  const quick = inspectAsset(document, formed, ledger, QUIET, memory);
  const look = lookClosely(document, formed, memory, task, !own);
  const findings = withWaivers(document, [...quick, ...look.findings]);
  const densities = formed.parts.map((p) => densityOf(p.mesh, limits.textureSize ?? 1024)).filter((d) => d !== null);
  const judged = judge(
    limits,
    { ...ledger, memoryMB: pictures ?? textureMemoryMB(document), densityPxPerCm: densities.length > 0 ? Math.min(...densities) : null },
    // Over its triangles a model is told by the limit itself.
    limits.triangles === undefined ? findings : findings.filter((f) => f.kind !== 'over-limit'),
  );
  const report = reportOf(document, name, formed.parts, ledger, findings, look.neighbours, notes, judged.limits);
  const allowed = new Set(findings.filter((f) => isAllowed(f, judged.open)).map((f) => f.id));
  return {
    json: report,
    text: reportText(report, allowed),
    failed: judged.open.length > 0 || judged.limits.some((l) => !l.kept),
    judged: { file: name, triangles: ledger.triangles, ...judged },
  };
}

interface Opened {
  document: AssetDocument;
  load: LoadMesh;
  notes: string[];
  /** Memory of the pictures a model brings, MB. */
  pictures?: number;
  /** Of each part the vertices its file has, where it says. */
  vertices?: readonly (number | undefined)[];
}

/** Reads it; its bytes are let go of before it is looked at. */
async function opened(path: string, values: Values, limits: Limits): Promise<Opened & { own: boolean }> {
  const whole = await readWhole(path);
  const own = isAssetFile(nameOf(path, whole));
  return { ...(own ? openedAsset(path, whole) : await importedModel(path, whole, values, limits)), own };
}

function openedAsset(path: string, whole: Uint8Array): Opened {
  const opened = openAsset(nameOf(path, whole), whole);
  return { document: opened.document, load: opened.load, notes: opened.notes };
}

async function importedModel(path: string, whole: Uint8Array, values: Values, limits: Limits): Promise<Opened> {
  const model = await loadModel(path, values, {}, whole);
  const store = meshStore();
  const fileName = nameOf(path, whole);
  const document = documentFromModel(fileName, model, { fileName, licence: '', note: '' }, store.keep);
  document.brief.limits.triangles = limits.triangles ?? Number.MAX_SAFE_INTEGER;
  document.brief.limits.memoryMB = Number.MAX_SAFE_INTEGER;
  return {
    document,
    load: store.load,
    notes: model.notes,
    pictures: picturesMB(model.textures),
    vertices: model.parts.map((p) => p.vertices),
  };
}

const isAllowed = (f: Finding, open: readonly Finding[]): boolean => f.severity === 'error' && f.kind !== 'over-limit' && !open.includes(f);
