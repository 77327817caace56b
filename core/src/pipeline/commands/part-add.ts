import { Type } from 'class-transformer';
import { ArrayMaxSize, Equals, IsArray, IsBoolean, IsDefined, IsIn, IsString, Length, MaxLength, ValidateNested } from 'class-validator';
import { InputError } from '../../errors';
import { checkRegion, checkSeams, type Region } from '../../form/regions';
import type { PickedSeam } from '../../form/seam-paths';
import { checkStep, type Step } from '../../form/steps';
import type { Travel } from '../../inspect/relations';
import type { Vec3 } from '../../maths/vec3';
import { GRAINS, type Grain } from '../../uv/grain';
import { type Part, ROLES, type Role, type Shape } from '../document';
import { Between, CheckedBy, FAR, IsId, IsNumbers, Maybe, OrNull } from './checks';
import type { CommandKind } from './command';
import { TravelShape } from './travel';

/** @throws InputError when it is no list, or one of it is not what it should be */
const each =
  <T>(check: (x: unknown) => T, what: string) =>
  (list: unknown): T[] => {
    if (!Array.isArray(list)) throw new InputError('command/list', `${what} have to be a list.`);
    return list.map(check);
  };
export const checkRegions: (list: unknown) => Region[] = each(checkRegion, 'Regions');
export const checkSteps: (list: unknown) => Step[] = each(checkStep, 'Steps');

/** A recipe as a request may hold it. */
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
  @IsNumbers(3, -FAR, FAR) move!: Vec3;
  @IsNumbers(3, -FAR, FAR) turnDegrees!: Vec3;
  @Between(0.05, 20) weight!: number;
  @IsBoolean() declaredOpen!: boolean;
  @Maybe() @IsArray() @ArrayMaxSize(200) @CheckedBy(checkRegions) regions?: Region[];
  @Maybe() @CheckedBy(checkSeams) seams?: PickedSeam[];
  @Maybe() @IsBoolean() loose?: boolean;
  @Maybe() @IsBoolean() aid?: boolean;
  @Maybe() @IsIn(Object.keys(GRAINS)) grain?: Grain;
  @Maybe() @Between(0, 10_000) pxPerCm?: number;
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
