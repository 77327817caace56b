import { basename } from 'node:path';
import { InputError } from '@wellmorph/core/errors';
import { codecsFor } from '@wellmorph/core/node/codecs';
import { kits } from '@wellmorph/core/node/kit';
import { picturesOfCame } from '@wellmorph/core/pipeline/came';
import { exportGlb, exportOptions } from '@wellmorph/core/pipeline/export';
import { formAsset } from '@wellmorph/core/pipeline/form';
import { documentFromModel } from '@wellmorph/core/pipeline/import';
import { table } from '@wellmorph/core/pipeline/report';
import { simplifyParts } from '@wellmorph/core/pipeline/simplify';
import { figure } from '@wellmorph/core/units/lengths';
import { calledAs, loadModel, wholeNumber } from '../input';
import { meshStore } from '../mesh-store';
import type { Values } from '../options';
import { type Outcome, stderrTask } from '../output';
import { outputTo, writeWhole } from '../write';

/** Brings a model down to a number of triangles, and says how far its surface then lies from what it was. */
export async function simplifyCommand(files: string[], values: Values): Promise<Outcome> {
  if (files.length !== 1) throw new InputError('cli/files', 'simplify takes one file.');
  if (values.triangles === undefined) throw new InputError('cli/number', 'simplify needs --triangles with the number there may be.');
  const triangles = wholeNumber(values, 'triangles', 0, 4, 1e9);
  const out = await outputTo(values.out, '.glb', 'simplify');
  const model = await loadModel(files[0], values);
  const store = meshStore();
  const source = { fileName: calledAs(files[0]), licence: '', note: '' };
  const document = documentFromModel(calledAs(files[0]), model, source, store.keep, undefined, store.keepPicture);
  await kits.load('simplifier');
  const { parts, off } = simplifyParts(
    await kits.for(document),
    formAsset(document, 'low', store.load).parts,
    triangles,
    stderrTask(values),
  );
  const pictures = await picturesOfCame(document, store.picture);
  await codecsFor(pictures.values());
  await writeWhole(out, await exportGlb(parts, exportOptions(document, { pictures })));
  const rows = parts.map((p, i) => ({
    name: p.name,
    copies: p.placements.length,
    from: off[i].from,
    to: off[i].to,
    mostMm: off[i].most,
    meanMm: off[i].mean,
  }));
  const { notes } = model;
  const total = rows.reduce((n, r) => n + r.to * r.copies, 0);
  return {
    json: { file: basename(out), triangles: total, parts: rows, notes },
    text: `${table([
      ['part', 'from', 'to', 'farthest off, mm', 'on average, mm'],
      ...rows.map((r) => [r.name, figure(r.from, 0), figure(r.to, 0), figure(r.mostMm, 4), figure(r.meanMm, 4)]),
    ])}\n${figure(total, 0)} triangles in “${out}”.\n${notes.map((n) => `note: ${n}\n`).join('')}`,
    failed: false,
  };
}
