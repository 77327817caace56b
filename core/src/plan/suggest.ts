import type { Command } from '../pipeline/commands/index';
import type { AssetDocument } from '../pipeline/document';
import { type About, type Judged, type Suggestion, suggestions } from './nearest';
import { SETTABLE, SUGGESTED } from './settable';

/** What the nearest kept runs suggest for a stage of a piece, each with the change that takes it. */
export function suggestedFor(
  document: AssetDocument,
  about: About,
  stage: string,
  runs: readonly Judged[],
): (Suggestion & { command: Command })[] {
  const settable = SETTABLE[stage] ?? {};
  const keys = SUGGESTED[stage] ?? [];
  const now = Object.fromEntries(keys.map((k) => [k, settable[k]?.now(document)]));
  return suggestions(about, stage, runs, keys, now).map((s) => ({ ...s, command: commandFor(document, stage, s) }));
}

/** The change that sets what is suggested: written through the same way as a run’s own setting is. */
function commandFor(document: AssetDocument, stage: string, { key, value }: Suggestion): Command {
  const like = structuredClone(document);
  if (stage === 'unwrap') Object.assign(like.unwrap, { [key]: value });
  else if (stage === 'bake') Object.assign(like.bake, { [key]: value });
  else if (key === 'samples') Object.assign(like.render, { samples: value, until: 'samples' });
  else if (key === 'surround') Object.assign(like.rig, { surround: value });
  else Object.assign(like.shot, { [key === 'lens' ? 'lensMm' : key]: value });
  return SETTABLE[stage][key].set(like);
}
