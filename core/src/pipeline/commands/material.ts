import { IsArray, IsBoolean, IsIn, IsObject, IsString, Length, ValidateIf } from 'class-validator';
import { InputError } from '../../errors';
import { checkLayers, type Layer } from '../../surface/layers/layer';
import { derivedFault, type Material } from '../../surface/material';
import { checkTexturing, type Texturing } from '../../surface/texturing';
import { Between, CheckedBy, IsColour, IsId, IsShare, Maybe, OrNull } from './checks';

type Rgb = [number, number, number];

/** @throws InputError with what is wrong with a derived material’s link */
function checkDerived(x: unknown): void {
  const fault = derivedFault(x);
  if (fault) throw new InputError('material/derived', `What can’t be used: ${fault}.`);
}

/** A whole material, as a request brings it. */
export class MaterialShape implements Material {
  @IsId() id!: string;
  @IsString() @Length(1, 80) name!: string;
  @OrNull() @IsString() @Length(1, 60) base!: string | null;
  @IsString() @Length(1, 300) source!: string;
  @IsBoolean() touched!: boolean;
  @IsColour() colour!: Rgb;
  @IsShare() metallic!: number;
  @IsShare() roughness!: number;
  @Between(1, 4) ior!: number;
  @IsShare() transmission!: number;
  @IsShare() coat!: number;
  @IsShare() coatRoughness!: number;
  @Between(0, 1e6) emission!: number;
  @IsArray() @CheckedBy(checkLayers) layers!: Layer[];
  @Maybe() @IsObject() @CheckedBy(checkTexturing) texturing?: Texturing;
  @Maybe() @IsObject() @CheckedBy(checkDerived) derived?: Material['derived'];
}
/** What of a material can be set. */
export class MaterialPatch implements Partial<Omit<Material, 'id' | 'touched' | 'texturing' | 'derived'>> {
  @Maybe() @IsString() @Length(1, 80) name?: string;
  @Maybe() @ValidateIf((o: MaterialPatch) => o.base !== null) @IsString() @Length(1, 60) base?: string | null;
  @Maybe() @IsString() @Length(1, 300) source?: string;
  @Maybe() @IsColour() colour?: Rgb;
  @Maybe() @IsShare() metallic?: number;
  @Maybe() @IsShare() roughness?: number;
  @Maybe() @Between(1, 4) ior?: number;
  @Maybe() @IsShare() transmission?: number;
  @Maybe() @IsShare() coat?: number;
  @Maybe() @IsShare() coatRoughness?: number;
  @Maybe() @Between(0, 1e6) emission?: number;
  @Maybe() @IsArray() @CheckedBy(checkLayers) layers?: Layer[];
  /** Null: it goes without the pictures it came with. */
  @Maybe() @IsIn([null]) texturing?: null;
}
