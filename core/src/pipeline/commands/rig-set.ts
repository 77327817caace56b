import { Type } from 'class-transformer';
import { Equals, IsDefined, IsIn, IsString, Length, ValidateNested } from 'class-validator';
import type { Background, LampChoice, LampName, Rig } from '../../light/rig';
import { Between, IsColour, Maybe } from './checks';
import { type CommandKind, fieldsOf, under } from './command';

class LampShape implements LampChoice {
  @Between(-180, 180) turn!: number;
  @Between(-10, 90) raise!: number;
  @Between(1.2, 20) distance!: number;
  @Between(0.05, 10) width!: number;
  @Between(0.05, 10) height!: number;
  @Between(0.01, 100) ratio!: number;
  @Between(1000, 15000) kelvin!: number;
}
class LampsShape implements Record<LampName, LampChoice> {
  @IsDefined() @ValidateNested() @Type(() => LampShape) key!: LampShape;
  @IsDefined() @ValidateNested() @Type(() => LampShape) fill!: LampShape;
  @IsDefined() @ValidateNested() @Type(() => LampShape) rim!: LampShape;
}
export class RigPatch implements Partial<Rig> {
  @Maybe() @IsString() @Length(1, 80) name?: string;
  @Maybe() @ValidateNested() @Type(() => LampsShape) lamps?: LampsShape;
  @Maybe() @Between(0, 4) surround?: number;
  @Maybe() @IsIn(['paper', 'white', 'colour', 'transparent']) background?: Background;
  @Maybe() @IsColour() colour?: [number, number, number];
}

class RigSet {
  @Equals('rig.set') type!: 'rig.set';
  @IsDefined() @ValidateNested() @Type(() => RigPatch) patch!: Partial<Rig>;
}

export const rigSet: CommandKind<RigSet> = {
  type: 'rig.set',
  shape: RigSet,
  apply(d, { patch }) {
    Object.assign(d.rig, patch);
  },
  words: ({ patch }) => `set the light: ${fieldsOf(patch)}`,
  touches: ({ patch }) => under('rig', patch),
};
