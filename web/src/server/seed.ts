import { readModel } from '@wellmorph/core/io/model';
import { inverse } from '@wellmorph/core/maths/mat4';
import { encodeMesh } from '@wellmorph/core/mesh/codec';
import { type PolyMesh, triangleCount } from '@wellmorph/core/mesh/polymesh';
import { bake, bakeSettings, rolesOf } from '@wellmorph/core/pipeline/bake';
import { encodeParts } from '@wellmorph/core/pipeline/bundle';
import type { AssetDocument } from '@wellmorph/core/pipeline/document';
import { fallbackTolerance, formAsset, type PartMesh } from '@wellmorph/core/pipeline/form';
import { documentFromModel, intoPartSpace, pairHigh } from '@wellmorph/core/pipeline/import';
import { inspectAsset, ledgerOf } from '@wellmorph/core/pipeline/inspect';
import { Memory } from '@wellmorph/core/pipeline/memory';
import { findingsHash, resultHash } from '@wellmorph/core/pipeline/results';
import { measuredOf, solveAsset, solveFormed, trianglesAtTolerance } from '@wellmorph/core/pipeline/solve';
import { standingsOf } from '@wellmorph/core/pipeline/standings';
import { composeAsset } from '@wellmorph/core/pipeline/surface';
import { unwrap, unwrapSettings } from '@wellmorph/core/pipeline/unwrap';
import { assetThumbnail } from '@wellmorph/core/plate/asset';
import { layoutPng, layoutSvg } from '@wellmorph/core/plate/layout';
import { QUIET } from '@wellmorph/core/task';
import { aneroidGauge } from '@wellmorph/demo/gauge';
import { stormLantern } from '@wellmorph/demo/lantern';
import { RECIPES } from '@wellmorph/demo/pieces';
import { SALVAGED_MTL, salvagedGoods } from '@wellmorph/demo/salvage';
import { TIN_MTL, tinHigh, tinLow } from '@wellmorph/demo/tin';
import { keepBlob } from './blobs/store';
import { createAsset, listAssets } from './db/assets';
import { keepResult } from './db/results';
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

async function settle(
  document: AssetDocument,
  wanted: { unwrapped: boolean; baked: boolean; trial?: { title: string; figures: Record<string, number | string> } },
  say: (line: string) => void,
): Promise<void> {
  const load = await openMeshes(document);
  const start = performance.now();
  const kit = await kits.for(document);
  const memory = new Memory();
  const formed = formAsset(document, 'low', load, memory, kit);
  const ledger = ledgerOf(formed.parts, document);
  const standings = standingsOf(document, formed.parts, memory);
  const picture = await keepBlob(assetThumbnail(document, formed.parts), 'png');
  const id = await createAsset(document, picture);
  const neededTriangles = trianglesAtTolerance(document, fallbackTolerance(document), measuredOf(document, formed)).triangles;
  await keepResult(id, {
    stage: 'form',
    hash: resultHash(document, 'form'),
    figures: {
      ledger,
      findings: inspectAsset(document, formed, ledger, QUIET, memory, standings),
      neededTriangles,
      marks: formed.marks,
      strewn: formed.strewn,
      steps: formed.steps,
      standings,
      about: findingsHash(document),
    },
    blobs: {
      parts: await keepBlob(encodeParts(formed.parts), 'parts'),
      ...(formed.aids.length > 0 && { aids: await keepBlob(encodeParts(formed.aids), 'parts') }),
    },
  });
  if (wanted.trial)
    await addTrial(id, {
      stage: 'form',
      title: wanted.trial.title,
      settings: { limit: document.brief.limits.triangles, locked: 0 },
      figures: wanted.trial.figures,
      milliseconds: Math.round(performance.now() - start),
      thumbnail: picture,
    });
  if (!wanted.unwrapped) return;

  say('  unwrapping …');
  const unwrapStart = performance.now();
  const size = document.brief.limits.textureSize;
  const laid = unwrap(formed.parts, unwrapSettings(document));
  const blobs = {
    parts: await keepBlob(encodeParts(laid.parts), 'parts'),
    png: await keepBlob(layoutPng(laid.parts, size), 'png'),
    svg: await keepBlob(new TextEncoder().encode(layoutSvg(laid.parts, size)), 'svg'),
  };
  await keepResult(id, { stage: 'unwrap', hash: resultHash(document, 'unwrap'), figures: laid.figures, blobs });
  const { islands, stretchL2, coverage, density } = laid.figures;
  await addTrial(id, {
    stage: 'unwrap',
    title: `Padding ${document.unwrap.padding}, ${size} px`,
    settings: { ...document.unwrap, size },
    figures: { islands, stretchL2, coverage, density },
    milliseconds: Math.round(performance.now() - unwrapStart),
    thumbnail: picture,
  });
  if (!wanted.baked) return;

  say('  baking its maps (about a minute, once) …');
  const bakeStart = performance.now();
  const made = await bake(
    laid.parts,
    formAsset(document, 'high', load, memory, kit).parts,
    rolesOf(document.parts),
    bakeSettings(document),
    () => performance.now() / 1000,
  );
  const { normal, occlusion, curvature } = made.files;
  const maps = {
    normal: normal && (await keepBlob(normal, 'png')),
    occlusion: occlusion && (await keepBlob(occlusion, 'png')),
    glbNormal: made.glbNormal && (await keepBlob(made.glbNormal, 'png')),
    curvature: curvature && (await keepBlob(curvature, 'png')),
  };
  await keepResult(id, {
    stage: 'bake',
    hash: resultHash(document, 'bake'),
    figures: made.figures,
    blobs: Object.fromEntries(Object.entries(maps).filter((e): e is [string, string] => typeof e[1] === 'string')),
  });
  const f = made.figures;
  await addTrial(id, {
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
    thumbnail: picture,
  });

  say('  composing its textures …');
  const { files, figures } = composeAsset(document, laid.parts, made.files, size, () => performance.now() / 1000);
  const [baseColour, orm, validity] = [
    await keepBlob(files.baseColour, 'png'),
    await keepBlob(files.orm, 'png'),
    await keepBlob(files.validity, 'png'),
  ];
  const emissive = files.emissive && (await keepBlob(files.emissive, 'png'));
  await keepResult(id, {
    stage: 'surface',
    hash: resultHash(document, 'surface'),
    figures,
    blobs: { baseColour, orm, validity, ...(emissive && { emissive }) },
  });
}
