import type { StoredResult } from '@wellmorph/core/pipeline/results';
import { type Kept, nameOf } from '@wellmorph/core/pipeline/results';
import { artworkFiles } from '@/session/artwork-files';
import { type Made, meshesOf, type Run, type StageTask, type Tools } from '@/session/run-stage';
import type { FormTask } from '@/session/tasks';
import { WorkError } from '@/workers/pool';

/** The low meshes, and what is found by looking them over: made together. */
export const formTask: FormTask = {
  async formed(run: Run, { pool, blobs, results }: Tools) {
    const { document, piece = document } = run;
    const meshes = await meshesOf(document, 'low', blobs);
    // A picture of what has been seen already is none that is needed.
    const known = await results.named(nameOf(document, 'form')).catch(() => null);
    // One without its artwork shows the rest.
    const artworks = known === null ? (piece.prints ?? []).map((p) => p.artwork) : [];
    const files = await artworkFiles(artworks, blobs).catch(() => ({}));
    const { parts, gpu, aids, aidGpu, figures, found, whole, thumbnail } = await pool.run(
      'form',
      { document, meshes, card: known === null ? piece : null, files },
      undefined,
      run.cancel,
    );
    const made: Made<'form'> & { whole: boolean } = {
      figures,
      files: { parts: { bytes: parts, kind: 'parts' }, aids: aidGpu.length > 0 ? { bytes: aids, kind: 'parts' } : null },
      also: { findings: found },
      shown: { parts, gpu, aids, aidGpu },
      whole,
    };
    return { made, thumbnail };
  },
  async card(document, { pool, blobs, results }) {
    const form = await results.named(nameOf(document, 'form'));
    if (!form?.blobs.parts) return null;
    const files = await artworkFiles(
      (document.prints ?? []).map((p) => p.artwork),
      blobs,
    ).catch(() => ({}));
    return (await pool.run('card', { document, parts: await blobs.get(form.blobs.parts), files })).png;
  },
  async make(making) {
    making.report(0, 'forming');
    const { made } = await formTask.formed(making.run, making);
    if (!made.whole) throw new WorkError('kit/missing', 'A library that a step of this piece needs could not be loaded; try it again.');
    return made;
  },
  async view({ name, figures, blobs }, tools, shown) {
    const own = figures as Made<'form'>['figures'];
    if (shown?.parts && shown.gpu && shown.aids && shown.aidGpu)
      return { name, ...own, parts: shown.parts, gpu: shown.gpu, aids: shown.aids, aidGpu: shown.aidGpu };
    const parts = await tools.blobs.get(blobs.parts);
    const aids = blobs.aids ? await tools.blobs.get(blobs.aids) : new Uint8Array();
    const { gpu } = await tools.pool.run('show', { parts });
    const aidGpu = blobs.aids ? (await tools.pool.run('show', { parts: aids })).gpu : [];
    return { name, ...own, parts, gpu, aids, aidGpu };
  },
};

const plain = <K extends Kept>(result: StoredResult) => ({ name: result.name, ...(result.figures as Made<K>['figures']) });

export const findingsTask: StageTask<'findings'> = {
  async make(making) {
    const { made } = await formTask.formed(making.run, making);
    if (!made.also?.findings || !made.whole)
      throw new WorkError('kit/missing', 'A library that a step of this piece needs could not be loaded; try it again.');
    return { figures: made.also.findings, files: {} };
  },
  view: async (result) => plain<'findings'>(result),
};

/** The longer look, that casts rays and compares parts. */
export const lookTask: StageTask<'look'> = {
  async make(making) {
    const { document } = making;
    return { figures: await making.work('inspect', { document, meshes: await making.meshes('low') }), files: {} };
  },
  view: async (result) => plain<'look'>(result),
};
