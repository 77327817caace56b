import { FURTHER_MAPS } from '@wellmorph/core/bake/maps/further';
import { allFindings } from '@wellmorph/core/pipeline/all-findings';
import type { BakeFile, BakeFiles } from '@wellmorph/core/pipeline/bake';
import { isAllCame, picturesOfCame } from '@wellmorph/core/pipeline/came';
import { type AssetDocument, gatherOf, projectOf } from '@wellmorph/core/pipeline/document';
import { fileName } from '@wellmorph/core/pipeline/export';
import { furtherFiles } from '@wellmorph/core/pipeline/further-files';
import type { GatheredSet } from '@wellmorph/core/pipeline/gathered';
import type { HandoffMaps } from '@wellmorph/core/pipeline/handoff';
import { labelledSvg } from '@wellmorph/core/pipeline/labels';
import type { AssetState, KeptBeside } from '@wellmorph/core/pipeline/preflight';
import { nameOf, STAGES, type Stage } from '@wellmorph/core/pipeline/results';
import { handoffTrial } from '@wellmorph/core/pipeline/trials';
import { calledAs, variantName } from '@wellmorph/core/pipeline/variants';
import type { Snag } from '@/server/db/snags';
import type { Spent } from '@/server/db/spent';
import { get } from '@/session/api';
import type { BakeView } from '@/session/kept';
import type { Run } from '@/session/run-stage';
import type { AssetSession } from '@/session/session';
import { isFresh, type SheetState } from '@/session/state';
import { STATIONS } from '@/shared/stations';
import { WorkError } from '@/workers/pool';
import type { Bytes } from '@/workers/protocol';
import { contactPictures, looksOf, makeSets, picturesOf, sheetAs } from '../variants/run';

/** Everything that is known of an asset, for the preflight and the spec sheet. */
export function assetState(sheet: SheetState): AssetState | null {
  const { document, form, unwrap, bake, surface, render } = sheet;
  if (!document) return null;
  const fresh = Object.fromEntries(STAGES.map((stage) => [stage, isFresh(document, sheet[stage], stage)])) as Record<Stage, boolean>;
  return {
    document,
    findings: allFindings(document, sheet),
    ledger: form?.ledger ?? null,
    fresh,
    layout: fresh.unwrap ? (unwrap?.figures ?? null) : null,
    bake: fresh.bake ? (bake?.figures ?? null) : null,
    surface: fresh.surface ? (surface?.figures ?? null) : null,
    render: fresh.render ? (render?.figures ?? null) : null,
    project: sheet.project && { figures: sheet.project.figures, fresh: isFresh(document, sheet.project, 'project') },
    gather: sheet.gather && { figures: sheet.gather.figures, fresh: isFresh(document, sheet.gather, 'gather') },
  };
}

/** What was kept beside the piece: time, runs, open snags, advice that was taken. Nothing is handed over without it being asked for. */
export async function keptBeside(session: AssetSession): Promise<KeptBeside> {
  const [spent, snags] = await Promise.all([
    get<Spent[]>(`/api/assets/${session.id}/time`),
    get<Snag[]>(`/api/assets/${session.id}/snags`),
    session.readHistory(),
  ]);
  return {
    work: STATIONS.map(({ id, name }) => ({ stage: name, minutes: spent.reduce((n, s) => n + (s.stage === id ? s.minutes : 0), 0) })),
    machineMinutes: session.state.trials.reduce((n, t) => n + t.milliseconds, 0) / 60_000,
    snags: snags.filter((s) => !s.doneAt).map(({ words, minutes }) => ({ words, minutes })),
    advice: session.state.history.flatMap(({ advice, words, undone }) => (advice && !undone ? [{ said: advice, did: words }] : [])),
  };
}

/** Further maps of a bake, with those that keep their values beside their picture. */
async function furtherOf(session: AssetSession, files: BakeView['files']): Promise<BakeFiles> {
  const names = FURTHER_MAPS.flatMap((m): BakeFile[] => [m, `${m}Exr` as BakeFile]).filter((n) => files[n]);
  return Object.fromEntries(await Promise.all(names.map(async (n) => [n, await session.bench.blobs.get(files[n] as string)] as const)));
}

