import { Type } from 'class-transformer';
import { Equals, IsDefined, ValidateNested } from 'class-validator';
import type { Material } from '../../surface/material';
import { IsId } from './checks';
import { type CommandKind, fieldsOf, materialIn, under } from './command';
import { MaterialPatch } from './material';

class MaterialSet {
  @Equals('material.set') type!: 'material.set';
  @IsId() material!: string;
  @IsDefined() @ValidateNested() @Type(() => MaterialPatch) patch!: Partial<Omit<Material, 'id' | 'touched'>>;
}

export const materialSet: CommandKind<MaterialSet> = {
  type: 'material.set',
  shape: MaterialSet,
  apply(d, { material, patch }) {
    Object.assign(materialIn(d, material), patch, { touched: true });
  },
  words: ({ material, patch }, before) =>
    `set ${fieldsOf(patch)} of ${before.materials.find((m) => m.id === material)?.name ?? 'a material'}`,
  touches: ({ material, patch }) => under(`material/${material}`, patch),
};
