import { Equals, IsDefined } from 'class-validator';
import { checkFlatChoices, type FlatChoice, sameTarget } from '../../uv/chosen/choices';
import { CHOSEN } from '../../uv/words';
import { CheckedBy } from './checks';
import type { CommandKind } from './command';

class IslandsLay {
  @Equals('islands.lay') type!: 'islands.lay';
  @IsDefined() @CheckedBy(checkFlatChoices) choices!: FlatChoice[];
}

/** Says which islands and parts are laid flat otherwise than they would be. */
export const islandsLay: CommandKind<IslandsLay> = {
  type: 'islands.lay',
  shape: IslandsLay,
  cleaned: (c) => ({ ...c, choices: checkFlatChoices(c.choices) }),
  apply(d, { choices }) {
    if (choices.length > 0) d.unwrap.choices = choices;
    else delete d.unwrap.choices;
  },
  words({ choices }, before) {
    const had = before.unwrap.choices ?? [];
    const name = (c: FlatChoice): string => before.parts.find((p) => p.id === c.part)?.name ?? 'an island';
    const gone = had.find((c) => !choices.some((d) => sameTarget(c, d)));
    if (choices.length < had.length && gone) return `left ${name(gone)} to be laid flat as it would be`;
    const changed = choices.find((c) => !had.some((d) => JSON.stringify(c) === JSON.stringify(d)));
    if (!changed) return 'set how islands are laid flat';
    const same = had.find((c) => sameTarget(c, changed));
    if (changed.meant && changed.meant !== same?.meant) return `stretched ${name(changed)} on purpose: ${changed.meant}`;
    return `laid ${name(changed)} flat ${CHOSEN[changed.method]}`;
  },
  touches: () => ['unwrap/choices'],
};
