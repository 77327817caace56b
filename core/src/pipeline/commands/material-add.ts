import { Type } from 'class-transformer';
import { ArrayMaxSize, Equals, IsArray, IsDefined, IsString, ValidateNested } from 'class-validator';
import { InputError } from '../../errors';
import { type Material, passOn } from '../../surface/material';
import { texturesOf } from '../stored';
import { Maybe } from './checks';
import { type CommandKind, materialIn, partIn, partName } from './command';
import { MaterialShape } from './material';

class MaterialAdd {
  @Equals('material.add') type!: 'material.add';
  @IsDefined() @ValidateNested() @Type(() => MaterialShape) material!: Material;
  /** Parts that are given it at once. */
  @Maybe() @IsArray() @ArrayMaxSize(1000) @IsString({ each: true }) parts?: string[];
}

export const materialAdd: CommandKind<MaterialAdd> = {
  type: 'material.add',
  shape: MaterialAdd,
  blobs: ({ material }) => texturesOf(material),
  apply(d, { material, parts }) {
    if (d.materials.some((m) => m.id === material.id)) throw new InputError('command/id', 'A material with that id is there already.');
    const from = material.derived && materialIn(d, material.derived.from);
    d.materials.push(material);
    // What it follows may have changed since it was derived.
    if (from) passOn([material], from);
    for (const id of parts ?? []) partIn(d, id).material = material.id;
  },
  words: ({ material, parts }, before) =>
    parts?.length ? `gave ${parts.map((p) => partName(before, p)).join(', ')} ${material.name}` : `added the material ${material.name}`,
  touches: ({ material, parts }) => [`material/${material.id}`, ...(parts ?? []).map((p) => `part/${p}/material`)],
};
