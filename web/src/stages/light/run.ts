import { type AssetSession, sentence } from '@/session/session';
import { isFresh, type SheetState } from '@/session/state';
import type { Bytes, StageView } from '@/workers/protocol';

/** The parts a glimpse is made of: laid out where there is a fresh layout, else as formed. Null when there is nothing. */
export async function partsToSee(session: AssetSession): Promise<Bytes | null> {
  const { document, unwrap } = session.state;
  if (unwrap && isFresh(document, unwrap, 'unwrap')) return unwrap.parts;
  await session.formed();
  const { form } = session.state;
  return form && form.gpu.length > 0 ? form.parts : null;
}

/** Light and shot solved for the piece as it is now. */
export async function solveLight(session: AssetSession): Promise<StageView | null> {
  const parts = await partsToSee(session);
  const { document, surface } = session.state;
  if (!parts || !document) return null;
  return session.bench.pool.run('light', { document, parts, composed: isFresh(document, surface, 'surface') });
}

/** What the light and the shot are solved from, as a name: a solution of another name is of another moment. Null before there is anything. */
export const lightOf = ({ document, form, unwrap, surface }: SheetState): string | null =>
  document &&
  form &&
  JSON.stringify([form.name, unwrap?.name, surface?.name, document.rig, document.shot, document.parts.map((p) => [p.id, p.material])]);

/** Light and shot solved for the piece as it still is once they are: what is on screen may be of a moment ago. Null when that can’t be. */
async function solveStanding(session: AssetSession): Promise<StageView | null> {
  for (;;) {
    await session.formed();
    const before = lightOf(session.state);
    const view = await solveLight(session);
    if (before === lightOf(session.state)) return view;
  }
}

/** Does something with the light as it is solved for the piece as it stands, and says so when it can’t be solved. */
export async function withLight(session: AssetSession, act: (view: StageView) => void | Promise<void>): Promise<void> {
  try {
    const view = await solveStanding(session);
    if (view) await act(view);
  } catch (error) {
    session.notify(sentence(error), 'error');
  }
}

/** Locks the shot as it is and keeps it as a trial: what was chosen and what it came to. */
export const acceptShot = (session: AssetSession): Promise<void> => withLight(session, (view) => lock(session, view));

async function lock(session: AssetSession, view: StageView): Promise<void> {
  const { document } = session;
  if (!document || !session.dispatch({ type: 'shot.set', patch: { locked: true } })) return;
  // From now on the lamps are what they are.
  if (!document.rig.power) session.dispatch({ type: 'rig.set', patch: { power: view.rig.power } });
  const { shot, rig } = document;
  await session.addTrial({
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
      focusMm: view.shot.camera.focus,
      keyWatts: view.rig.figures[0].watts,
      fillWatts: view.rig.figures[1].watts,
      rimWatts: view.rig.figures[2].watts,
    },
    milliseconds: 0,
    snapshot: document,
  });
}
