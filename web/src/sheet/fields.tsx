'use client';

import Box from '@mui/material/Box';
import InputBase from '@mui/material/InputBase';
import Select from '@mui/material/Select';
import { type Lookup, namesIn } from '@wellmorph/core/units/formula';
import { decimalsIn, figure, type LengthUnit, MM_PER } from '@wellmorph/core/units/lengths';
import { type KeyboardEvent, useEffect, useId, useState } from 'react';
import { useLengthUnit } from '@/session/context';
import { readTyped, stepped, type TypedKind } from './typed';

interface NumberFieldProps {
  label: string;
  value: number;
  /** @param formula what was typed, when it uses names; null for a plain figure */
  onCommit(value: number, formula: string | null): void;
  /** The formula it follows now. */
  formula?: string;
  /** Named dimensions that may be typed. */
  names?: Lookup;
  /** Written behind it. A length without one is shown, and read, in the unit that the brief chooses; it is given and committed in mm. */
  unit?: string;
  kind?: TypedKind;
  min?: number;
  max?: number;
  digits?: number;
  hint?: string;
  disabled?: boolean;
  width?: number;
}

/** A figure that can be typed: `2*3.5cm` is 70 mm. Out of range or unreadable gets a sentence underneath; nothing is clamped. */
export function NumberField({
  label,
  value: mm,
  onCommit: commitMm,
  unit: written,
  kind = 'length',
  min: least = -1e5,
  max: most = 1e5,
  digits: digitsOfMm = 3,
  hint,
  disabled,
  width = 96,
  formula,
  names,
}: NumberFieldProps) {
  const own = useLengthUnit();
  // A unit that is written stands; a length without one follows the brief.
  const lengthUnit: LengthUnit = kind === 'length' && written === undefined ? own : 'mm';
  const unit = kind === 'length' && written === undefined ? own : (written ?? 'mm');
  const per = MM_PER[lengthUnit];
  const digits = decimalsIn(lengthUnit, digitsOfMm);
  const [value, min, max] = [mm / per, least / per, most / per];
  const onCommit = (n: number, typed: string | null) => commitMm(per === 1 ? n : Math.round(n * per * 1e9) / 1e9, typed);
  const [focused, setFocused] = useState(false);
  const shown = formula !== undefined && focused ? formula : figure(value, digits).replace(/\u202f/g, '');
  const [text, setText] = useState(shown);
  const [wrong, setWrong] = useState<string | null>(null);
  const id = useId();
  useEffect(() => {
    setText(shown);
    setWrong(null);
  }, [shown]);
  const read = (): number | null => {
    try {
      return readTyped(text, { kind, unit: lengthUnit, min, max, names });
    } catch (error) {
      setWrong((error as Error).message);
      return null;
    }
  };
  const commit = () => {
    if (text === shown) {
      setWrong(null);
      return;
    }
    const n = read();
    if (n === null) return;
    setWrong(null);
    setText(figure(n, digits).replace(/\u202f/g, ''));
    const typed = names && namesIn(text).length > 0 ? text.trim() : null;
    if (Math.abs(n - value) > 1e-9 || typed !== (formula ?? null)) onCommit(n, typed);
  };
  const onKey = (e: KeyboardEvent<HTMLInputElement>) => {
    if (e.key === 'Enter') commit();
    else if (e.key === 'Escape') {
      setText(shown);
      setWrong(null);
      e.stopPropagation();
    } else if (formula === undefined && (e.key === 'ArrowUp' || e.key === 'ArrowDown') && !wrong) {
      const n = stepped(value, { up: e.key === 'ArrowUp', far: e.shiftKey, kind, per });
      if (n >= min && n <= max) onCommit(n, null);
      e.preventDefault();
    }
  };
  return (
    <Box>
      <Box sx={{ display: 'flex', alignItems: 'center', justifyContent: 'space-between', gap: 1, minHeight: hint || formula ? 38 : 30 }}>
        <Box component="label" htmlFor={id} className="narrow" sx={{ fontSize: 13, lineHeight: 1.25 }}>
          {label}
          {(formula ?? hint) && (
            <Box component="span" sx={{ display: 'block', color: formula ? 'primary.main' : 'text.secondary', fontSize: 11.5 }}>
              {formula ? `= ${formula}` : hint}
            </Box>
          )}
        </Box>
        <Box
          sx={{
            display: 'flex',
            alignItems: 'center',
            width,
            flex: 'none',
            border: 1,
            borderColor: wrong ? 'error.main' : 'divider',
            borderRadius: 1,
            bgcolor: 'background.paper',
            px: 0.8,
            '&:focus-within': { outline: '2px solid', outlineColor: wrong ? 'error.main' : 'primary.main', outlineOffset: -1 },
          }}
        >
          <InputBase
            id={id}
            value={text}
            disabled={disabled}
            onChange={(e) => setText(e.target.value)}
            onFocus={() => setFocused(true)}
            onBlur={() => {
              commit();
              setFocused(false);
            }}
            onKeyDown={onKey}
            inputProps={{
              'data-settled': text === shown ? '' : undefined,
              'aria-invalid': Boolean(wrong),
              'aria-describedby': wrong ? `${id}-wrong` : undefined,
              inputMode: 'text',
              className: 'mono',
              style: { textAlign: 'right', padding: '3px 0', fontSize: 13 },
            }}
            sx={{ flex: 1, minWidth: 0 }}
          />
          {unit && (
            <Box component="span" className="narrow" sx={{ color: 'text.secondary', fontSize: 12, ml: 0.5 }}>
              {unit}
            </Box>
          )}
        </Box>
      </Box>
      {wrong && (
        <Box id={`${id}-wrong`} role="alert" sx={{ color: 'error.main', fontSize: 12, mb: 0.5 }}>
          {wrong}
        </Box>
      )}
    </Box>
  );
}

