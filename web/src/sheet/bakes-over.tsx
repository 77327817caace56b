'use client';

import Box from '@mui/material/Box';
import type { BakeFile } from '@wellmorph/core/pipeline/bake';
import { useState } from 'react';
import type { Trial } from '@/server/db/trials';
import { MapChoice, shownFile } from '@/stages/bake/shown';
import { useTrialFiles } from './trial-files';
import { Wipe } from './wipe';

/** One map of two bakes in one frame, an edge between them. */
export function BakesOver({ a, b }: { a: Trial; b: Trial }) {
  const files = useTrialFiles(a, b);
  const [map, setMap] = useState<BakeFile>('normal');
  if (files === undefined) return null;
  const both = Object.fromEntries(Object.entries(files?.[0] ?? {}).filter(([name]) => files?.[1][name]));
  const file = shownFile(both, map);
  const [left, right] = [files?.[0][file ?? ''], files?.[1][file ?? '']];
  if (!file || !left || !right) return <Box sx={{ color: 'text.secondary', fontSize: 12.5, mb: 2 }}>No map of the two can be had.</Box>;
  return (
    <>
      <Box sx={{ mb: 1 }}>
        <MapChoice files={both} value={file} onChoose={setMap} />
      </Box>
      <Wipe left={left} right={right} names={[a.title, b.title]} />
    </>
  );
}
