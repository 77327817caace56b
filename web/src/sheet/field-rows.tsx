'use client';

import { NumberField } from './fields';
import { SliderField } from './slider';

/** How one figure of an object is shown and bounded. Bounds are in what is shown. */
export interface FieldRow<T> {
  key: keyof T;
  label: string;
  unit: string;
  min: number;
  max: number;
  /** Shown = stored · scale; 100 for shares in per cent. */
  scale?: number;
  digits?: number;
  hint?: string;
  kind?: 'length' | 'number' | 'whole';
  /** Step of a slider beneath it. */
  step?: number;
}

/** Figures of an object one beneath the other, each committed by itself. */
export function FieldRows<T extends object>({
  rows,
  of,
  set,
  onDrag,
  disabled,
}: {
  rows: readonly FieldRow<T>[];
  of: T;
  set(patch: Partial<T>): void;
  onDrag?(patch: Partial<T>): void;
  disabled?: boolean;
}) {
  return rows.map(({ key, scale = 1, kind = 'number', step, digits = 2, ...row }) => {
    const common = { ...row, digits, disabled, value: Number(of[key]) * scale };
    const patch = (v: number) => ({ [key]: v / scale }) as Partial<T>;
    return step === undefined ? (
      <NumberField key={String(key)} {...common} kind={kind} onCommit={(v) => set(patch(v))} />
    ) : (
      <SliderField key={String(key)} {...common} step={step} onDrag={(v) => onDrag?.(patch(v))} onCommit={(v) => set(patch(v))} />
    );
  });
}
