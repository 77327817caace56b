import { Equals, IsDefined, IsInt, IsObject, Max, Min } from 'class-validator';
import { InputError } from '../../errors';
import { MOST_FIELDS } from '../../surface/layers/layer';
import { type Stroke, strokesFault } from '../../surface/layers/strokes';
import { makeOwn, passOn } from '../../surface/material';
import { CheckedBy, IsId } from './checks';
import { type CommandKind, materialIn, partIn, partName } from './command';

/** @throws InputError with what is wrong with a stroke */
function checkStroke(x: unknown): void {
  const fault = strokesFault([x]);
  if (fault) throw new InputError('material/stroke', `What can’t be used: ${fault}.`);
}

class MaterialStroke {
  @Equals('material.stroke') type!: 'material.stroke';
  @IsId() material!: string;
  @IsId() layer!: string;
  /** Which field of its mask is painted. */
  @IsInt() @Min(0) @Max(MOST_FIELDS - 1) field!: number;
  @IsDefined() @IsObject() @CheckedBy(checkStroke) stroke!: Stroke;
}

/** One more stroke by hand over a part: on its own, so that a long painting isn’t sent again with each. */
export const materialStroke: CommandKind<MaterialStroke> = {
  type: 'material.stroke',
  shape: MaterialStroke,
  apply(d, { material, layer, field, stroke }) {
    const m = materialIn(d, material);
    const of = m.layers.find((l) => l.id === layer)?.mask[field]?.field;
    if (of?.kind !== 'strokes') throw new InputError('command/layer', 'The layer this stroke is for is no longer there.');
    partIn(d, stroke.part);
    const fault = strokesFault([...of.strokes, stroke]);
    if (fault) throw new InputError('material/strokes', `This layer can’t take another stroke: ${fault}. Paint on a further layer.`);
    of.strokes.push(stroke);
    m.touched = true;
    makeOwn(m, ['layers']);
    passOn(d.materials, m);
  },
  words({ material, layer, stroke }, before) {
    const of = before.materials.find((m) => m.id === material)?.layers.find((l) => l.id === layer);
    return `${stroke.erases ? 'erased' : 'painted'} ${of?.name ?? 'a layer'} on ${partName(before, stroke.part)}`;
  },
  touches: ({ material }) => [`material/${material}/layers`],
};
