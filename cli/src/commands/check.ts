import { basename } from 'node:path';
import { InputError } from '@wellmorph/core/errors';
import { boundsOf, isWatertight, volumeOf } from '@wellmorph/core/mesh/measures';
import { vertexCount } from '@wellmorph/core/mesh/polymesh';
import { formAsset } from '@wellmorph/core/pipeline/form';
import { documentFromModel } from '@wellmorph/core/pipeline/import';
import { inspectAsset, ledgerOf } from '@wellmorph/core/pipeline/inspect';
import { figure } from '@wellmorph/core/units/lengths';
import { loadModel, wholeNumber } from '../input';
import { memoryStore } from '../memory';
import type { Values } from '../options';
import { type Outcome, stderrTask, table } from '../output';

/** Measures a file and says what is wrong with it. */
export async function checkCommand(files: string[], values: Values): Promise<Outcome> {
  if (files.length !== 1) throw new InputError('cli/files', 'check takes one file.');
  const limit = wholeNumber(values, 'limit-triangles', Number.MAX_SAFE_INTEGER, 1, 1e9);
  const model = await loadModel(files[0], values);
  const store = memoryStore();
  const document = documentFromModel(basename(files[0]), model, { fileName: basename(files[0]), licence: '', note: '' }, store.keep);
  document.brief.limits.triangles = limit;
  document.brief.limits.memoryMB = Number.MAX_SAFE_INTEGER;
  const formed = formAsset(document, 'low', store.load);
  const ledger = ledgerOf(formed.parts, document);
  const findings = inspectAsset(document, formed, ledger, stderrTask());
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
    file: basename(files[0]),
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
  const said = findings.map((f) => `${f.severity}: ${f.message}\n`).join('');
  return { json, text: `${table(rows)}\n${said || 'Nothing found.\n'}`, failed: findings.some((f) => f.severity === 'error') };
}
