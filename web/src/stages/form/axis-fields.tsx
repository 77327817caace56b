'use client';

import { mapVec, type Vec3 } from '@wellmorph/core/maths/vec3';
import { NumberField } from '@/sheet/fields';

/** A length along each axis, or a turn about each: three fields. */
export function AxisFields({
  label,
  turn,
  value,
  onSet,
}: {
  label: string;
  turn?: boolean;
  value: Vec3;
  onSet(value: [number, number, number]): void;
}) {
  return (['x', 'y', 'z'] as const).map((axis, k) => (
    <NumberField
      key={axis}
      label={`${label} ${axis}`}
      {...(turn && { kind: 'number', unit: '°', min: -360, max: 360 })}
      value={value[k]}
      onCommit={(v) => onSet(mapVec(value, (x, i) => (i === k ? v : x)))}
    />
  ));
}
