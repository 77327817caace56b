import { Equals, IsArray, IsIn } from 'class-validator';
import { FOLLOWED, type Followed, passOn } from '../../surface/material';
import { IsId, OrNull } from './checks';
import { type CommandKind, fieldsOf, materialIn } from './command';

class MaterialFollow {
  @Equals('material.follow') type!: 'material.follow';
  @IsId() material!: string;
  /** What is as in the one it is derived from again; null when it follows that no longer. */
  @OrNull() @IsArray() @IsIn(FOLLOWED, { each: true }) fields!: Followed[] | null;
}

/** A derived material back to the one it is derived from, in some of what it is; or cut loose from it. */
export const materialFollow: CommandKind<MaterialFollow> = {
  type: 'material.follow',
  shape: MaterialFollow,
  apply(d, { material, fields }) {
    const m = materialIn(d, material);
    if (!m.derived) return;
    if (fields === null) {
      delete m.derived;
      return;
    }
    const from = materialIn(d, m.derived.from);
    m.derived.own = m.derived.own.filter((k) => !fields.includes(k));
    passOn([m], from);
    passOn(d.materials, m);
  },
  words({ material, fields }, before) {
    const named = (id: string | undefined) => before.materials.find((m) => m.id === id)?.name ?? 'a material';
    const from = named(before.materials.find((m) => m.id === material)?.derived?.from);
    return fields === null
      ? `cut ${named(material)} loose from ${from}`
      : `took ${fieldsOf(Object.fromEntries(fields.map((f) => [f, null])))} of ${named(material)} from ${from} again`;
  },
  // Which one it is derived from may go.
  touches: ({ material }) => [`material/${material}`, 'material/*/derived'],
};
