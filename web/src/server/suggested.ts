import type { Command } from '@wellmorph/core/pipeline/commands/index';
import type { Suggestion } from '@wellmorph/core/plan/nearest';
import { suggestedFor } from '@wellmorph/core/plan/suggest';
import { assetState } from './db/assets';
import { judgedRuns } from './db/runs';
import { aboutPiece } from './db/trials';

/** What runs of other pieces that were kept suggest for a stage of this one. */
export async function suggested(asset: string, stage: string): Promise<(Suggestion & { command: Command })[]> {
  const { document } = await assetState(asset);
  return suggestedFor(document, await aboutPiece(document), stage, await judgedRuns(stage, asset));
}
