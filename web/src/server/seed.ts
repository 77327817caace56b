import { readModel } from '@wellmorph/core/io/read';
import { inverse } from '@wellmorph/core/maths/mat4';
import { encodeMesh } from '@wellmorph/core/mesh/codec';
import { type PolyMesh, triangleCount } from '@wellmorph/core/mesh/polymesh';
import { aboutParts, bake, bakeSettings } from '@wellmorph/core/pipeline/bake';
import { encodeParts } from '@wellmorph/core/pipeline/bundle';
import type { AssetDocument } from '@wellmorph/core/pipeline/document';
import { formAsset, type PartMesh } from '@wellmorph/core/pipeline/form';
import { formAndInspect } from '@wellmorph/core/pipeline/forming';
import { documentFromModel, intoPartSpace, pairHigh } from '@wellmorph/core/pipeline/import';
import { unlabelled } from '@wellmorph/core/pipeline/labels';
import { Memory } from '@wellmorph/core/pipeline/memory';
import { inputsOf, type Kept, nameOf } from '@wellmorph/core/pipeline/results';
import { solveAsset, solveFormed } from '@wellmorph/core/pipeline/solve';
import { composeAsset } from '@wellmorph/core/pipeline/surface';
import { unwrap, unwrapSettings } from '@wellmorph/core/pipeline/unwrap';
import { assetThumbnail } from '@wellmorph/core/plate/asset';
import { layoutPng, layoutSvg } from '@wellmorph/core/plate/layout';
import { aneroidGauge } from '@wellmorph/demo/gauge';
import { stormLantern } from '@wellmorph/demo/lantern';
import { RECIPES } from '@wellmorph/demo/pieces';
import { SALVAGED_MTL, salvagedGoods } from '@wellmorph/demo/salvage';
import { TIN_MTL, tinHigh, tinLow } from '@wellmorph/demo/tin';
import { keepBlob } from './blobs/store';
import { createAsset, listAssets } from './db/assets';
import { keepResult, type StoredResult } from './db/results';
import { addTrial } from './db/trials';
import { openMeshes } from './import/import';
import { kits } from './kit';

/**
 * Puts the demo's assets into an empty database, with results computed here and now by the same core as everywhere.
 *
 * @param light leaves the lantern's bake to whoever opens it, for tests
 */
