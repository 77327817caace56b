import { Type } from 'class-transformer';
import { Equals, IsBoolean, IsDefined, IsIn, IsString, Length, MaxLength, ValidateIf, ValidateNested } from 'class-validator';
import type { Vec3 } from '../../maths/vec3';
import { GRAINS, type Grain } from '../../uv/grain';
import { type Part, ROLES, type Role } from '../document';
import { Between, FAR, IsId, IsNumbers, Maybe } from './checks';
import { type CommandKind, fieldsOf, partIn, partName, under } from './command';

type Settable = Partial<
  Pick<Part, 'name' | 'role' | 'material' | 'move' | 'turnDegrees' | 'weight' | 'declaredOpen' | 'loose' | 'aid' | 'grain' | 'pxPerCm'>
>;
class PartPatch implements Settable {
  @Maybe() @IsString() @Length(1, 80) name?: string;
  @Maybe() @IsIn(Object.keys(ROLES)) role?: Role;
  @Maybe() @ValidateIf((o: PartPatch) => o.material !== null) @IsString() @MaxLength(60) material?: string | null;
  @Maybe() @IsNumbers(3, -FAR, FAR) move?: Vec3;
  @Maybe() @IsNumbers(3, -FAR, FAR) turnDegrees?: Vec3;
  @Maybe() @Between(0.05, 20) weight?: number;
  @Maybe() @IsBoolean() declaredOpen?: boolean;
  @Maybe() @IsBoolean() loose?: boolean;
  @Maybe() @IsBoolean() aid?: boolean;
  @Maybe() @IsIn(Object.keys(GRAINS)) grain?: Grain;
  @Maybe() @Between(0, 10_000) pxPerCm?: number;
}

class PartSet {
  @Equals('part.set') type!: 'part.set';
  @IsId() part!: string;
  @IsDefined() @ValidateNested() @Type(() => PartPatch) patch!: Settable;
}

export const partSet: CommandKind<PartSet> = {
  type: 'part.set',
  shape: PartSet,
  apply(d, { part, patch }) {
    Object.assign(partIn(d, part), patch);
  },
  words: ({ part, patch }, before) => `set ${fieldsOf(patch)} of ${partName(before, part)}`,
  touches: ({ part, patch }) => under(`part/${part}`, patch),
};
