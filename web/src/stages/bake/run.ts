import { type BakeLoad, bakeSeconds } from '@wellmorph/core/bake/forecast';
import { EXPECTED_COVERAGE } from '@wellmorph/core/brief/advice';
import { canBake, deliveredParts } from '@wellmorph/core/pipeline/document';
import { upload } from '@/session/api';
import type { AssetSession } from '@/session/session';
import { isFresh, type SheetState } from '@/session/state';
import type { Workbench } from '@/session/workbench';

/**
 * How long a bake would take here, s: by what it has to do as far as that is known, and by how long earlier ones took. Null where there
 * is nothing to bake.
 */
export function bakeForecast(
  state: Pick<SheetState, 'id' | 'document' | 'form' | 'unwrap' | 'bake' | 'high'>,
  { pace, pool }: Pick<Workbench, 'pace' | 'pool'>,
): number | null {
  const { document, form, unwrap, bake, high } = state;
  if (!document || !form || !canBake(document)) return null;
  const parts = deliveredParts(document);
  const before = new Map(bake?.figures.pairs.map((p) => [p.id, p.highTriangles]));
  const formed = parts.filter((p) => !p.high && p.shape.kind === 'recipe');
  const known = formed.reduce((n, p) => n + (before.get(p.id) ?? 0), 0);
  const formedTriangles = known || high?.triangles || DENSER * form.ledger.triangles;
  const { samples, occlusion, occlusionRays, curvature, further } = document.bake;
  const open = occlusion || further.includes('bentNormal') ? occlusionRays : 0;
  const deep = further.includes('thickness') ? Math.max(8, occlusionRays) : 0;
  const load: BakeLoad = {
    size: document.brief.limits.textureSize,
    coverage: unwrap?.figures.coverage ?? EXPECTED_COVERAGE,
    samples,
    occlusionRays: open + deep,
    curvature,
    lowTriangles: form.ledger.triangles,
    highTriangles: parts.reduce((n, p) => n + (p.high?.triangles ?? 0), formed.length > 0 ? formedTriangles : 0),
    formedTriangles: formed.length > 0 ? formedTriangles : 0,
  };
  return pace.corrected('bake', bakeSeconds(load, pool.threads), state.id);
}
/** A high mesh that steps have yet to form has about so many triangles for each of the low one’s: measured on the demo’s pieces. */
const DENSER = 25;

/** Bakes the maps; the layout they stand on is made first where there is none. @returns whether they are there */
export async function runBake(session: AssetSession): Promise<boolean> {
  const { state, bench } = session;
  // With a layout to be made first it is another time than was said.
  const said = isFresh(state.document, state.unwrap, 'unwrap') ? bakeForecast(state, bench) : null;
  const took = (seconds: number) => said !== null && bench.pace.learn('bake', said, seconds, session.id);
  const made = await session.job('bake', (run) => session.stage({ ...run, took, ...(said !== null && { forecastSeconds: said }) }, 'bake'));
  return made !== null;
}

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

/** Pairs a part with high meshes that were brought, together as one, in the order of all other changes. */
export const choosePair = (session: AssetSession, part: string, [high, ...also]: readonly string[]): Promise<unknown> =>
  session.ask({ kind: 'pair', part, high: high ?? null, ...(also.length > 0 && { also }) });
