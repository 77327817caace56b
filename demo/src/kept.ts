import { readFile } from 'node:fs/promises';
import type { Kit } from '@wellmorph/core/kit';
import { openAsset, resultsIn } from '@wellmorph/core/pipeline/asset-file';
import type { AssetDocument } from '@wellmorph/core/pipeline/document';
import { formAsset } from '@wellmorph/core/pipeline/form';
import { solveFormed } from '@wellmorph/core/pipeline/solve';
import { makeWhole, type Whole } from '@wellmorph/core/pipeline/whole';
import type { Task } from '@wellmorph/core/task';
import { aneroidGauge } from './gauge';
import { stormLantern } from './lantern';
import { RECIPES } from './pieces';

/**
 * What comes ready with the demo: the counts every piece was solved to, and the lantern with all that was made of it. Written by
 * `npm run keep`; a test holds it against a fresh run.
 */
export const FILES = { counts: 'counts.json', lantern: 'storm-lantern.zip' };
const kept = (file: string) => readFile(new URL(`../kept/${file}`, import.meta.url));

type Counts = AssetDocument['form']['counts'];
const noMeshes = () => {
  throw new Error('Pieces made of steps need no stored mesh.');
};
/** Every piece of the demo that is made of steps, by name, as it was written down. */
export const WRITTEN: Readonly<Record<string, () => AssetDocument>> = {
  'storm lantern': stormLantern,
  'aneroid gauge': aneroidGauge,
  ...RECIPES,
};
export const withCounts = (document: AssetDocument, counts: Counts): AssetDocument => ({
  ...document,
  form: { ...document.form, counts },
});

/** The lantern as it is kept: with its counts, and a picture of a size that is drawn in minutes on one thread. */
export function lanternWith(counts: Counts): AssetDocument {
  const document = withCounts(stormLantern(), counts);
  return {
    ...document,
    shot: { ...document.shot, widthPx: 640, heightPx: 800 },
    render: { ...document.render, samples: 48 },
  };
}

/** The counts that spend each piece's triangles where its outline needs them. */
export const solveCounts = (kit: Kit): Record<string, Counts> =>
  Object.fromEntries(
    Object.entries(WRITTEN).map(([name, make]) => [name, solveFormed(make(), (d) => formAsset(d, 'low', noMeshes, undefined, kit)).counts]),
  );

/** The counts as they were kept. */
export const keptCounts = async (): Promise<Record<string, Counts>> => JSON.parse((await kept(FILES.counts)).toString('utf8'));

/** Everything made of the lantern, from its form to its picture, here and now. */
export const makeLantern = (document: AssetDocument, kit: Kit, task?: Task): Promise<Whole> =>
  makeWhole(document, noMeshes, kit, 'render', () => performance.now() / 1000, task);

/** The lantern as it was kept. */
export async function keptLantern(): Promise<{ document: AssetDocument; whole: Whole }> {
  const bytes = new Uint8Array(await kept(FILES.lantern));
  const { document } = openAsset(FILES.lantern, bytes);
  return { document, whole: resultsIn(document, bytes) };
}

/** A photograph that ships with the demo, see `npm run photograph`. */
export const keptPhoto = async (file: string): Promise<Uint8Array> => new Uint8Array(await kept(file));
