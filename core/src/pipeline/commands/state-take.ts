import { Equals, IsBoolean, IsObject, IsString, Length } from 'class-validator';
import type { Photo } from '../../photo/photo';
import type { AssetDocument } from '../document';
import { STAGES, type Stage } from '../results';
import { Maybe } from './checks';
import { type CommandKind, withOne } from './command';

/** What each stage is set by, beside what the stages before it are set by. */
const SET_BY = {
  form: ['parts', 'dimensions', 'form', 'materials', 'relations', 'highParts'],
  unwrap: ['unwrap'],
  bake: ['bake', 'gather', 'project'],
  surface: ['surface', 'prints'],
  render: ['rig', 'shot', 'render'],
} as const satisfies Record<Stage, readonly (keyof AssetDocument)[]>;

class StateTake {
  @Equals('state.take') type!: 'state.take';
  @IsString() stage!: Stage;
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
    for (const s of STAGES.slice(0, STAGES.indexOf(stage) + 1))
      for (const key of SET_BY[s]) {
        if (state[key] === undefined) delete (d as Partial<AssetDocument>)[key];
        else Object.assign(d, { [key]: structuredClone(state[key]) });
      }
    // Photographs are as they were drawn over then; those that were brought since stay.
    if (state.photos && STAGES.indexOf(stage) >= STAGES.indexOf('bake'))
      d.photos = state.photos.reduce(withOne<Photo>, [...(d.photos ?? [])]);
    // The figures of the brief that forms, layouts and pictures are made by; date and limits stay as they are.
    const { limits, sizeMm, deadline, ...made } = state.brief;
    Object.assign(d.brief, made, { limits: { ...d.brief.limits, textureSize: limits.textureSize } });
  },
  words: ({ title }) => `took up what was set for “${title}”`,
  // Everything: made on an older state it is never applied to a newer one unasked.
  touches: () => [''],
};
