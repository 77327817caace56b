import { rename, writeFile } from 'node:fs/promises';
import { basename } from 'node:path';
import { InputError } from '@wellmorph/core/errors';
import { exportGlb, exportOptions } from '@wellmorph/core/pipeline/export';
import { formAsset } from '@wellmorph/core/pipeline/form';
import { documentFromModel } from '@wellmorph/core/pipeline/import';
import { unwrap, unwrapSettings } from '@wellmorph/core/pipeline/unwrap';
import { figure } from '@wellmorph/core/units/lengths';
import { loadModel, wholeNumber } from '../input';
import { memoryStore } from '../memory';
import type { Values } from '../options';
import { type Outcome, stderrTask } from '../output';

/** Writes a copy of the model with a layout; geometry and placements stay as they are. */
export async function unwrapCommand(files: string[], values: Values): Promise<Outcome> {
  if (files.length !== 1) throw new InputError('cli/files', 'unwrap takes one file.');
  const out = values.out;
  if (!out?.toLowerCase().endsWith('.glb')) throw new InputError('cli/out', 'unwrap needs -o with a name that ends in .glb.');
  const size = wholeNumber(values, 'size', 1024, 64, 8192);
  const padding = wholeNumber(values, 'padding', 8, 0, 128);
  const model = await loadModel(files[0], values);
  const store = memoryStore();
  const document = documentFromModel(
    basename(files[0]).replace(/\.[^.]+$/, ''),
    model,
    { fileName: basename(files[0]), licence: '', note: '' },
    store.keep,
  );
  document.brief.limits.textureSize = size;
  document.unwrap = { ...document.unwrap, padding };
  const { parts, figures } = unwrap(formAsset(document, 'low', store.load).parts, unwrapSettings(document), stderrTask());
  const glb = await exportGlb(parts, exportOptions(document));
  await writeFile(`${out}.part`, glb);
  await rename(`${out}.part`, out);
  const { islands, stretchL2, stretchLinf, coverage, overlapTexels, folds, density, gutter } = figures;
  const text = `${islands} islands, stretch ${figure(stretchL2, 3)} (L2) and ${figure(stretchLinf, 3)} (worst), ${figure(coverage * 100, 1)} % covered, ${figure(density, 1)} px/cm, ${folds} folds, ${overlapTexels} texels twice, ${gutter} texels apart.\nWritten: ${out}\n`;
  return {
    json: { file: out, islands, stretchL2, stretchLinf, coverage, overlapTexels, folds, density, gutter },
    text,
    failed: folds > 0 || overlapTexels > 0,
  };
}
