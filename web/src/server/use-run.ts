import { InputError } from '@wellmorph/core/errors';
import { applyCommand, type Command } from '@wellmorph/core/pipeline/commands/index';
import type { TakenUpTo } from '@wellmorph/core/pipeline/commands/state-take';
import { carried, isCarried } from '@wellmorph/core/plan/carried';
import { SETTABLE } from '@wellmorph/core/plan/settable';
import { assetState, type Changed, editAsset, type Origin } from './db/assets';
import { aboutPiece, runWhole } from './db/trials';

/** What came of using a run, and why each setting is what it is. */
export type Used = Changed & { reasons: string[]; stage: string };

/** The stage up to which a run’s state is taken: the light is kept with the picture it is for. */
export const upTo = (stage: string): TakenUpTo => (stage === 'light' ? 'render' : (stage as TakenUpTo));

/**
 * Sets a piece as a run was set. On the run’s own piece everything becomes as it was, so that it comes to the same bytes; on another one the
 * stage’s settings, made fit for its size.
 *
 * @param other one setting that another run’s value is taken of: the run that would tell two apart
 * @param own it has to be a run of this very piece
 * @throws InputError where the run, the piece or the run’s state isn’t there, or nothing of it can be had by another piece
 */
export async function useRunOn(
  run: string,
  asset: string,
  baseVersion: number,
  origin: Origin,
  { variant, other, own }: { variant?: string; other?: { run: string; key: string }; own?: boolean } = {},
): Promise<Used> {
  const { assetId, stage, title, document, figures } = await runWhole(run);
  if (own && assetId !== asset) throw new InputError('trial/missing', 'This piece has no such trial.');
  if (assetId === asset) {
    const state = other ? applyCommand(document, await settingOf(other, stage)).document : document;
    const take: Command = { type: 'state.take', stage: upTo(stage), title, state };
    const command: Command = variant ? { type: 'variant.edit', variant, edit: take } : take;
    return { ...(await editAsset(asset, baseVersion, command, origin)), reasons: [], stage };
  }
  if (!isCarried(stage)) throw new InputError('run/form', 'A form is a piece’s own; another piece can’t take it up.');
  const to = await assetState(asset);
  const [theirs, ours] = [await aboutPiece(document), await aboutPiece(to.document)];
  if (!theirs.sizeMm || !ours.sizeMm)
    throw new InputError(
      'run/size',
      'How large one of the two pieces is isn’t known yet; open it once, so that it is formed, and try again.',
    );
  const k = ours.sizeMm / theirs.sizeMm;
  // Of one size to a thousandth, nothing is to be scaled.
  const focus = typeof figures.focusMm === 'number' ? figures.focusMm : null;
  const { commands, reasons } = carried(stage, document, to.document, Math.abs(k - 1) < 1e-3 ? 1 : k, focus);
  if (commands.length === 0)
    throw new InputError('run/nothing', 'Nothing of this run can be had by that piece: no material of it has the same name.');
  const command: Command = { type: 'several', what: `took up the settings of “${title}”`.slice(0, 200), commands };
  return { ...(await editAsset(asset, baseVersion, command, origin)), reasons, stage };
}

/** The change that gives one setting as a run had it. @throws InputError where nobody can set it */
async function settingOf({ run, key }: { run: string; key: string }, stage: string): Promise<Command> {
  const settable = SETTABLE[stage]?.[key];
  if (!settable) throw new InputError('run/setting', 'That setting can’t be set by itself.');
  return settable.set((await runWhole(run)).document);
}
