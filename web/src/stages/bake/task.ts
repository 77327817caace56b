import { addCounts, BAND, type Counts, LAYERS, noCounts } from '@wellmorph/core/bake/bands';
import type { Dab } from '@wellmorph/core/bake/dabs';
import type { Texels } from '@wellmorph/core/bake/texels';
import { bandsTouched } from '@wellmorph/core/bake/touched';
import { type BakeFigures, bakeFiles, type PreparedBake } from '@wellmorph/core/pipeline/bake';
import type { AssetDocument } from '@wellmorph/core/pipeline/document';
import { nameOf } from '@wellmorph/core/pipeline/results';
import { bakeTrial } from '@wellmorph/core/pipeline/trials';
import type { MadeFile, StageTask } from '@/session/run-stage';

/** What the last bake of this page found, so that one that differs in a few rows only bakes those. */
interface Found {
  /** All that its texels follow from but the dabs. */
  key: string;
  dabs: readonly Dab[];
  texels: Texels;
  counts: Map<number, Counts>;
}
let last: Found | null = null;
/** Larger ones are not kept, texels along a side. */
const LARGEST = 2048;

/** What texels follow from, but the dabs; how the maps are written is no part of it. */
function keyOf(document: AssetDocument): string {
  return nameOf({ ...document, bake: { ...document.bake, dabs: [], bits: 8, y: 'up', carriedPx: 0 } }, 'bake');
}

/** Bands that are to be cast: all, or those that differ from the last bake, whose texels are then there already. */
function toCast(
  document: AssetDocument,
  key: string,
  { prepared }: PreparedBake,
  texels: Texels,
): { bands: number[]; before: Found | null } {
  const all = Array.from({ length: Math.ceil(texels.size / BAND) }, (_, band) => band);
  const before = last?.key === key ? last : null;
  if (!before) return { bands: all, before };
  const touched = bandsTouched(prepared.pairs, before.dabs, document.bake.dabs, texels.size);
  for (const layer of LAYERS) texels[layer].set(before.texels[layer]);
  return { bands: touched, before };
}

/** Bakes in as many workers as there are: one prepares, all cast, one finishes. */
export const bakeTask: StageTask<'bake'> = {
  async make(making) {
    const { document, pool, blobs } = making;
    const laid = await blobs.get(making.input('unwrap').blobs.parts);
    const started = performance.now();
    const [prepare, cast, finish] = making.pace.parts('bake', [0.15, 0.75, 0.1]);
    const { bake, texels } = await making.work('prepare', { document, laid, meshes: await making.meshes('both') }, ...prepare);
    const prepared = performance.now();
    const key = keyOf(document);
    const { bands, before } = toCast(document, key, bake, texels);
    const list = new Int32Array(new SharedArrayBuffer(4 * bands.length));
    list.set(bands);
    const next = new Int32Array(new SharedArrayBuffer(4));
    const ask = { prepared: bake.prepared, texels, bands: list, next };
    const done = await Promise.all(Array.from({ length: pool.threads }, () => making.work('bands', ask, ...cast)));
    const counts = new Map(before?.counts);
    for (const { band, counts: c } of done.flat()) counts.set(band, c);
    texels.counts = noCounts(bake.prepared.pairs.length);
    for (const c of counts.values()) addCounts(texels.counts, c);
    if (texels.size <= LARGEST) last = { key, dabs: document.bake.dabs, texels, counts };
    const casted = performance.now();
    const seconds = (casted - started) / 1000;
    const made = await making.work('finish', { document, bake, texels, laid, seconds }, ...finish);
    if (!before) {
      // A bake of a few rows says nothing of how long one takes.
      making.pace.learnParts(
        'bake',
        [prepared - started, casted - prepared, performance.now() - casted].map((ms) => ms / 1000),
      );
      making.run.took?.((performance.now() - started) / 1000);
    }
    const figures: BakeFigures = { ...made.figures, ...(before && { anewShare: bands.length / Math.ceil(texels.size / BAND) }) };
    return {
      figures,
      files: bakeFiles(made.files) as Record<string, MadeFile>,
      trial: {
        ...bakeTrial(document, figures),
        ...(making.run.forecastSeconds !== undefined && !before && { forecastSeconds: making.run.forecastSeconds }),
      },
    };
  },
  view: async ({ name, figures, blobs }) => ({
    name,
    figures: figures as BakeFigures,
    files: blobs,
  }),
};