/** The maps of the asset as it is; nothing stale goes out. */
async function freshMaps(
  session: AssetSession,
  { document, bake, surface, render }: SheetState,
  fresh: Record<Stage, boolean>,
): Promise<HandoffMaps> {
  const take = async (hash: string | null | undefined) => (hash ? await session.bench.blobs.get(hash) : undefined);
  return {
    ...(fresh.bake &&
      bake && {
        normal: await take(bake.files.normal),
        glbNormal: await take(bake.files.glbNormal),
        occlusion: await take(bake.files.occlusion),
        further: await furtherOf(session, bake.files),
      }),
    ...(fresh.surface &&
      surface &&
      !(document && isAllCame(document)) && {
        baseColour: await take(surface.baseColour),
        orm: await take(surface.orm),
        emissive: await take(surface.emissive),
        coat: await take(surface.coat),
        clear: await take(surface.clear),
        relief: await take(surface.normal),
      }),
    ...(document && { pictures: await picturesOfCame(document, (blob) => session.bench.blobs.get(blob)) }),
    ...(fresh.render && render && { picture: await take(render.png) }),
  };
}

/** The set a piece is handed over with, gathered or from photographs, where one is wanted and is of the piece as it is. */
async function gatheredOf(session: AssetSession, { document, gather, project, unwrap }: SheetState): Promise<GatheredSet | null> {
  if (!document) return null;
  const set =
    project && projectOf(document).on && isFresh(document, project, 'project')
      ? {
          figures: { ...project.figures, photographed: { unlit: projectOf(document).unlit } },
          files: { baseColour: project.files.baseColour },
        }
      : gather && gatherOf(document).on && isFresh(document, gather, 'gather')
        ? gather
        : null;
  if (!set) return null;
  // It lies on the layout, which may still be on its way into view.
  if (!isFresh(document, unwrap, 'unwrap')) return null;
  const { blobs } = session.bench;
  const files = Object.fromEntries(
    await Promise.all(Object.entries(set.files).map(async ([map, hash]) => [map, await blobs.get(hash)] as const)),
  );
  return { figures: set.figures, files };
}

/** What is in view, once it is formed from the document the work began with. */
async function settled(session: AssetSession): Promise<SheetState> {
  await session.formed();
  const sheet = session.state;
  if (!sheet.form || sheet.form.gpu.length === 0)
    throw new WorkError('handoff/empty', 'There is nothing to hand over yet; form the piece first.');
  return sheet;
}

/** The archive of what the asset comes to, made whole or not at all. */
export async function makeArchive(
  session: AssetSession,
): Promise<{ name: string; zip: Bytes; files: { name: string; bytes: number; what: string }[]; without: string[] } | null> {
  return session.job('handoff', async (run) => {
    const shown = await settled(session);
    const all = shown.piece?.variants && shown.piece.handoff.variants ? looksOf(shown.piece) : null;
    const sheets = all ? await sheetsOf(session, run, all) : [shown];
    const kept = await keptBeside(session);
    const pieces = await Promise.all(sheets.map((sheet) => packed(session, sheet, kept)));
    const pictures = all && pieces[0].state.document.handoff.include.picture ? await picturesOf(session, all) : [];
    const ask = { pieces, pictures: await contactPictures(session, pictures), madeOn: new Date().toISOString().slice(0, 10) };
    const share = all ? 0.5 : 0;
    const began = performance.now();
    const { levelSeconds, ...made } = await session.bench.pool.run(
      'handoff',
      ask,
      (s, w) => run.report(share + (1 - share) * s, w),
      run.cancel,
    );
    // Of what was packed, whatever was changed while it was.
    const document = (all ? shown.piece : shown.document) ?? run.document;
    const { title, ...words } = handoffTrial(document, made.files, levelSeconds);
    const variant = variantName(document);
    void session.addTrial({
      stage: 'hand-off',
      ...words,
      title: variant ? `${variant}: ${title}`.slice(0, 120) : title,
      milliseconds: Math.round(performance.now() - began),
      snapshot: document,
    });
    const name = all && shown.piece ? shown.piece.name : pieces[0].state.document.name;
    return { name: `${fileName(name)}.zip`, ...made, without: pictures.flatMap((p) => (p.png ? [] : [p.name])) };
  });
}

