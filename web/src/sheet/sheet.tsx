'use client';

import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import { useRouter } from 'next/navigation';
import { useEffect, useState } from 'react';
import { useSheetOpens } from '@/plates/first-look';
import { SessionProvider, useBench, useSession, useSheet } from '@/session/context';
import type { AssetSession } from '@/session/session';
import { STATIONS, type Station } from '@/shared/stations';
import { BakeStage } from '@/stages/bake/bake';
import { BriefStage } from '@/stages/brief/brief';
import { FormStage } from '@/stages/form/form';
import { HandOffStage } from '@/stages/hand-off/hand-off';
import { LightStage } from '@/stages/light/light';
import { RenderStage } from '@/stages/render/render';
import { SurfaceStage } from '@/stages/surface/surface';
import { UnwrapStage } from '@/stages/unwrap/unwrap';
import { Opening } from '@/theme/opening';
import { Keys } from './keys';
import { Notices } from './notices';
import { StageLine } from './stage-line';
import { TitleBlock } from './title-block';
import { Trials } from './trials';
import { isTyping, toSearch } from './typing';
import { useTimeKept } from './use-time-kept';

/** An asset's sheet at one of its stations; it lives as long as the asset is open, whichever station is looked at. */
export function Sheet({ id, station }: { id: string; station: Station }) {
  const bench = useBench();
  const [session, setSession] = useState<AssetSession | null>(null);
  useEffect(() => {
    const opened = bench.open(id);
    setSession(opened);
    return () => bench.leave(opened);
  }, [bench, id]);
  if (session?.id !== id) return <Opening>Opening the sheet …</Opening>;
  return (
    <SessionProvider value={session}>
      <OpenSheet id={id} station={station} />
    </SessionProvider>
  );
}

/** The frame every stage stands in: title block, stage line, the stage itself, trials. */
function OpenSheet({ id, station }: { id: string; station: Station }) {
  const router = useRouter();
  const { stepHistory } = useSession();
  useSheetOpens();
  useTimeKept(id, station);
  const [help, setHelp] = useState(false);
  // What is in it is each part of the sheet’s own business: an edit draws anew what it changes, not all of it.
  const there = useSheet((s) => s.document !== null);
  const missing = useSheet((s) => s.missing);
  useEffect(() => {
    const onKey = (e: KeyboardEvent) => {
      const typing = isTyping(e.target);
      // In a figure that stands as it is stored there is nothing to take back but the last change itself.
      const settled = e.target instanceof HTMLElement && e.target.dataset.settled !== undefined;
      if ((e.ctrlKey || e.metaKey) && e.key.toLowerCase() === 'z' && (!typing || settled)) {
        e.preventDefault();
        void stepHistory(e.shiftKey ? 'redo' : 'undo');
      } else if (typing || e.ctrlKey || e.metaKey || e.altKey) return;
      else if (/^[1-8]$/.test(e.key)) router.push(`/assets/${id}/${STATIONS[Number(e.key) - 1].id}`);
      else if (e.key === '?') setHelp(true);
      else if (e.key === '/' && toSearch()) e.preventDefault();
    };
    window.addEventListener('keydown', onKey);
    return () => window.removeEventListener('keydown', onKey);
  }, [id, router, stepHistory]);

  if (missing)
    return (
      <Box sx={{ p: 6, maxWidth: 520 }}>
        <Box component="h1" sx={{ typography: 'h1' }}>
          This sheet can’t be opened
        </Box>
        <p>{missing}</p>
        <Button variant="contained" onClick={() => router.push('/')}>
          Back to the workshop
        </Button>
      </Box>
    );
  return (
    <Box
      sx={{
        height: '100vh',
        minWidth: 1024,
        display: 'grid',
        gridTemplateRows: 'auto auto minmax(0, 1fr) auto',
        // However many trials there are, they scroll in their own row.
        gridTemplateColumns: 'minmax(0, 1fr)',
        bgcolor: 'background.paper',
        overflow: 'hidden',
      }}
    >
      <TitleBlock />
      <StageLine id={id} station={station} />
      {there ? (
        <Box component="main" sx={{ minHeight: 0 }}>
          {station === 'brief' && <BriefStage />}
          {station === 'form' && <FormStage />}
          {station === 'unwrap' && <UnwrapStage />}
          {station === 'bake' && <BakeStage />}
          {station === 'surface' && <SurfaceStage />}
          {station === 'light' && <LightStage />}
          {station === 'render' && <RenderStage />}
          {station === 'hand-off' && <HandOffStage />}
        </Box>
      ) : (
        <Box sx={{ bgcolor: 'sheet.plate', display: 'grid', placeItems: 'center', color: 'text.secondary' }}>Opening the sheet …</Box>
      )}
      <Trials station={station} />
      <Notices />
      <Keys open={help} onClose={() => setHelp(false)} />
    </Box>
  );
}
