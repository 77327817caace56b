'use client';

import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Link from 'next/link';

/** Where a page could not be drawn: what to do, and what has become of the work. */
export default function Failed({ error, reset }: { error: Error & { digest?: string }; reset(): void }) {
  return (
    <Box component="main" role="alert" sx={{ p: 6, maxWidth: 560, fontSize: 14.5, lineHeight: 1.55 }}>
      <Box component="h1" sx={{ typography: 'h1' }}>
        This page could not be drawn
      </Box>
      <p>
        Something in it failed. Nothing you changed is lost: what was not sent yet is kept in this browser, and is sent as soon as the piece
        is open again.
      </p>
      <Box sx={{ display: 'flex', gap: 1, my: 2 }}>
        <Button variant="contained" onClick={reset}>
          Try again
        </Button>
        <Button variant="outlined" component={Link} href="/">
          Back to the workshop
        </Button>
      </Box>
      <Box component="p" className="mono" sx={{ fontSize: 12, color: 'text.secondary' }}>
        {error.message}
        {error.digest && ` (${error.digest})`}
      </Box>
    </Box>
  );
}
