import { Type } from 'class-transformer';
import { Equals, IsDefined, ValidateNested } from 'class-validator';
import { checkLayers } from '../../surface/layers/layer';
import { type Material, makeOwn, passOn } from '../../surface/material';
import { IsId } from './checks';
import { type CommandKind, fieldsOf, materialIn, under } from './command';
import { MaterialPatch } from './material';

class MaterialSet {
  @Equals('material.set') type!: 'material.set';
  @IsId() material!: string;
  @IsDefined() @ValidateNested() @Type(() => MaterialPatch) patch!: Partial<Omit<Material, 'id' | 'touched' | 'texturing' | 'derived'>> & {
    texturing?: null;
  };
}

export const materialSet: CommandKind<MaterialSet> = {
  type: 'material.set',
  shape: MaterialSet,
  cleaned(c) {
    if (c.patch.layers) checkLayers(c.patch.layers);
    return c;
  },
  apply(d, { material, patch: { texturing, ...patch } }) {
    const set = Object.assign(materialIn(d, material), patch, { touched: true });
    if (texturing === null) delete set.texturing;
    makeOwn(set, Object.keys(patch));
    passOn(d.materials, set);
  },
  words({ material, patch: { texturing, ...patch } }, before) {
    const name = before.materials.find((m) => m.id === material)?.name ?? 'a material';
    return texturing === null ? `took its pictures off ${name}` : `set ${fieldsOf(patch)} of ${name}`;
  },
  touches: ({ material, patch }) => under(`material/${material}`, patch),
};
