'use client';

import Alert from '@mui/material/Alert';
import Snackbar from '@mui/material/Snackbar';
import Stack from '@mui/material/Stack';
import { useBench, useBenchState } from '@/session/context';

/** What happened, said at the foot of the page until it is closed or has been read. */
export function Notices() {
  const { dismiss } = useBench();
  const notices = useBenchState((s) => s.notices);
  return (
    <Snackbar open={notices.length > 0} anchorOrigin={{ vertical: 'bottom', horizontal: 'center' }}>
      <Stack spacing={1} aria-live="polite" sx={{ maxWidth: 620 }}>
        {notices.map((n) => (
          <Alert
            key={n.id}
            icon={false}
            variant="outlined"
            severity={n.level === 'error' ? 'error' : 'info'}
            // What is only told doesn't break into what is being read.
            role={n.level === 'error' ? 'alert' : 'status'}
            closeText="Close"
            onClose={() => dismiss(n.id)}
          >
            {n.text}
          </Alert>
        ))}
      </Stack>
    </Snackbar>
  );
}
