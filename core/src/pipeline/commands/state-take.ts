import { Equals, IsBoolean, IsIn, IsObject, IsString, Length } from 'class-validator';
import type { Photo } from '../../photo/photo';
import type { AssetDocument } from '../document';
import { STAGES } from '../results';
import { Maybe } from './checks';
import { type CommandKind, withOne } from './command';

/** The stages in their order, and what is handed over of them. */
const ORDER = [...STAGES, 'hand-off'] as const;
/** How far a state is taken. */
export type TakenUpTo = (typeof ORDER)[number];

/** What each stage is set by, beside what the stages before it are set by. */
const SET_BY = {
  form: ['parts', 'dimensions', 'form', 'materials', 'relations', 'highParts'],
  unwrap: ['unwrap'],
  bake: ['bake', 'gather', 'project'],
  surface: ['surface', 'prints'],
  render: ['rig', 'shot', 'render'],
  'hand-off': ['handoff'],
} as const satisfies Record<TakenUpTo, readonly (keyof AssetDocument)[]>;

class StateTake {
  @Equals('state.take') type!: 'state.take';
  @IsIn(ORDER) stage!: TakenUpTo;
  @IsString() @Length(1, 200) title!: string;
  /** The document as it was when the attempt was made. */
  @IsObject() state!: AssetDocument;
  /** All of it, variants and what is handed over too; else what the attempt’s stage and those before it are set by. */
  @Maybe() @IsBoolean() whole?: boolean;
}

/** Everything of a document but what it is called and when it is due, which are no state of the piece. */
function takeWhole(d: AssetDocument, state: AssetDocument): void {
  const { name, brief } = d;
  for (const key of Object.keys(d) as (keyof AssetDocument)[]) if (state[key] === undefined) delete (d as Partial<AssetDocument>)[key];
  Object.assign(d, structuredClone(state), { name, brief: { ...structuredClone(state.brief), deadline: brief.deadline } });
}

export const stateTake: CommandKind<StateTake> = {
  type: 'state.take',
  shape: StateTake,
  byServer: true,
  apply(d, { stage, state, whole }) {
    if (whole) {
      takeWhole(d, state);
      return;
    }
    for (const s of ORDER.slice(0, ORDER.indexOf(stage) + 1))
      for (const key of SET_BY[s]) {
        if (state[key] === undefined) delete (d as Partial<AssetDocument>)[key];
        else Object.assign(d, { [key]: structuredClone(state[key]) });
      }
    // Photographs are as they were drawn over then; those that were brought since stay.
    if (state.photos && ORDER.indexOf(stage) >= ORDER.indexOf('bake'))
      d.photos = state.photos.reduce(withOne<Photo>, [...(d.photos ?? [])]);
    // The figures of the brief that forms, layouts and pictures are made by; date and limits stay as they are.
    const { limits, sizeMm, deadline, ...made } = state.brief;
    Object.assign(d.brief, made, { limits: { ...d.brief.limits, textureSize: limits.textureSize } });
  },
  words: ({ title }) => `took up what was set for “${title}”`,
  // Everything: made on an older state it is never applied to a newer one unasked.
  touches: () => [''],
};
