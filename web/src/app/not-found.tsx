import Box from '@mui/material/Box';
import Link from 'next/link';

export default function NotFound() {
  return (
    <Box component="main" sx={{ p: 6, maxWidth: 560, fontSize: 14.5, lineHeight: 1.55 }}>
      <Box component="h1" sx={{ typography: 'h1' }}>
        There is no such page
      </Box>
      <p>
        The address leads nowhere. <Link href="/">Back to the workshop</Link>
      </p>
    </Box>
  );
}
