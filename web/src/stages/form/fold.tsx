'use client';

import Box from '@mui/material/Box';
import { type ReactNode, useState } from 'react';
import { Plain } from '@/sheet/plain';

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
        <Plain
          aria-expanded={open}
          onClick={() => onOpen(!open)}
          sx={{
            display: 'block',
            flex: 1,
            minWidth: 0,
            fontSize: 13.5,
            fontWeight: 660,
            whiteSpace: 'nowrap',
            overflow: 'hidden',
            textOverflow: 'ellipsis',
          }}
        >
          {title}{' '}
          <Box component="span" className="narrow" sx={{ fontWeight: 400, fontSize: 12, color: wrong ? 'error.main' : 'text.secondary' }}>
            {about}
          </Box>
        </Plain>
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
      <Plain aria-expanded={open} onClick={() => setOpen(!open)} sx={{ display: 'inline-block', fontSize: 13, fontWeight: 600 }}>
        {title}{' '}
        <Box component="span" className="narrow" sx={{ fontWeight: 400, color: 'text.secondary', fontSize: 12 }}>
          {about}
        </Box>
      </Plain>
      {open && children}
    </Box>
  );
}
