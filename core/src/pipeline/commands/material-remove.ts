import { Equals } from 'class-validator';
import { IsId } from './checks';
import { type CommandKind, materialIn } from './command';

class MaterialRemove {
  @Equals('material.remove') type!: 'material.remove';
  @IsId() material!: string;
}

export const materialRemove: CommandKind<MaterialRemove> = {
  type: 'material.remove',
  shape: MaterialRemove,
  apply(d, { material }) {
    materialIn(d, material);
    d.materials = d.materials.filter((m) => m.id !== material);
    for (const m of d.materials) if (m.derived?.from === material) delete m.derived;
    for (const p of d.parts) {
      if (p.material === material) p.material = null;
      for (const r of p.regions ?? []) if (r.material === material) delete r.material;
    }
  },
  words: ({ material }, before) => `removed the material ${before.materials.find((m) => m.id === material)?.name ?? ''}`,
  touches: ({ material }) => [`material/${material}`],
};
