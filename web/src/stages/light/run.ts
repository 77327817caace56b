import type { SetFiles } from '@wellmorph/core/pipeline/render';
import { blob } from '@/sheet/api';
import { dispatch } from '@/sheet/document';
import { currentForm } from '@/sheet/forming';
import { addTrial } from '@/sheet/jobs';
import { isFresh, now } from '@/sheet/state';
import { pool } from '@/workers/pool';
import type { Bytes, StageView } from '@/workers/protocol';

/** The parts a picture is made of: laid out where there is a fresh layout, else as formed. Null when there is nothing. */
export async function partsToSee(): Promise<Bytes | null> {
  const { document, layout } = now();
  if (layout && isFresh(document, layout, 'unwrap')) return layout.parts;
  const form = await currentForm();
  return form && form.gpu.length > 0 ? form.parts : null;
}

/** The textures a picture is drawn with: only those that are of the asset as it is. */
export async function setToSee(): Promise<SetFiles> {
  const { document, layout, surface, bake } = now();
  if (!isFresh(document, layout, 'unwrap')) return {};
  const composed = surface && isFresh(document, surface, 'surface');
  return {
    ...(composed && { baseColour: await blob(surface.baseColour), orm: await blob(surface.orm) }),
    ...(bake?.glbNormal && isFresh(document, bake, 'bake') && { normal: await blob(bake.glbNormal) }),
  };
}

/** Light and shot solved for the piece as it is now. */
export async function solveLight(): Promise<StageView | null> {
  const parts = await partsToSee();
  const { document, surface } = now();
  if (!parts || !document) return null;
  return pool.run('light', { document, parts, composed: isFresh(document, surface, 'surface') });
}

/** Locks the shot as it is and keeps it as a trial: what was chosen and what it came to. */
export async function acceptShot(view: StageView): Promise<void> {
  const { document } = now();
  if (!document || !dispatch({ type: 'shot.set', patch: { locked: true } })) return;
  const { shot, rig } = document;
  await addTrial({
    stage: 'light',
    title: `${shot.lensMm} mm, f/${view.shot.aperture}, ${rig.lamps.key.ratio} : ${rig.lamps.fill.ratio} : ${rig.lamps.rim.ratio}`,
    settings: {
      lens: shot.lensMm,
      azimuth: shot.azimuth,
      elevation: shot.elevation,
      margin: shot.margin,
      sharpShare: shot.sharpShare,
      seconds: shot.seconds,
      background: rig.background,
      surround: rig.surround,
      ratio: `${rig.lamps.key.ratio} : ${rig.lamps.fill.ratio} : ${rig.lamps.rim.ratio}`,
    },
    figures: {
      aperture: view.shot.aperture,
      nearestMm: view.shot.nearest,
      keyWatts: view.rig.figures[0].watts,
      fillWatts: view.rig.figures[1].watts,
      rimWatts: view.rig.figures[2].watts,
    },
    milliseconds: 0,
  });
}
