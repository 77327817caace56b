'use client';

import DarkModeOutlined from '@mui/icons-material/DarkModeOutlined';
import LightModeOutlined from '@mui/icons-material/LightModeOutlined';
import Box from '@mui/material/Box';
import IconButton from '@mui/material/IconButton';
import { useColorScheme } from '@mui/material/styles';
import type { ReactNode } from 'react';
import { Wordmark } from './marks';
import { PageLink } from './page-link';

const PAGES = [
  { id: 'workshop', name: 'Workshop', href: '/' },
  { id: 'logbook', name: 'Logbook', href: '/logbook' },
  { id: 'plan', name: 'Plan', href: '/plan' },
] as const;

/** The head of a page that is about all pieces: which of the three it is, a remark, and what can be done here. */
export function TopBar({ here, aside, children }: { here: (typeof PAGES)[number]['id']; aside: ReactNode; children?: ReactNode }) {
  const { mode, setMode } = useColorScheme();
  return (
    <Box
      component="header"
      sx={{
        display: 'flex',
        alignItems: 'center',
        gap: 2,
        height: 60,
        px: 2,
        bgcolor: 'background.paper',
        borderBottom: 1,
        borderColor: 'text.primary',
      }}
    >
      <Wordmark />
      <Box sx={{ flex: 1, minWidth: 0 }}>
        <Box component="nav" aria-label="pages" sx={{ display: 'flex', alignItems: 'baseline', gap: 2.2 }}>
          {PAGES.map((p) =>
            p.id === here ? (
              <Box key={p.id} component="h1" aria-current="page" sx={{ m: 0, typography: 'h1' }}>
                {p.name}
              </Box>
            ) : (
              <Box
                key={p.id}
                component={PageLink}
                href={p.href}
                sx={{ color: 'text.secondary', textDecoration: 'none', '&:hover': { color: 'text.primary', textDecoration: 'underline' } }}
              >
                {p.name}
              </Box>
            ),
          )}
        </Box>
        <Box
          className="narrow"
          sx={{ fontSize: 12.5, color: 'text.secondary', whiteSpace: 'nowrap', overflow: 'hidden', textOverflow: 'ellipsis' }}
        >
          {aside}
        </Box>
      </Box>
      <IconButton
        size="small"
        aria-label={mode === 'dark' ? 'Paper theme' : 'Night theme'}
        onClick={() => setMode(mode === 'dark' ? 'light' : 'dark')}
      >
        {mode === 'dark' ? <LightModeOutlined fontSize="small" /> : <DarkModeOutlined fontSize="small" />}
      </IconButton>
      {children}
    </Box>
  );
}
