import { upload } from '@/session/api';
import type { AssetSession } from '@/session/session';

/** Bakes the maps; the layout they stand on is made first where there is none. @returns whether they are there */
export const runBake = async (session: AssetSession): Promise<boolean> =>
  (await session.job('bake', (run) => session.stage(run, 'bake'))) !== null;

export async function addHighFile(session: AssetSession, files: readonly File[], unit: string, licence: string): Promise<void> {
  const form = new FormData();
  for (const f of files) form.append('file', f);
  form.append('unit', unit);
  form.append('licence', licence);
  await session.job('import', async (run) => {
    await session.lane.flushed();
    run.report(0.3, 'reading the high mesh');
    const { paired, of } = await upload<{ paired: number; of: number }>(`/api/assets/${session.id}/high`, form, run.signal);
    await session.refresh();
    session.notify(`${paired} of ${of} parts found their high mesh.`);
  });
}

/** Pairs a part with one of the high meshes that were brought, in the order of all other changes. */
export const choosePair = (session: AssetSession, part: string, high: string | null): Promise<unknown> =>
  session.ask({ kind: 'pair', part, high });
