'use client';

import CloseOutlined from '@mui/icons-material/CloseOutlined';
import Box from '@mui/material/Box';
import IconButton from '@mui/material/IconButton';
import { useBench, useBenchState } from '@/session/context';

export function Notices() {
  const { dismiss } = useBench();
  const notices = useBenchState((s) => s.notices);
  return (
    <Box
      aria-live="polite"
      sx={{
        position: 'fixed',
        bottom: 18,
        left: '50%',
        transform: 'translateX(-50%)',
        display: 'flex',
        flexDirection: 'column',
        gap: 1,
        zIndex: 1400,
        maxWidth: 620,
      }}
    >
      {notices.map((n) => (
        <Box
          key={n.id}
          role={n.level === 'error' ? 'alert' : undefined}
          sx={{
            display: 'flex',
            alignItems: 'center',
            gap: 1,
            pl: 1.6,
            pr: 0.6,
            py: 0.6,
            bgcolor: 'background.paper',
            border: 1,
            borderLeft: 4,
            borderColor: n.level === 'error' ? 'error.main' : 'primary.main',
            borderRadius: 1,
          }}
        >
          <Box sx={{ flex: 1 }}>{n.text}</Box>
          <IconButton size="small" aria-label="Close" onClick={() => dismiss(n.id)}>
            <CloseOutlined sx={{ fontSize: 16 }} />
          </IconButton>
        </Box>
      ))}
    </Box>
  );
}
