import { type BandCounts, bandsOf, type Gathered } from '@wellmorph/core/gather/bands';
import { picturesOf } from '@wellmorph/core/pipeline/came';
import type { PreparedGather } from '@wellmorph/core/pipeline/gather';
import { GATHERED, type GatherFigures } from '@wellmorph/core/pipeline/gather-figures';
import { nameOf } from '@wellmorph/core/pipeline/results';
import { gatherTrial } from '@wellmorph/core/pipeline/trials';
import type { MadeFile, StageTask } from '@/session/run-stage';
import { WorkError } from '@/workers/pool';
import type { Bytes } from '@/workers/protocol';

/** A gathering that was stopped, as far as it had got: the same one goes on from there. */
interface Begun {
  name: string;
  prepared: PreparedGather;
  gathered: Gathered;
  places: number;
  done: Map<number, BandCounts>;
  seconds: number;
}
let begun: Begun | null = null;

/** Places that a thread reads in a second, and what unpacking, comparing and writing take for each texel of the set, s, about: measured on ten models of six channels (`npm run bench -- gather`). */
const PLACES_A_SECOND = 4e5;
const SECONDS_A_TEXEL = 2.2e-6;
/** About how long gathering so many places on a set of a size takes on so many threads, s. */
export const gatherSeconds = (places: number, size: number, threads: number): number =>
  SECONDS_A_TEXEL * size * size + places / (PLACES_A_SECOND * Math.max(1, threads));

/** Gathers in as many workers as there are. */
export const gatherTask: StageTask<'gather'> = {
  async make(making) {
    const { document, blobs, pool, run } = making;
    const name = nameOf(run.document, 'gather');
    const started = performance.now();
    const state = begun?.name === name ? begun : await prepare();
    begun = state;
    async function prepare(): Promise<Begun> {
      const of = (kind: 'surface' | 'bake') => (making.has(kind) ? making.input(kind).blobs : {});
      const take = async (hash: string | undefined) => (hash ? await blobs.get(hash) : undefined);
      const ask = {
        document,
        formed: await blobs.get(making.input('form').blobs.parts),
        laid: await blobs.get(making.input('unwrap').blobs.parts),
        pictures: await picturesOf(document, (blob) => blobs.get(blob)),
        set: {
          baseColour: await take(of('surface').baseColour),
          orm: await take(of('surface').orm),
          normal: await take(of('surface').normal ?? of('bake').glbNormal),
        },
      };
      making.report(0.02, 'unpacking pictures');
      return { name, ...(await making.work('gatherPrepare', ask, 0, 0.15)), done: new Map(), seconds: 0 };
    }
    const { prepared, gathered, places, done } = state;
    const left = Array.from({ length: bandsOf(prepared.job.size) }, (_, b) => b).filter((b) => !done.has(b));
    const list = new Int32Array(new SharedArrayBuffer(4 * left.length));
    list.set(left);
    const next = new Int32Array(new SharedArrayBuffer(4));
    const ask = { prepared, gathered, bands: list, next };
    const drawn = await Promise.all(Array.from({ length: pool.threads }, () => making.work('gatherBands', ask, 0.15, 0.85)));
    for (const { band, counts } of drawn.flat()) done.set(band, counts);
    state.seconds += (performance.now() - started) / 1000;
    if (Atomics.load(run.cancel, 0) === 1) throw new WorkError('cancelled', 'Stopped; it goes on from there.');
    const counts = [...done.values()].reduce((a, b) => ({ samples: a.samples + b.samples, lost: a.lost + b.lost }));
    const { figures, files } = await making.work('gatherFinish', { document, prepared, gathered, counts, seconds: state.seconds }, 0.85, 1);
    begun = null;
    const said = gatherSeconds(places, prepared.job.size, pool.threads);
    making.pace.learn('gather', said, figures.seconds);
    return {
      figures,
      files: Object.fromEntries(
        GATHERED.flatMap((m) => (files[m] ? [[m, { bytes: files[m] as Bytes, kind: 'png' } satisfies MadeFile] as const] : [])),
      ),
      trial: { ...gatherTrial(run.document, figures), picture: 'baseColour' },
    };
  },
  view: async ({ name, figures, blobs }) => ({ name, figures: figures as GatherFigures, files: blobs }),
};