/** What is known of each look. Where sets of some are composed, those of the others are as well. */
async function sheetsOf(session: AssetSession, run: Run, looks: readonly AssetDocument[]): Promise<SheetState[]> {
  const named = await Promise.all(looks.map((d) => session.bench.results.named(nameOf(d, 'surface'))));
  if (named.some(Boolean)) await makeSets({ ...run, report: (s, w) => run.report(0.45 * s, w) }, looks, session);
  for (const document of looks) await session.stage({ ...run, document, report: () => {} }, 'findings');
  return Promise.all(looks.map((look) => sheetAs(session, look)));
}

/** A look with its maps, called after it. */
async function packed(
  session: AssetSession,
  sheet: SheetState,
  kept: KeptBeside,
): Promise<{ state: AssetState; parts: Bytes; maps: HandoffMaps }> {
  const state = assetState(sheet);
  const parts = sheet.unwrap && isFresh(sheet.document, sheet.unwrap, 'unwrap') ? sheet.unwrap.parts : sheet.form?.parts;
  if (!state || !parts) throw new WorkError('handoff/empty', 'There is nothing to hand over yet; form the piece first.');
  const gathered = await gatheredOf(session, sheet);
  const maps = { ...(await freshMaps(session, sheet, state.fresh)), ...(gathered && { gathered }) };
  return { state: { ...state, kept, document: { ...state.document, name: calledAs(state.document) } }, parts, maps };
}

/** The files of the hand-over from the bake's own page: GLB with maps, the maps, the layout. */
export async function exportFiles(session: AssetSession): Promise<{ name: string; bytes: Bytes }[] | null> {
  return session.job('export', async (run) => {
    const sheet = await settled(session);
    const { document, form, unwrap, bake } = sheet;
    if (!document || !form) throw new WorkError('export/empty', 'There is nothing to export yet.');
    const { blobs, pool } = session.bench;
    const freshLayout = isFresh(document, unwrap, 'unwrap') ? unwrap : null;
    const freshBake = isFresh(document, bake, 'bake') ? bake : null;
    run.report(0.2, 'writing the GLB');
    const normal = freshBake?.files.glbNormal ? await blobs.get(freshBake.files.glbNormal) : null;
    const occlusion = freshBake?.files.occlusion ? await blobs.get(freshBake.files.occlusion) : null;
    const pictures = await picturesOfCame(document, (blob) => blobs.get(blob));
    const gathered = freshLayout && (await gatheredOf(session, sheet));
    const { glb } = await pool.run(
      'export',
      { document, laid: freshLayout?.parts ?? form.parts, normal, occlusion, pictures, gathered },
      undefined,
      run.cancel,
    );
    const base = fileName(calledAs(document));
    const files: { name: string; bytes: Bytes }[] = [{ name: `${base}.glb`, bytes: glb }];
    if (freshBake?.files.normal) files.push({ name: `${base}_normal.png`, bytes: await blobs.get(freshBake.files.normal) });
    if (occlusion) files.push({ name: `${base}_occlusion.png`, bytes: occlusion });
    if (freshBake)
      for (const { name, bytes } of furtherFiles(await furtherOf(session, freshBake.files), freshBake.figures))
        files.push({ name: `${base}_${name}`, bytes: bytes as Bytes });
    if (freshLayout)
      files.push(
        { name: `${base}_layout.png`, bytes: await blobs.get(freshLayout.png) },
        { name: `${base}_layout.svg`, bytes: labelledSvg(await blobs.get(freshLayout.svg), document) },
      );
    return files;
  });
}
