import { Type } from 'class-transformer';
import { ArrayMaxSize, Equals, IsArray, IsBoolean, IsDefined, IsIn, IsString, Length, MaxLength, ValidateNested } from 'class-validator';
import { InputError } from '../../errors';
import { checkRegion, checkSeams, type PickedSeam, type Region } from '../../form/regions';
import { checkStep, type Step } from '../../form/steps';
import type { Travel } from '../../inspect/relations';
import type { Vec3 } from '../../maths/vec3';
import { type Part, ROLES, type Role, type Shape } from '../document';
import { Between, CheckedBy, IsId, IsNumbers, Maybe, OrNull } from './checks';
import type { CommandKind } from './command';
import { TravelShape } from './travel';

export const checkRegions = (list: unknown): Region[] => (list as unknown[]).map(checkRegion);
export const checkSteps = (list: unknown): Step[] => (list as unknown[]).map(checkStep);

export class RecipeShape {
  @Equals('recipe') kind!: 'recipe';
  @IsArray() @ArrayMaxSize(200) @CheckedBy(checkSteps) steps!: Step[];
}
/** What every part has, whatever its shape. */
export class PartBase implements Omit<Part, 'shape'> {
  @IsId() id!: string;
  @IsString() @Length(1, 80) name!: string;
  @IsIn(Object.keys(ROLES)) role!: Role;
  @OrNull() @IsString() @MaxLength(60) material!: string | null;
  @IsNumbers(3) move!: Vec3;
  @IsNumbers(3) turnDegrees!: Vec3;
  @Between(0.05, 20) weight!: number;
  @IsBoolean() declaredOpen!: boolean;
  @Maybe() @IsArray() @ArrayMaxSize(200) @CheckedBy(checkRegions) regions?: Region[];
  @Maybe() @CheckedBy(checkSeams) seams?: PickedSeam[];
  @Maybe() @IsBoolean() aid?: boolean;
  @Maybe() @ValidateNested() @Type(() => TravelShape) travel?: Travel;
}
/** Only recipes are added from the sheet; meshes come through the import. */
class NewPart extends PartBase implements Part {
  @IsDefined() @ValidateNested() @Type(() => RecipeShape) shape!: Shape;
}

class PartAdd {
  @Equals('part.add') type!: 'part.add';
  @IsDefined() @ValidateNested() @Type(() => NewPart) part!: Part;
}

export const partAdd: CommandKind<PartAdd> = {
  type: 'part.add',
  shape: PartAdd,
  cleaned({ type, part }) {
    return {
      type,
      part: {
        ...part,
        shape: { ...part.shape, steps: checkSteps(part.shape.steps) } as Shape,
        ...(part.regions && { regions: checkRegions(part.regions) }),
        ...(part.seams && { seams: checkSeams(part.seams) }),
      },
    };
  },
  apply(d, { part }) {
    if (d.parts.some((p) => p.id === part.id)) throw new InputError('command/id', 'A part with that id is there already.');
    d.parts.push(part);
  },
  words: ({ part }) => `added the part ${part.name}`,
  touches: ({ part }) => [`part/${part.id}`],
};
