import { Type } from 'class-transformer';
import { ArrayMaxSize, Equals, IsArray, IsString, Length, ValidateNested } from 'class-validator';
import { InputError } from '../../errors';
import { kindOf, type Step } from '../../form/steps';
import type { AssetDocument } from '../document';
import { IsId, OrNull } from './checks';
import { type CommandKind, partIn, stepAt, stepNamed, stepsIn } from './command';

class ShareTo {
  @IsId() part!: string;
  /** Id of the step there. */
  @IsId() id!: string;
}
class StepShare {
  @Equals('step.share') type!: 'step.share';
  @IsId() part!: string;
  @IsId() step!: string;
  /** What the shared ones are known by from now on; null, and this one stands alone again. */
  @OrNull() @IsString() @Length(1, 60) same!: string | null;
  /** Parts that get it as their last step. */
  @IsArray() @ArrayMaxSize(1000) @ValidateNested({ each: true }) @Type(() => ShareTo) to!: ShareTo[];
}

/** Fields that speak of a part's own surface: each of the shared steps has its own. */
function ownFields(step: Step): string[] {
  return kindOf(step.kind).fields.flatMap((f) =>
    f.type === 'edges' || f.type === 'spot' || (f.type === 'text' && (f.names === 'own region' || f.names === 'step')) ? [f.key] : [],
  );
}

/** One of the shared steps as another says: everything but its id, whether it is on, and what speaks of its own part's surface. */
export function alike(own: Step, said: Step): Step {
  const kept = Object.fromEntries(
    ['id', 'enabled', ...ownFields(own)].flatMap((key) => {
      const value = (own as unknown as Record<string, unknown>)[key];
      return value === undefined ? [] : [[key, value]];
    }),
  );
  const bare = Object.fromEntries(Object.entries(said).filter(([key]) => !ownFields(said).includes(key)));
  return { ...bare, ...kept } as unknown as Step;
}

/** Every step of a document that is shared under a name, with its list. */
export const sharedSteps = (d: AssetDocument, same: string): { list: Step[]; at: number }[] =>
  d.parts.flatMap((p) => (p.shape.steps ?? []).flatMap((s, at) => (s.same === same ? [{ list: p.shape.steps as Step[], at }] : [])));

export const stepShare: CommandKind<StepShare> = {
  type: 'step.share',
  shape: StepShare,
  apply(d, { part, step, same, to }) {
    const list = stepsIn(d, part);
    const at = stepAt(list, step);
    const own = list[at];
    if (same === null) {
      delete own.same;
      return;
    }
    if (kindOf(own.kind).maker)
      throw new InputError('command/share', `“${own.name}” makes something; only steps that change it are shared.`);
    own.same = same;
    for (const { part: other, id } of to) {
      const there = stepsIn(d, other);
      if (d.parts.some((p) => p.shape.steps?.some((s) => s.id === id)))
        throw new InputError('command/id', 'A step with that id is there already.');
      if (there.some((s) => s.same === same)) throw new InputError('command/share', `“${partIn(d, other).name}” has that step already.`);
      const bare = Object.fromEntries(Object.entries(own).filter(([key]) => !ownFields(own).includes(key) || key === 'region'));
      there.push({ ...bare, id, ...('region' in bare && { region: '' }) } as unknown as Step);
    }
  },
  words: ({ part, step, same, to }, before) =>
    same === null
      ? `let ${stepNamed(before, part, step)} stand alone`
      : `shared ${stepNamed(before, part, step)} with ${to.map((t) => before.parts.find((p) => p.id === t.part)?.name ?? 'a part').join(', ')}`,
  touches: ({ part, step, same, to }) => [
    `part/${part}/step/${step}`,
    ...to.map((t) => `part/${t.part}/step/${t.id}`),
    ...(same === null ? ['same'] : [`same/${same}`]),
  ],
};
