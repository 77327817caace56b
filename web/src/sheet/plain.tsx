'use client';

import Button, { type ButtonProps } from '@mui/material/Button';
import ButtonBase, { type ButtonBaseProps } from '@mui/material/ButtonBase';
import InputBase, { type InputBaseProps } from '@mui/material/InputBase';
import type { KeyboardEvent } from 'react';

const list = (sx: ButtonBaseProps['sx']) => (Array.isArray(sx) ? sx : [sx]);

/** A button that looks like the words on it: rows, headings and entries that can be chosen. */
export function Plain({ sx, ...props }: ButtonBaseProps) {
  return (
    <ButtonBase
      {...props}
      sx={[
        {
          font: 'inherit',
          lineHeight: 'inherit',
          textAlign: 'left',
          justifyContent: 'flex-start',
          '&:focus-visible': { outline: '2px solid', outlineColor: 'primary.main' },
        },
        ...list(sx),
      ]}
    />
  );
}

/** Something that can be done, in a row of such under what it is about. */
export function Act({ quiet, sx, ...props }: ButtonProps & { quiet?: boolean }) {
  return (
    <Button
      variant="text"
      {...props}
      sx={[
        {
          minWidth: 0,
          minHeight: 0,
          p: 0,
          fontSize: 12.5,
          lineHeight: 1.4,
          color: quiet ? 'text.secondary' : 'primary.main',
          textDecoration: 'underline',
          textUnderlineOffset: 2,
        },
        ...list(sx),
      ]}
    />
  );
}

/** Enter takes what was typed, as leaving the field does. */
export const leaveOnEnter = (e: KeyboardEvent<HTMLElement>): void => {
  if (e.key === 'Enter' && e.target instanceof HTMLElement) e.target.blur();
};

/** A short text that can be typed: framed, or on a line only. */
export function Written({
  line,
  wrong,
  sx,
  ...props
}: Omit<InputBaseProps, 'error'> & {
  /** Only a line under it: where it stands in the place of words. */
  line?: boolean;
  wrong?: boolean;
}) {
  return (
    <InputBase
      error={wrong}
      {...props}
      sx={[
        { font: 'inherit', fontSize: 13, color: 'text.primary', '& input': { p: 0, height: 'auto' } },
        line
          ? { borderBottom: 1, borderColor: 'divider', '&.Mui-focused': { borderColor: 'primary.main' } }
          : {
              border: 1,
              borderColor: wrong ? 'error.main' : 'divider',
              borderRadius: 1,
              px: 0.8,
              py: '3px',
              bgcolor: 'background.paper',
              '&.Mui-focused': { outline: '2px solid', outlineColor: wrong ? 'error.main' : 'primary.main', outlineOffset: -1 },
            },
        ...list(sx),
      ]}
    />
  );
}
