import { hashBytes } from '@wellmorph/core/hash';
import { readModel } from '@wellmorph/core/io/read';
import type { PolyMesh } from '@wellmorph/core/mesh/polymesh';
import { encodeParts } from '@wellmorph/core/pipeline/bundle';
import { picturesOf } from '@wellmorph/core/pipeline/came';
import { gatherOf } from '@wellmorph/core/pipeline/document';
import { formAsset } from '@wellmorph/core/pipeline/form';
import { documentFromModel } from '@wellmorph/core/pipeline/import';
import { unwrap, unwrapSettings } from '@wellmorph/core/pipeline/unwrap';
import { QUIET } from '@wellmorph/core/task';
import { expect, it } from 'vitest';
import { threeTextured } from '../../../core/test/textured';
import { gatherHandlers } from './gather';
import type { Work } from './protocol';

const shared = (values: readonly number[]): Int32Array => {
  const out = new Int32Array(new SharedArrayBuffer(4 * values.length));
  out.set(values);
  return out;
};

it('stopped on the way it keeps what it drew, and goes on from there to the same bytes', async () => {
  const meshes: PolyMesh[] = [];
  const kept = new Map<string, Uint8Array>();
  const model = await readModel('crate.glb', (await Promise.all(threeTextured()))[0]);
  const keepMesh = (m: PolyMesh) => String(meshes.push(m) - 1);
  const keepPicture = (b: Uint8Array) => {
    kept.set(hashBytes(b), b);
    return hashBytes(b);
  };
  const source = { fileName: 'crate.glb', licence: 'own', note: '' };
  const document = documentFromModel('Crate', model, source, keepMesh, undefined, keepPicture);
  document.unwrap = { ...document.unwrap, second: { on: true, size: 256, padding: 4 } };
  document.gather = { ...gatherOf(document), size: 256 };
  const formed = formAsset(document, 'low', (blob) => meshes[Number(blob)]).parts;
  const ask: Work['gatherPrepare']['ask'] = {
    document,
    formed: encodeParts(formed) as never,
    laid: encodeParts(unwrap(formed, unwrapSettings(document)).parts) as never,
    pictures: await picturesOf(document, (b) => kept.get(b) as Uint8Array),
    set: {},
  };
  const whole = await gatherHandlers.gatherPrepare(ask, QUIET, undefined);
  const bands = shared([0, 1, 2, 3, 4, 5, 6, 7]);
  await gatherHandlers.gatherBands({ ...whole, bands, next: shared([0]) }, QUIET, undefined);

  const begun = await gatherHandlers.gatherPrepare(ask, QUIET, undefined);
  let asked = 0;
  const stopping = { progress() {}, cancelled: () => asked++ >= 3 };
  const first = await gatherHandlers.gatherBands({ ...begun, bands, next: shared([0]) }, stopping, undefined);
  expect(first.map((d) => d.band)).toEqual([0, 1, 2]);
  expect(begun.gathered.baseColour).not.toEqual(whole.gathered.baseColour);
  const rest = shared([3, 4, 5, 6, 7]);
  const second = await gatherHandlers.gatherBands({ ...begun, bands: rest, next: shared([0]) }, QUIET, undefined);
  expect(second).toHaveLength(5);
  for (const map of ['baseColour', 'orm', 'normal', 'state'] as const) expect(begun.gathered[map]).toEqual(whole.gathered[map]);
  const counts = [...first, ...second].map((d) => d.counts).reduce((a, b) => ({ samples: a.samples + b.samples, lost: a.lost + b.lost }));
  const { figures } = await gatherHandlers.gatherFinish({ document, ...begun, counts, seconds: 1 }, QUIET, undefined);
  expect(figures.comparison.meanColourOff).toBeLessThan(2);
});
