import { InputError } from '@wellmorph/core/errors';
import { exportGlb, exportOptions } from '@wellmorph/core/pipeline/export';
import { formAsset } from '@wellmorph/core/pipeline/form';
import { documentFromModel } from '@wellmorph/core/pipeline/import';
import { unwrap, unwrapSettings } from '@wellmorph/core/pipeline/unwrap';
import { figure } from '@wellmorph/core/units/lengths';
import { calledAs, loadModel, number, wholeNumber } from '../input';
import { meshStore } from '../mesh-store';
import type { Values } from '../options';
import { type Outcome, stderrTask } from '../output';
import { outputTo, writeWhole } from '../write';

/** Writes a copy of the model with a layout; geometry and placements stay as they are. */
export async function unwrapCommand(files: string[], values: Values): Promise<Outcome> {
  if (files.length !== 1) throw new InputError('cli/files', 'unwrap takes one file.');
  const size = wholeNumber(values, 'size', 1024, 64, 8192);
  const padding = wholeNumber(values, 'padding', 8, 0, 128);
  const angle = number(values, 'angle', 1, 180, 'degrees');
  const fewer = number(values, 'fewer', -2, 2);
  const unseen = number(values, 'unseen', 0.1, 1);
  const out = await outputTo(values.out, '.glb', 'unwrap');
  const model = await loadModel(files[0], values, { hardAngle: angle });
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
  document.unwrap = {
    ...document.unwrap,
    padding,
    ...(angle !== undefined && { seamAngle: angle }),
    ...(fewer !== undefined && { fewer }),
    ...(unseen !== undefined && { unseen }),
    // What the file has is only kept when that is asked for, and packed anew then.
    filed: values.keep ? 'packed' : 'anew',
    twins: values.twins ? 'once' : 'each',
    ...((values.whole || values.keep) && { whole: true }),
    ...(values.second !== undefined && { second: { on: true, size: wholeNumber(values, 'second', 1024, 64, 8192), padding } }),
  };
  const formed = formAsset(document, 'low', store.load).parts;
  const { parts, figures } = unwrap(formed, unwrapSettings(document), stderrTask(values));
  await writeWhole(out, await exportGlb(parts, exportOptions(document)));
  const { islands, stretchL2, stretchLinf, coverage, overlapTexels, folds, density, gutter, seams, twins, second } = figures;
  const more = [
    ...(twins ? [`${twins.shells} shells have the texels of others, ${twins.mirrored} of them mirrored.`] : []),
    ...(second
      ? [`Second layout: ${second.islands} islands, ${figure(second.coverage * 100, 1)} % covered, ${second.gutter} texels apart.`]
      : []),
  ];
  const text = `${islands} islands, stretch ${figure(stretchL2, 3)} (L2) and ${figure(stretchLinf, 3)} (worst), ${figure(coverage * 100, 1)} % covered, ${figure(density, 1)} px/cm, ${folds} folds, ${overlapTexels} texels twice, ${gutter} texels apart; ${figure(seams?.lengthMm ?? 0, 0)} mm of seams, ${figure(seams?.hardInsideMm ?? 0, 0)} mm of hard edges inside islands.\n${more.map((x) => `${x}\n`).join('')}Written: ${out}\n`;
  return {
    json: {
      file: out,
      islands,
      stretchL2,
      stretchLinf,
      coverage,
      overlapTexels,
      folds,
      density,
      gutter,
      seams,
      ...(twins && { twins }),
      ...(second && { second }),
    },
    text,
    failed: folds > 0 || overlapTexels > 0,
  };
}
