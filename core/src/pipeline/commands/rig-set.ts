import { Type } from 'class-transformer';
import { Equals, IsDefined, IsIn, IsString, Length, ValidateIf, ValidateNested } from 'class-validator';
import type { Background, LampChoice, LampName, Power, Rig } from '../../light/rig';
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
class PowerShape implements Power {
  @Between(0, 1e7) key!: number;
  @Between(0, 1e7) fill!: number;
  @Between(0, 1e7) rim!: number;
  @Between(0, 1e7) surround!: number;
}
class LampsShape implements Record<LampName, LampChoice> {
  @IsDefined() @ValidateNested() @Type(() => LampShape) key!: LampShape;
  @IsDefined() @ValidateNested() @Type(() => LampShape) fill!: LampShape;
  @IsDefined() @ValidateNested() @Type(() => LampShape) rim!: LampShape;
}
/** What of a rig a request may change. */
export class RigPatch implements Partial<Rig> {
  @Maybe() @IsString() @Length(1, 80) name?: string;
  @Maybe() @ValidateNested() @Type(() => LampsShape) lamps?: LampsShape;
  @Maybe() @Between(0, 4) surround?: number;
  @Maybe() @IsIn(['paper', 'white', 'colour', 'transparent']) background?: Background;
  @Maybe() @IsColour() colour?: [number, number, number];
  @Maybe() @ValidateIf((o: RigPatch) => o.power !== null) @ValidateNested() @Type(() => PowerShape) power?: Power | null;
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
