import { applyCommand } from '@wellmorph/core/pipeline/commands/index';
import type { AssetDocument } from '@wellmorph/core/pipeline/document';
import type { Entry } from './lane-store';

/**
 * The document as it will be once everything asked for is done: the server’s, with each change that waits laid over it. One that can’t
 * be applied changes nothing; the server’s answer will say why. Undo takes back changes that wait too; of what the server alone knows
 * the outcome of, it is shown when it comes.
 *
 * @returns the document after each entry
 */
export function fold(server: AssetDocument, entries: readonly Entry[]): AssetDocument[] {
  const undone: AssetDocument[] = [];
  const made = [server];
  return entries.map(({ wish }) => {
    const here = made[made.length - 1];
    if (wish.kind === 'edit') {
      try {
        made.push(applyCommand(here, wish.command).document);
        undone.length = 0;
      } catch {
        // Said by whoever asked for it, or by the server.
      }
    } else if (wish.kind === 'undo' && made.length > 1) undone.push(made.pop() as AssetDocument);
    else if (wish.kind === 'redo' && undone.length > 0) made.push(undone.pop() as AssetDocument);
    return made[made.length - 1];
  });
}
