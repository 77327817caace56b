import 'reflect-metadata';
import { PURPOSES, type Purpose } from '@wellmorph/core/brief/brief';
import { LENGTH_UNITS } from '@wellmorph/core/units/lengths';
import { Transform } from 'class-transformer';
import { IsIn, Length, MaxLength, ValidateIf } from 'class-validator';

const trimmed = () => Transform(({ value }) => (typeof value === 'string' ? value.trim() : value));

/** What a new asset is asked for. */
export class NewAssetForm {
  @trimmed()
  @Length(1, 120, { message: 'Give it a name first.' })
  name!: string;
  @IsIn(Object.keys(PURPOSES), { message: 'Choose what it is for.' })
  purpose!: Purpose;
}

/** What an import is asked for beside its files. */
export class ImportForm {
  /** Whether the file leaves its unit open. */
  unitless!: boolean;
  @ValidateIf((form: ImportForm) => form.unitless)
  @IsIn([...LENGTH_UNITS], { message: 'The file doesn’t say its unit; choose it first.' })
  unit!: string;
  /** Which way is up, where the file doesn’t say. */
  @IsIn(['y', 'z'])
  up!: 'y' | 'z';
  @trimmed()
  @MaxLength(300, { message: 'Source and licence take at most 300 characters.' })
  licence!: string;
}
