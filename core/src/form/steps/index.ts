import { InputError } from '../../errors';
import { checkFields, type Field, toggle, words } from '../fields';
import type { Maker, StepBase, StepKind } from '../step';
import { type ArrayStep, array } from './array';
import { type BandStep, band } from './band';
import { type BarStep, bar } from './bar';
import { type BendStep, bend } from './bend';
import { type BevelStep, bevel } from './bevel';
import { type BladeStep, blade } from './blade';
import { type BoxStep, box } from './box';
import { type ClearStep, clear } from './clear';
import { type CombineStep, combine } from './combine';
import { type CutStep, cut } from './cut';
import { type DentsStep, dents } from './dents';
import { type EngraveStep, engrave } from './engrave';
import { type FairStep, fair } from './fair';
import { type FillStep, fill } from './fill';
import { type FittedStep, fitted } from './fitted';
import { type GlazeStep, glaze } from './glaze';
import { type GrowStep, grow } from './grow';
import { type InsetStep, inset } from './inset';
import { type JoinStep, join } from './join';
import { type LeafStep, leaf } from './leaf';
import { type MendStep, mend } from './mend';
import { type MirrorStep, mirror } from './mirror';
import { type OriginStep, origin } from './origin';
import { type PanelStep, panel } from './panel';
import { type PlaceStep, place } from './place';
import { type PlateStep, plate } from './plate';
import { type PrismStep, prism } from './prism';
import { type RowStep, row } from './row';
import { type ScatterStep, scatter } from './scatter';
import { type ShadeStep, shade } from './shade';
import { type ShellStep, shell } from './shell';
import { type SimplifyStep, simplify } from './simplify';
import { type SoftStep, soft } from './soft';
import { type StretchStep, stretch } from './stretch';
import { type SubdivideStep, subdivide } from './subdivide';
import { type SweepStep, sweep } from './sweep';
import { type TaperStep, taper } from './taper';
import { type TrailStep, trail } from './trail';
import { type TubeStep, tube } from './tube';
import { type TurnedStep, turned } from './turned';
import { type TwistStep, twist } from './twist';
import { type WrapStep, wrap } from './wrap';

/** One step of a part’s recipe, by its kind. */
export type Step =
  | TurnedStep
  | BoxStep
  | PanelStep
  | PrismStep
  | PlateStep
  | BarStep
  | BladeStep
  | SweepStep
  | LeafStep
  | BandStep
  | SoftStep
  | TubeStep
  | WrapStep
  | PlaceStep
  | ArrayStep
  | RowStep
  | ScatterStep
  | ShellStep
  | BevelStep
  | InsetStep
  | CombineStep
  | CutStep
  | BendStep
  | TaperStep
  | TwistStep
  | StretchStep
  | GrowStep
  | DentsStep
  | SubdivideStep
  | FairStep
  | ShadeStep
  | MendStep
  | OriginStep
  | MirrorStep
  | TrailStep
  | SimplifyStep
  | ClearStep
  | EngraveStep
  | JoinStep
  | FillStep
  | GlazeStep
  | FittedStep;
/** The names of all kinds of step. */
export type StepName = Step['kind'];

/** Every kind of step there is, in the order they are offered. */
const KINDS = {
  turned,
  box,
  panel,
  prism,
  plate,
  bar,
  blade,
  sweep,
  leaf,
  band,
  soft,
  tube,
  wrap,
  fill,
  glaze,
  fitted,
  shell,
  bevel,
  inset,
  engrave,
  combine,
  join,
  cut,
  bend,
  taper,
  twist,
  stretch,
  grow,
  dents,
  subdivide,
  fair,
  shade,
  mend,
  clear,
  simplify,
  origin,
  place,
  array,
  row,
  trail,
  mirror,
  scatter,
};
export const STEP_KINDS = Object.keys(KINDS) as StepName[];

/** What a kind of step is. @throws InputError `step/kind` when there is none of that name */
export function kindOf(kind: string): StepKind {
  if (!Object.hasOwn(KINDS, kind)) throw new InputError('step/kind', `There is no kind of step called “${kind}”.`);
  return KINDS[kind as StepName] as unknown as StepKind;
}
export const makerOf = (step: StepBase): Maker<StepBase> | undefined => kindOf(step.kind).maker;
export const stepName = (kind: string): string => kindOf(kind).name;

const BASE: readonly Field[] = [words('name', 'Name'), toggle('enabled', 'On')];
const FORMULA_LENGTH = 200;

/**
 * A step as it came from a request or a file, checked against the description of its kind; what that doesn't name is left out.
 *
 * @throws InputError in one sentence naming the field and what it may be
 */
export function checkStep(plain: unknown): Step {
  const given = plain as Partial<StepBase> | null;
  const kind = kindOf(String(given?.kind));
  const where = `the ${kind.name} “${String(given?.name ?? '')}”`;
  const id = given?.id;
  if (typeof id !== 'string' || id.length === 0 || id.length > 60) throw new InputError('step/id', `${where} needs an id.`);
  const base = checkFields(BASE, given, where);
  const own = checkFields(kind.fields, given, where);
  const mesh = given?.in;
  if (mesh !== undefined && mesh !== 'low' && mesh !== 'high')
    throw new InputError('step/in', `${where} can be in the low mesh, in the high one, or in both.`);
  const same = given?.same;
  if (same !== undefined && (typeof same !== 'string' || same.length === 0 || same.length > 60))
    throw new InputError('step/same', `What ${where} is shared under is no name.`);
  const formulas = given?.formulas;
  if (formulas !== undefined) {
    const bad =
      typeof formulas !== 'object' ||
      formulas === null ||
      Object.entries(formulas).some(([k, v]) => k.length > 200 || typeof v !== 'string' || v.length > FORMULA_LENGTH);
    if (bad) throw new InputError('step/formulas', `A formula of ${where} is no text of at most ${FORMULA_LENGTH} letters.`);
  }
  return {
    kind: kind.kind,
    id,
    ...base,
    ...own,
    ...(mesh && { in: mesh }),
    ...(same !== undefined && { same }),
    ...(formulas && Object.keys(formulas).length > 0 && { formulas: { ...formulas } }),
  } as unknown as Step;
}
