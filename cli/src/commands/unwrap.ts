import { InputError } from '@wellmorph/core/errors';
import type { CamePictures } from '@wellmorph/core/io/glb-came';
import { codecsFor } from '@wellmorph/core/node/codecs';
import { picturesOf } from '@wellmorph/core/pipeline/came';
import { type AssetDocument, gatherOf } from '@wellmorph/core/pipeline/document';
import { exportGlb, exportOptions, fileName } from '@wellmorph/core/pipeline/export';
import { formAsset, type PartMesh } from '@wellmorph/core/pipeline/form';
import { gatherAsset } from '@wellmorph/core/pipeline/gather';
import { type GatherFigures, gatherVerdict } from '@wellmorph/core/pipeline/gather-figures';
import { type GatheredSet, gatheredGlb } from '@wellmorph/core/pipeline/gathered';
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
  const pictures = await picturesOf(document, store.picture);
  await codecsFor(pictures.values());
  const gathered = pictures.size > 0 ? onNewLayout(document, formed, parts, pictures, values) : null;
  await writeWhole(
    out,
    gathered
      ? await gatheredGlb(gathered.document, parts, gathered.set, fileName(document.name))
      : await exportGlb(parts, exportOptions(document)),
  );
  const { islands, stretchL2, stretchLinf, coverage, overlapTexels, folds, density, gutter, seams, twins, second } = figures;
  const more = [
    ...(gathered ? [`Its pictures were drawn anew on it, ${size} px. ${gatherVerdict(gathered.set.figures).sentence}`] : []),
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
      ...(gathered && { gathered: { parts: gathered.set.figures.parts, comparison: gathered.set.figures.comparison } }),
    },
    text,
    failed: folds > 0 || overlapTexels > 0,
  };
}

/** The pictures a file brought, drawn anew on the layout it has now: every part stays one of its own. */
function onNewLayout(
  document: AssetDocument,
  formed: readonly PartMesh[],
  laid: readonly PartMesh[],
  pictures: CamePictures,
  values: Values,
): { document: AssetDocument; set: GatheredSet<GatherFigures> } {
  const size = document.brief.limits.textureSize;
  const asked: AssetDocument = { ...document, gather: { ...gatherOf(document), on: true, to: 'first', size, apart: true } };
  const { figures, files } = gatherAsset(asked, formed, laid, pictures, {}, () => performance.now() / 1000, stderrTask(values));
  return { document: asked, set: { figures, files } };
}
