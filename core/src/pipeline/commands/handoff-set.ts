import { Type } from 'class-transformer';
import { Equals, IsBoolean, IsDefined, IsIn, IsInt, Max, Min, ValidateNested } from 'class-validator';
import { LENGTH_UNITS, type LengthUnit } from '../../units/lengths';
import { type Deliverable, type HandoffChoices, MOST_LEVELS, MOST_SMALLER } from '../document';
import { Maybe } from './checks';
import { type CommandKind, fieldsOf, under } from './command';

class IncludeShape implements Record<Deliverable, boolean> {
  @IsBoolean() glb!: boolean;
  @IsBoolean() obj!: boolean;
  @IsBoolean() textures!: boolean;
  @IsBoolean() layout!: boolean;
  @IsBoolean() picture!: boolean;
  @IsBoolean() sheet!: boolean;
  @IsBoolean() levels!: boolean;
}
/** What of the hand-off a request may change. */
export class HandoffPatch implements Partial<HandoffChoices> {
  @Maybe() @IsIn(LENGTH_UNITS) unit?: LengthUnit;
  @Maybe() @IsIn(['up', 'down']) y?: HandoffChoices['y'];
  @Maybe() @ValidateNested() @Type(() => IncludeShape) include?: IncludeShape;
  @Maybe() @IsInt() @Min(1) @Max(MOST_LEVELS) levels?: number;
  @Maybe() @IsInt() @Min(0) @Max(MOST_SMALLER) smaller?: number;
  @Maybe() @IsBoolean() specular?: boolean;
  @Maybe() @IsInt() @Min(0) @Max(100) jpeg?: number;
  @Maybe() @IsBoolean() setSheet?: boolean;
  @Maybe() @IsBoolean() variants?: boolean;
}

class HandoffSet {
  @Equals('handoff.set') type!: 'handoff.set';
  @IsDefined() @ValidateNested() @Type(() => HandoffPatch) patch!: Partial<HandoffChoices>;
}

export const handoffSet: CommandKind<HandoffSet> = {
  type: 'handoff.set',
  shape: HandoffSet,
  apply(d, { patch }) {
    Object.assign(d.handoff, patch);
  },
  words: ({ patch }) => `set the hand-off: ${fieldsOf(patch)}`,
  touches: ({ patch }) => under('handoff', patch),
};
