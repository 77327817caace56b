import { pixelMm } from '@wellmorph/core/brief/advice';
import { readModel } from '@wellmorph/core/io/read';
import { inverse } from '@wellmorph/core/maths/mat4';
import { encodeMesh } from '@wellmorph/core/mesh/codec';
import { type PolyMesh, triangleCount } from '@wellmorph/core/mesh/polymesh';
import type { BakeFigures } from '@wellmorph/core/pipeline/bake';
import type { AssetDocument } from '@wellmorph/core/pipeline/document';
import { formAsset, type PartMesh } from '@wellmorph/core/pipeline/form';
import type { FormFigures } from '@wellmorph/core/pipeline/forming';
import { documentFromModel, intoPartSpace, pairHigh } from '@wellmorph/core/pipeline/import';
import type { RenderFigures } from '@wellmorph/core/pipeline/render';
import type { StoredResult } from '@wellmorph/core/pipeline/results';
import { solveAsset } from '@wellmorph/core/pipeline/solve';
import type { SurfaceFigures } from '@wellmorph/core/pipeline/surface';
import { bakeTrial, pictureTrial, surfaceTrial, type TrialWords, unwrapTrial } from '@wellmorph/core/pipeline/trials';
import type { LayoutFigures } from '@wellmorph/core/uv/measure';
import { keptCounts, keptLantern, keptPhoto, WRITTEN, withCounts } from '@wellmorph/demo/kept';
import { drawnOn, noticeBox, TAKEN } from '@wellmorph/demo/notice-box';
import { SALVAGED_MTL, salvagedGoods } from '@wellmorph/demo/salvage';
import { TIN_MTL, tinHigh, tinLow } from '@wellmorph/demo/tin';
import { keepBlob } from './blobs/store';
import { createAsset, listAssets } from './db/assets';
import { keepResult } from './db/results';
import { addTrial } from './db/trials';
import { openMeshes } from './import/meshes';
import { seedSeason } from './seed-season';

/**
 * Puts the demo's assets into an empty database: the lantern with everything that was made of it, the others as documents, which the
 * server forms as soon as it runs.
 *
 * @param light leaves the lantern's bake and what stands on it to whoever opens it, for tests
 */
export async function seedDemo(say: (line: string) => void, light: boolean): Promise<void> {
  if ((await listAssets()).length > 0) {
    say('The demo data is there already.');
    return;
  }
  await lantern(light);
  await createAsset(await importedTin());
  await createAsset(await salvaged());
  await createAsset(await photographed());
  const counts = await keptCounts();
  for (const [name, make] of Object.entries(WRITTEN)) if (name !== 'storm lantern') await createAsset(withCounts(make(), counts[name]));
  if (!light) await seedSeason();
}

/** The notice box, with its photographs. */
async function photographed(): Promise<AssetDocument> {
  const photos = await Promise.all(TAKEN.map(async (t) => drawnOn(t, await keepBlob(await keptPhoto(t.file), 'photo'))));
  return noticeBox(photos);
}

/** What the light demo has ready of the lantern. */
const LIGHT: readonly string[] = ['form', 'findings', 'unwrap'];

async function lantern(light: boolean): Promise<void> {
  const { document, whole } = await keptLantern();
  const results = whole.results.filter((r) => !light || LIGHT.includes(r.stage));
  const wanted = new Set(results.flatMap((r) => Object.values(r.blobs)));
  for (const [hash, { bytes, kind }] of whole.files) if (wanted.has(hash)) await keepBlob(bytes, kind);
  const picture = await keepBlob(whole.thumbnail, 'png');
  const id = await createAsset(document, picture);
  for (const { milliseconds, ...result } of results) {
    await keepResult(result);
    const words = wordsOf(document, result);
    if (words)
      await addTrial(id, {
        ...words,
        stage: result.stage,
        milliseconds,
        thumbnail: (result.stage === 'render' ? result.blobs.png : result.blobs.baseColour) ?? picture,
        resultName: result.name,
        snapshot: document,
      });
  }
}

/** How one of the lantern's results is told among its trials; null for what is none by itself. */
function wordsOf(document: AssetDocument, { stage, figures }: StoredResult): TrialWords | null {
  switch (stage) {
    case 'form': {
      const { ledger } = figures as FormFigures;
      const { triangles } = document.brief.limits;
      const { worstMm, worstLabel } = solveAsset(document);
      return {
        title: `Solved to ${triangles}`,
        settings: { limit: triangles, locked: 0 },
        figures: { triangles: ledger.triangles, worstMm, worstPx: worstMm / pixelMm(document.brief), worst: worstLabel },
      };
    }
    case 'unwrap':
      return unwrapTrial(document, figures as LayoutFigures);
    case 'bake':
      return bakeTrial(document, figures as BakeFigures);
    case 'surface':
      return surfaceTrial(document, figures as SurfaceFigures);
    case 'render':
      return pictureTrial(document, figures as RenderFigures);
    default:
      return null;
  }
}

/** Goods with what goes wrong on the way from another program, for the inspection. */
async function salvaged(): Promise<AssetDocument> {
  const bytes = (text: string) => new TextEncoder().encode(text);
  const model = await readModel('salvaged-goods.obj', bytes(salvagedGoods()), {
    unit: 'mm',
    companions: { 'salvaged-goods.mtl': bytes(SALVAGED_MTL) },
  });
  const kept = new Map<PolyMesh, string>();
  for (const p of model.parts) kept.set(p.mesh, await keepBlob(encodeMesh(p.mesh), 'mesh'));
  const source = { fileName: 'salvaged-goods.obj', licence: 'made for the demo', note: '' };
  const document = documentFromModel('Salvaged goods', model, source, (m) => kept.get(m) as string);
  return { ...document, brief: { ...document.brief, limits: { ...document.brief.limits, triangles: 3000 } } };
}

/** The tin as an import: OBJ and MTL through the same reader as an upload, the high mesh paired by name. */
async function importedTin(): Promise<AssetDocument> {
  const bytes = (text: string) => new TextEncoder().encode(text);
  const low = await readModel('biscuit-tin.obj', bytes(tinLow()), { unit: 'mm', companions: { 'biscuit-tin.mtl': bytes(TIN_MTL) } });
  const high = await readModel('biscuit-tin-high.obj', bytes(tinHigh()), { unit: 'mm', companions: { 'biscuit-tin.mtl': bytes(TIN_MTL) } });
  const kept = new Map<PolyMesh, string>();
  for (const p of low.parts) kept.set(p.mesh, await keepBlob(encodeMesh(p.mesh), 'mesh'));
  const document = documentFromModel(
    'Biscuit tin',
    low,
    { fileName: 'biscuit-tin.obj', licence: 'made for the demo', note: '' },
    (m) => kept.get(m) as string,
  );
  const parts = formAsset(document, 'low', await openMeshes(document)).parts;
  for (const { part, high: i, by } of pairHigh(parts, high.parts)) {
    const l = parts.find((p) => p.id === part) as PartMesh;
    const mesh = intoPartSpace(high.parts[i], inverse(l.placements[0]));
    const target = document.parts.find((p) => p.id === part);
    if (target)
      target.high = {
        blob: await keepBlob(encodeMesh(mesh), 'mesh'),
        triangles: triangleCount(mesh),
        name: high.parts[i].name,
        pairedBy: by,
      };
  }
  return document;
}