export async function seedDemo(say: (line: string) => void, light: boolean): Promise<void> {
  if ((await listAssets()).length > 0) {
    say('The demo data is there already.');
    return;
  }
  say('Forming the storm lantern …');
  const lantern = stormLantern();
  const budget = solveAsset(lantern);
  const solved: AssetDocument = { ...lantern, form: { ...lantern.form, counts: budget.counts } };
  await settle(
    solved,
    {
      unwrapped: true,
      baked: !light,
      trial: {
        title: `Solved to ${lantern.brief.limits.triangles}`,
        figures: { triangles: budget.triangles, worstMm: budget.worstMm, worst: budget.worstLabel },
      },
    },
    say,
  );
  say('Reading the biscuit tin, low and high …');
  await settle(await importedTin(), { unwrapped: false, baked: false }, say);
  say('Forming the aneroid gauge …');
  say('Reading the salvaged goods …');
  await settle(await salvaged(), { unwrapped: false, baked: false }, say);
  const gauge = aneroidGauge();
  await settle({ ...gauge, form: { ...gauge.form, counts: solveAsset(gauge).counts } }, { unwrapped: false, baked: false }, say);
  for (const [name, make] of Object.entries(RECIPES)) {
    say(`Forming the ${name} …`);
    const document = make();
    const [kit, load] = [await kits.for(document), await openMeshes(document)];
    const { counts } = solveFormed(document, (d) => formAsset(d, 'low', load, undefined, kit));
    await settle({ ...document, form: { ...document.form, counts } }, { unwrapped: false, baked: false }, say);
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

/** Keeps a result under the name its document gives it. */
async function keep(
  document: AssetDocument,
  stage: Kept,
  figures: unknown,
  files: Record<string, readonly [bytes: Uint8Array, kind: string] | undefined>,
): Promise<StoredResult> {
  const blobs: Record<string, string> = {};
  for (const [key, file] of Object.entries(files)) if (file) blobs[key] = await keepBlob(...file);
  const inputs = inputsOf(document, stage).map((kind) => kind && nameOf(document, kind));
  return keepResult({ name: nameOf(document, stage), stage, inputs, figures, blobs });
}

const png = (bytes: Uint8Array | undefined) => bytes && ([bytes, 'png'] as const);
const seconds = () => performance.now() / 1000;

async function settle(
  document: AssetDocument,
  wanted: { unwrapped: boolean; baked: boolean; trial?: { title: string; figures: Record<string, number | string> } },
  say: (line: string) => void,
): Promise<void> {
  const load = await openMeshes(document);
  const start = performance.now();
  const kit = await kits.for(document);
  const memory = new Memory();
  const bare = unlabelled(document);
  const formed = formAndInspect(document, load, memory, kit);
  const { parts, aids } = formed.result;
  const picture = await keepBlob(assetThumbnail(document, parts), 'png');
  const id = await createAsset(document, picture);
  const form = await keep(document, 'form', formed.figures, {
    parts: [formed.parts, 'parts'],
    aids: aids.length > 0 ? [formed.aids, 'parts'] : undefined,
  });
  await keep(document, 'findings', formed.found, {});
  const kept = { snapshot: document, thumbnail: picture };
  if (wanted.trial)
    await addTrial(id, {
      ...kept,
      stage: 'form',
      title: wanted.trial.title,
      settings: { limit: document.brief.limits.triangles, locked: 0 },
      figures: wanted.trial.figures,
      milliseconds: Math.round(performance.now() - start),
      resultName: form.name,
    });
  if (!wanted.unwrapped) return;

  say('  unwrapping …');
  const unwrapStart = performance.now();
  const size = document.brief.limits.textureSize;
  const laid = unwrap(parts, unwrapSettings(bare));
  const layout = await keep(document, 'unwrap', laid.figures, {
    parts: [encodeParts(laid.parts), 'parts'],
    png: png(layoutPng(laid.parts, size)),
    svg: [new TextEncoder().encode(layoutSvg(laid.parts, size)), 'svg'],
  });
  const { islands, stretchL2, coverage, density } = laid.figures;
  await addTrial(id, {
    ...kept,
    stage: 'unwrap',
    title: `Padding ${document.unwrap.padding}, ${size} px`,
    settings: { ...document.unwrap, size },
    figures: { islands, stretchL2, coverage, density },
    milliseconds: Math.round(performance.now() - unwrapStart),
    resultName: layout.name,
  });
  if (!wanted.baked) return;

  say('  baking its maps (about a minute, once) …');
  const bakeStart = performance.now();
  const made = await bake(
    laid.parts,
    formAsset(bare, 'high', load, memory, kit).parts,
    aboutParts(bare.parts),
    bakeSettings(bare),
    seconds,
  );
  const { normal, occlusion, curvature } = made.files;
  const baked = await keep(document, 'bake', made.figures, {
    normal: png(normal),
    occlusion: png(occlusion),
    glbNormal: png(made.glbNormal),
    curvature: png(curvature),
  });
  const f = made.figures;
  await addTrial(id, {
    ...kept,
    stage: 'bake',
    title: 'Measured, 2 × 2',
    settings: { ...document.bake, size },
    figures: {
      missedPercent: f.missedShare * 100,
      meanDegrees: f.judgement?.mean ?? 0,
      p95Degrees: f.judgement?.p95 ?? 0,
      worstDegrees: f.judgement?.worst ?? 0,
    },
    milliseconds: Math.round(performance.now() - bakeStart),
    resultName: baked.name,
  });

  say('  composing its textures …');
  const { files, figures } = composeAsset(bare, laid.parts, made.files, size, seconds);
  await keep(document, 'surface', figures, {
    baseColour: png(files.baseColour),
    orm: png(files.orm),
    validity: png(files.validity),
    emissive: png(files.emissive),
  });
}
