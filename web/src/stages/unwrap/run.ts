import { resultHash } from '@wellmorph/core/pipeline/results';
import { putBlob, send } from '@/sheet/api';
import { currentForm } from '@/sheet/forming';
import { addTrial, job } from '@/sheet/jobs';
import { type LayoutView, now, set } from '@/sheet/state';
import { pool, WorkError } from '@/workers/pool';

export async function runUnwrap(): Promise<LayoutView | null> {
  const { id, document } = now();
  if (!document || !id) return null;
  const start = performance.now();
  return job('unwrap', async (report, cancel) => {
    const form = await currentForm();
    if (!form || form.gpu.length === 0) throw new WorkError('unwrap/empty', 'There is no surface to unwrap yet.');
    const made = await pool.run('unwrap', { document, low: form.parts }, report, cancel);
    const hash = resultHash(document, 'unwrap');
    const blobs = { parts: await putBlob(made.parts, 'parts'), png: await putBlob(made.png, 'png'), svg: await putBlob(made.svg, 'svg') };
    await send('PUT', `/api/assets/${id}/results/unwrap`, { hash, figures: made.figures, blobs });
    const view: LayoutView = {
      hash,
      parts: made.parts,
      gpu: made.gpu,
      islands: made.islands,
      figures: made.figures,
      png: blobs.png,
      svg: blobs.svg,
    };
    if (now().id === id) set((s) => ({ layout: view, selected: { ...s.selected, island: null } }));
    const { islands, stretchL2, coverage, density } = made.figures;
    await addTrial({
      stage: 'unwrap',
      title: `Padding ${document.unwrap.padding}, ${document.brief.limits.textureSize} px`,
      settings: { ...document.unwrap, size: document.brief.limits.textureSize },
      figures: { islands, stretchL2, coverage, density },
      milliseconds: Math.round(performance.now() - start),
    });
    return view;
  });
}
