'use client';

import Box from '@mui/material/Box';
import { type ReactNode, useState } from 'react';

/** A section of the controls that folds away, with what it holds in a few words and its actions beside it. */
export function Fold({
  title,
  about,
  wrong,
  open,
  onOpen,
  actions,
  children,
}: {
  title: string;
  about: string;
  wrong?: boolean;
  open: boolean;
  onOpen(open: boolean): void;
  actions?: ReactNode;
  children: ReactNode;
}) {
  return (
    <Box sx={{ px: 1.8, pb: 0.6, mb: 0.6, borderBottom: 1, borderColor: 'sheet.line' }}>
      <Box sx={{ display: 'flex', alignItems: 'center', gap: 0.5 }}>
        <Box
          component="button"
          type="button"
          aria-expanded={open}
          onClick={() => onOpen(!open)}
          sx={{
            all: 'unset',
            cursor: 'pointer',
            flex: 1,
            minWidth: 0,
            fontSize: 13.5,
            fontWeight: 660,
            whiteSpace: 'nowrap',
            overflow: 'hidden',
            textOverflow: 'ellipsis',
            '&:focus-visible': { outline: '2px solid', outlineColor: 'primary.main' },
          }}
        >
          {title}{' '}
          <Box component="span" className="narrow" sx={{ fontWeight: 400, fontSize: 12, color: wrong ? 'error.main' : 'text.secondary' }}>
            {about}
          </Box>
        </Box>
        {actions}
      </Box>
      {open && children}
    </Box>
  );
}

/** A section within a part that folds away, with what it holds in a few words. */
export function Inner({ title, about, children }: { title: string; about: string; children: ReactNode }) {
  const [open, setOpen] = useState(false);
  return (
    <Box sx={{ mt: 1, pt: 0.8, borderTop: 1, borderColor: 'divider' }}>
      <Box
        component="button"
        type="button"
        aria-expanded={open}
        onClick={() => setOpen(!open)}
        sx={{
          all: 'unset',
          cursor: 'pointer',
          fontSize: 13,
          fontWeight: 600,
          '&:focus-visible': { outline: '2px solid', outlineColor: 'primary.main' },
        }}
      >
        {title}{' '}
        <Box component="span" className="narrow" sx={{ fontWeight: 400, color: 'text.secondary', fontSize: 12 }}>
          {about}
        </Box>
      </Box>
      {open && children}
    </Box>
  );
}
