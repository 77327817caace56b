'use client';

import Box from '@mui/material/Box';
import type { Trial } from '@/server/db/trials';
import { useTrialFiles } from './trial-files';

const COLOURS = ['info.main', 'warning.main'] as const;

/** Two layouts laid over each other, each in a colour of its own: darker where both have islands. */
export function LayoutsOver({ a, b }: { a: Trial; b: Trial }) {
  const files = useTrialFiles(a, b);
  if (files === undefined) return null;
  const pair = files?.flatMap((f) => f.png ?? []) ?? [];
  if (pair.length < 2) return <Box sx={{ color: 'text.secondary', fontSize: 12.5, mb: 2 }}>The pictures of the two can’t be had.</Box>;
  return (
    <Box sx={{ mb: 2 }}>
      <Box
        role="img"
        aria-label="Both layouts laid over each other"
        sx={{ height: '44vh', minHeight: 300, bgcolor: 'sheet.plate', border: 1, borderColor: 'divider', p: 1 }}
      >
        <Box sx={{ position: 'relative', height: '100%', aspectRatio: '1', mx: 'auto', border: 1, borderColor: 'sheet.muted' }}>
          {pair.map((picture, i) => (
            <Box
              key={COLOURS[i]}
              sx={{
                position: 'absolute',
                inset: 0,
                bgcolor: COLOURS[i],
                opacity: 0.5,
                maskImage: `url(${picture})`,
                maskSize: 'contain',
                maskRepeat: 'no-repeat',
                maskPosition: 'center',
              }}
            />
          ))}
        </Box>
      </Box>
      <Box className="narrow" sx={{ display: 'flex', gap: 2, mt: 0.6, fontSize: 12 }}>
        {[a, b].map((t, i) => (
          <Box key={t.id} sx={{ display: 'flex', alignItems: 'center', gap: 0.6, minWidth: 0 }}>
            <Box sx={{ width: 12, height: 12, flex: 'none', bgcolor: COLOURS[i], opacity: 0.5 }} />
            <Box sx={{ overflow: 'hidden', textOverflow: 'ellipsis', whiteSpace: 'nowrap' }}>
              {i === 0 ? 'the first' : 'the second'}: {t.title}
            </Box>
          </Box>
        ))}
      </Box>
    </Box>
  );
}
