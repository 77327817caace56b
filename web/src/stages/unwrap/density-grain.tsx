'use client';

import { GRAINS, type Grain } from '@wellmorph/core/uv/grain';
import { Choice, NumberField } from '@/sheet/fields';

/** A density that is kept whatever the rest gets. */
export function DensityField({
  label,
  free,
  value = 0,
  onCommit,
}: {
  label: string;
  /** What it is where none is set. */
  free: string;
  value?: number;
  onCommit(pxPerCm: number): void;
}) {
  return (
    <NumberField
      label={label}
      hint={value > 0 ? 'stays so, whatever the rest gets' : `0: ${free}`}
      kind="number"
      unit="px/cm"
      min={0}
      max={10000}
      value={value}
      onCommit={onCommit}
    />
  );
}

/** Which way a grain runs. @param none what it is called where none is chosen */
export function GrainChoice({
  label,
  none = GRAINS.none,
  hint = 'then runs up the tile',
  value = 'none',
  onChange,
}: {
  label: string;
  none?: string;
  hint?: string;
  value?: Grain;
  onChange(grain: Grain): void;
}) {
  const choices = (Object.entries(GRAINS) as [Grain, string][]).map(([g, words]) => [g, g === 'none' ? none : words] as const);
  return <Choice label={label} hint={hint} value={value} choices={choices} onChange={onChange} />;
}
