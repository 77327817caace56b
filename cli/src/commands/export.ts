import { InputError } from '@wellmorph/core/errors';
import { codecsFor } from '@wellmorph/core/node/codecs';
import { isAllCame, picturesOfCame } from '@wellmorph/core/pipeline/came';
import { sharers } from '@wellmorph/core/pipeline/document';
import { deliversTangents } from '@wellmorph/core/pipeline/export';
import { formAsset } from '@wellmorph/core/pipeline/form';
import { archive, handoffFiles } from '@wellmorph/core/pipeline/handoff';
import { documentFromModel } from '@wellmorph/core/pipeline/import';
import { inspectAsset, isLaid, ledgerOf } from '@wellmorph/core/pipeline/inspect';
import { type AssetState, notCarried, preflight } from '@wellmorph/core/pipeline/preflight';
import { solveStage } from '@wellmorph/core/pipeline/render';
import { composeAsset } from '@wellmorph/core/pipeline/surface';
import { unwrap, unwrapSettings } from '@wellmorph/core/pipeline/unwrap';
import { figure } from '@wellmorph/core/units/lengths';
import { calledAs, loadModel, madeOn, one, unitOf, wholeNumber } from '../input';
import { meshStore } from '../mesh-store';
import type { Values } from '../options';
import { type Outcome, stderrTask } from '../output';
import { outputTo, writeWhole } from '../write';

/** One archive of a model: GLB, OBJ, textures composed from its materials, layout and spec sheet. */
export async function exportCommand(files: string[], values: Values): Promise<Outcome> {
  if (files.length !== 1) throw new InputError('cli/files', 'export takes one file.');
  const size = wholeNumber(values, 'size', 1024, 64, 4096);
  const y = one(values, 'y', ['up', 'down'] as const, 'up');
  const out = await outputTo(values.out, '.zip', 'export');
  const model = await loadModel(files[0], values);
  const store = meshStore();
  const document = documentFromModel(
    calledAs(files[0]).replace(/\.[^.]+$/, ''),
    model,
    { fileName: calledAs(files[0]), licence: '', note: '' },
    store.keep,
    undefined,
    store.keepPicture,
  );
  document.brief.limits.textureSize = size;
  document.handoff = { ...document.handoff, unit: unitOf(values), y };
  const task = stderrTask(values);
  const clock = () => performance.now() / 1000;
  const formed = formAsset(document, 'low', store.load);
  const laid = formed.parts.every(isLaid) ? null : unwrap(formed.parts, unwrapSettings(document), task);
  const parts = laid?.parts ?? formed.parts;
  const withMaterials = document.parts.some((p) => p.material !== null) && !isAllCame(document);
  const pictures = await picturesOfCame(document, store.picture);
  await codecsFor(pictures.values());
  const surface = withMaterials ? composeAsset(document, parts, {}, size, clock, task) : null;
  const { normal: relief, ...set } = surface?.files ?? {};
  const composed = { ...set, ...(relief && { relief }) };
  const ledger = ledgerOf(parts, undefined, deliversTangents(document), [], sharers(document));
  const state: AssetState = {
    document,
    findings: inspectAsset(document, formed, ledger),
    ledger,
    fresh: { form: true, unwrap: true, bake: false, surface: surface !== null, render: false },
    layout: laid?.figures ?? null,
    bake: null,
    surface: surface?.figures ?? null,
    render: null,
  };
  const made = await handoffFiles(state, parts, { ...composed, pictures }, solveStage(document, parts), madeOn(), task);
  const zip = archive(made);
  await writeWhole(out, zip);
  const lines = preflight(state);
  const lost = notCarried(document, document.handoff.include);
  const errors = state.findings.filter((f) => f.severity === 'error').length;
  return {
    json: {
      file: out,
      bytes: zip.length,
      files: made.map((f) => ({ name: f.name, bytes: f.bytes.length })),
      preflight: lines.map(({ id, level, sentence }) => ({ id, level, sentence })),
      notCarried: lost,
    },
    text: `${made.map((f) => `  ${f.name}, ${figure(f.bytes.length / 1000, 0)} kB`).join('\n')}\n${lines
      .filter((l) => l.level !== 'ok')
      .map((l) => `${l.sentence}\n`)
      .join('')}${lost.map((l) => `${l}\n`).join('')}Written: ${out}\n`,
    failed: errors > 0,
  };
}