/** A row of a label and one of a few choices. */
export function Choice<T extends string | number>({
  label,
  value,
  choices,
  onChange,
  hint,
}: {
  label: string;
  value: T;
  choices: readonly (readonly [NoInfer<T>, string])[];
  onChange: (value: NoInfer<T>) => void;
  hint?: string;
}) {
  const id = useId();
  return (
    <Box sx={{ display: 'flex', alignItems: 'center', justifyContent: 'space-between', gap: 1, minHeight: 30 }}>
      <Box component="label" htmlFor={id} className="narrow" sx={{ fontSize: 13, lineHeight: 1.25 }}>
        {label}
        {hint && (
          <Box component="span" sx={{ display: 'block', color: 'text.secondary', fontSize: 11.5 }}>
            {hint}
          </Box>
        )}
      </Box>
      <Select
        native
        inputProps={{ id }}
        value={String(value)}
        onChange={(e) => {
          const found = choices.find(([v]) => String(v) === e.target.value);
          if (found) onChange(found[0]);
        }}
        sx={{ maxWidth: 176 }}
      >
        {choices.map(([v, name]) => (
          <option key={String(v)} value={String(v)}>
            {name}
          </option>
        ))}
      </Select>
    </Box>
  );
}

/** One of two, each in its words. */
export function Either({
  value,
  words: [yes, no],
  onChange,
  ...rest
}: {
  label: string;
  hint?: string;
  value: boolean;
  /** What it is called where it is so, and where it isn’t. */
  words: readonly [yes: string, no: string];
  onChange(value: boolean): void;
}) {
  return (
    <Choice
      {...rest}
      value={value ? 1 : 0}
      choices={[
        [1, yes],
        [0, no],
      ]}
      onChange={(v) => onChange(v === 1)}
    />
  );
}

/** A heading of a column with a short remark to its right. */
export function Heading({ children, aside }: { children: React.ReactNode; aside?: React.ReactNode }) {
  return (
    <Box
      sx={{
        display: 'flex',
        justifyContent: 'space-between',
        alignItems: 'baseline',
        gap: 1,
        pb: 0.6,
        mb: 0.4,
        borderBottom: 1,
        borderColor: 'divider',
      }}
    >
      <Box component="h2" sx={{ m: 0, fontSize: 13.5, fontWeight: 660 }}>
        {children}
      </Box>
      {aside && (
        <Box className="narrow" sx={{ fontSize: 12, color: 'text.secondary', textAlign: 'right' }}>
          {aside}
        </Box>
      )}
    </Box>
  );
}
