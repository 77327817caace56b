import 'reflect-metadata';
import { enablePatches, type Patch, produceWithPatches } from 'immer';
import type { AssetDocument } from '../document';
import { bakeSet } from './bake-set';
import { briefSet } from './brief-set';
import type { CommandKind } from './command';
import { dimensionRemove } from './dimension-remove';
import { dimensionSet } from './dimension-set';
import { formCounts } from './form-counts';
import { formLock } from './form-lock';
import { formShare } from './form-share';
import { formTie } from './form-tie';
import { gatherSet } from './gather-set';
import { groupMove } from './group-move';
import { groupRemove } from './group-remove';
import { groupSet } from './group-set';
import { handoffSet } from './handoff-set';
import { highPair } from './high-pair';
import { highParts } from './high-parts';
import { findKindsBy } from './inner';
import { islandsLay } from './islands-lay';
import { islandsPlace } from './islands-place';
import { materialAdd } from './material-add';
import { materialFollow } from './material-follow';
import { materialRemove } from './material-remove';
import { materialSet } from './material-set';
import { materialStroke } from './material-stroke';
import { meshReplace } from './mesh-replace';
import { partAdd } from './part-add';
import { partCopy } from './part-copy';
import { partMove } from './part-move';
import { partRemove } from './part-remove';
import { partSet } from './part-set';
import { partsAnew } from './parts-anew';
import { partsBring } from './parts-bring';
import { partsMove } from './parts-move';
import { photoRemove } from './photo-remove';
import { photoSet } from './photo-set';
import { printMove } from './print-move';
import { printRemove } from './print-remove';
import { printSet } from './print-set';
import { projectSet } from './project-set';
import { referenceRemove } from './reference-remove';
import { referenceSet } from './reference-set';
import { regionRemove } from './region-remove';
import { regionSet } from './region-set';
import { relationRemove } from './relation-remove';
import { relationSet } from './relation-set';
import { rename } from './rename';
import { renderSet } from './render-set';
import { rigSet } from './rig-set';
import { seamsSet } from './seams-set';
import { several } from './several';
import { shotSet } from './shot-set';
import { stateTake } from './state-take';
import { stepAdd } from './step-add';
import { stepMove } from './step-move';
import { stepRemove } from './step-remove';
import { stepSet } from './step-set';
import { stepShare } from './step-share';
import { surfaceSet } from './surface-set';
import { travelSet } from './travel-set';
import { unwaive } from './unwaive';
import { unwrapSet } from './unwrap-set';
import { variantBack } from './variant-back';
import { variantEdit } from './variant-edit';
import { variantRemove } from './variant-remove';
import { variantSet } from './variant-set';
import { waive } from './waive';

enablePatches();

/** Every kind of change there is. */
const KINDS = {
  rename,
  'brief.set': briefSet,
  'part.add': partAdd,
  'part.remove': partRemove,
  'part.copy': partCopy,
  'part.move': partMove,
  'part.set': partSet,
  'group.set': groupSet,
  'group.remove': groupRemove,
  'group.move': groupMove,
  'step.add': stepAdd,
  'step.set': stepSet,
  'step.share': stepShare,
  'step.remove': stepRemove,
  'step.move': stepMove,
  'dimension.set': dimensionSet,
  'dimension.remove': dimensionRemove,
  'reference.set': referenceSet,
  'reference.remove': referenceRemove,
  'region.set': regionSet,
  'region.remove': regionRemove,
  'parts.move': partsMove,
  'travel.set': travelSet,
  'relation.set': relationSet,
  'relation.remove': relationRemove,
  'seams.set': seamsSet,
  'islands.lay': islandsLay,
  'islands.place': islandsPlace,
  'form.counts': formCounts,
  'form.lock': formLock,
  'form.share': formShare,
  'form.tie': formTie,
  'unwrap.set': unwrapSet,
  'bake.set': bakeSet,
  'gather.set': gatherSet,
  'photo.set': photoSet,
  'photo.remove': photoRemove,
  'project.set': projectSet,
  'material.add': materialAdd,
  'material.set': materialSet,
  'material.stroke': materialStroke,
  'material.follow': materialFollow,
  'material.remove': materialRemove,
  'surface.set': surfaceSet,
  'print.set': printSet,
  'print.move': printMove,
  'print.remove': printRemove,
  'variant.set': variantSet,
  'variant.edit': variantEdit,
  'variant.back': variantBack,
  'variant.remove': variantRemove,
  'rig.set': rigSet,
  'shot.set': shotSet,
  'render.set': renderSet,
  'handoff.set': handoffSet,
  waive,
  unwaive,
  'mesh.replace': meshReplace,
  'high.pair': highPair,
  'high.parts': highParts,
  'parts.bring': partsBring,
  'parts.anew': partsAnew,
  'state.take': stateTake,
  several,
};
type Kinds = typeof KINDS;
type CommandOf<K> = K extends CommandKind<infer C> ? C : never;

/** Every change to an asset is one of these. They are logged, can be taken back, and say in words what they did. */
export type Command = { [T in keyof Kinds]: CommandOf<Kinds[T]> }[keyof Kinds];

// One listed under another's name does not compile.
KINDS satisfies { [T in Command['type']]: CommandKind<Extract<Command, { type: T }>> };

export const COMMAND_TYPES = Object.keys(KINDS) as Command['type'][];
export const isCommandType = (type: unknown): type is Command['type'] => typeof type === 'string' && Object.hasOwn(KINDS, type);
export const commandKind = (type: Command['type']): CommandKind<Command> => KINDS[type] as unknown as CommandKind<Command>;

findKindsBy((type) => (isCommandType(type) ? (commandKind(type) as unknown as CommandKind<{ type: string }>) : undefined));

/** A document after a change, with patches that make it and take it back. */
export interface Applied {
  document: AssetDocument;
  patches: Patch[];
  inverse: Patch[];
}

/** @throws InputError when it refers to something that isn't there; nothing has changed then */
export function applyCommand(document: AssetDocument, command: Command): Applied {
  const [next, patches, inverse] = produceWithPatches(document, (draft) => {
    commandKind(command.type).apply(draft as AssetDocument, command);
  });
  return { document: next, patches, inverse };
}

/** What a change did, for the history. `before` is the document it was made on. */
export const inWords = (command: Command, before: AssetDocument): string => commandKind(command.type).words(command, before);

/** What a change decides, see {@link CommandKind.touches}. */
export const touchedBy = (command: Command): string[] => commandKind(command.type).touches(command);

/** Whether one path holds another; `*` stands for any one step. */
function within(a: string, b: string): boolean {
  if (a === '') return true;
  const [outer, inner] = [a.split('/'), b.split('/')];
  return outer.length <= inner.length && outer.every((step, i) => step === '*' || inner[i] === '*' || step === inner[i]);
}
/** Whether two changes decide the same thing, or one decides what the other lies in. */
export const meet = (a: readonly string[], b: readonly string[]): boolean => a.some((x) => b.some((y) => within(x, y) || within(y, x)));
