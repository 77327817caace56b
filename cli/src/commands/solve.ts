import { basename } from 'node:path';
import { pixelMm } from '@wellmorph/core/brief/advice';
import { InputError } from '@wellmorph/core/errors';
import { kits } from '@wellmorph/core/node/kit';
import { openAsset, packAsset } from '@wellmorph/core/pipeline/asset-file';
import { formAsset } from '@wellmorph/core/pipeline/form';
import { MeshCache } from '@wellmorph/core/pipeline/mesh-cache';
import { table } from '@wellmorph/core/pipeline/report';
import { budgetProblem, solveFormed } from '@wellmorph/core/pipeline/solve';
import { figure } from '@wellmorph/core/units/lengths';
import { nameOf, readWhole, wholeNumber } from '../input';
import type { Values } from '../options';
import type { Outcome } from '../output';
import { STANDARD, tryOutput, writeWhole } from '../write';

/** Spends a number of triangles on a recipe where its outline needs them, and writes the asset with the counts found. */
export async function solveCommand(files: string[], values: Values): Promise<Outcome> {
  if (files.length !== 1) throw new InputError('cli/files', 'solve takes one asset file.');
  const out = values.out;
  if (out !== undefined) {
    if (out !== STANDARD && !out.toLowerCase().endsWith('.zip'))
      throw new InputError('cli/out', 'solve writes a .zip: -o has to end in it.');
    await tryOutput(out);
  }
  const whole = await readWhole(files[0]);
  const { document, load, bytes } = openAsset(nameOf(files[0], whole), whole);
  const limit = wholeNumber(values, 'triangles', document.brief.limits.triangles, 1, 1e9);
  const wanted = { ...document, brief: { ...document.brief, limits: { ...document.brief.limits, triangles: limit } } };
  const problem = budgetProblem(wanted);
  if (problem.adaptive.length === 0)
    throw new InputError('solve/nothing', `“${basename(files[0])}” has no count that could be solved: simplify brings meshes down.`);
  const [kit, memory] = [await kits.for(document), new MeshCache()];
  const found = solveFormed(wanted, (d) => formAsset(d, 'low', load, memory, kit));
  const px = pixelMm(document.brief);
  const solved = { ...wanted, form: { ...wanted.form, counts: found.counts } };
  // A list that isn't kept within its limit is not written.
  if (out !== undefined && found.fits) await writeWhole(out, packAsset(solved, bytes));
  const counts = problem.adaptive.map((a) => ({
    key: a.key,
    label: a.label,
    count: found.counts[a.key],
    errorMm: a.errorMm(found.counts[a.key]),
    locked: document.form.locks[a.key] !== undefined,
  }));
  return {
    json: {
      file: out !== undefined && found.fits ? basename(out) : null,
      triangles: found.triangles,
      limit,
      fits: found.fits,
      worstMm: found.worstMm,
      worstPx: found.worstMm / px,
      worst: found.worstLabel,
      tenthMoreMm: found.tenthMoreMm,
      counts,
    },
    text: `${table([
      ['count', 'sides', 'off by, mm', 'px', ''],
      ...counts.map((c) => [c.label, figure(c.count, 0), figure(c.errorMm, 4), figure(c.errorMm / px, 3), c.locked ? 'fixed' : '']),
    ])}\n${
      found.fits
        ? `${figure(found.triangles, 0)} of ${figure(limit, 0)} triangles; at most ${figure(found.worstMm, 4)} mm off (${found.worstLabel}), ${figure(found.tenthMoreMm, 4)} mm with a tenth more.${out ? ` Written to “${out}”.` : ''}`
        : `${figure(limit, 0)} triangles can’t be kept: the piece takes ${figure(found.triangles, 0)} with the fewest sides.`
    }\n`,
    failed: !found.fits,
  };
}
