'use client';

import Box from '@mui/material/Box';
import ToggleButton from '@mui/material/ToggleButton';
import ToggleButtonGroup from '@mui/material/ToggleButtonGroup';
import { useEffect, useState } from 'react';
import type { RunsWanted } from '@/server/db/runs';
import { useKept } from '@/sheet/kept';
import { Notices } from '@/sheet/notices';
import { TopBar } from '@/sheet/top-bar';
import { Answers } from './answers';
import { Chosen } from './chosen';
import { LessonsMargin } from './lessons';
import { useChosen, useRuns, useRunsAtHand } from './queries';
import { RunTable } from './table';
import { Wall } from './wall';
import { type Wanted, wantedFrom } from './wanted';
import { WhichRuns } from './which-runs';

/** Runs that can be compared at once. */
const MOST = 6;
const PAGE = 50;

/** What was tried, over all pieces: which runs, the runs, what some of them say when put side by side, what was learned. */
export function Logbook() {
  const [wanted, setWanted] = useKept<Wanted>('wellmorph-logbook', wantedFrom);
  const [sort, setSort] = useState<Pick<RunsWanted, 'sort' | 'order'>>({ sort: 'at', order: 'desc' });
  const [page, setPage] = useState(0);
  const [ids, setIds] = useState<string[]>([]);
  const [view, setView] = useKept<{ as: 'table' | 'wall' }>('wellmorph-logbook-view', ({ as }) => ({
    as: as === 'wall' ? 'wall' : 'table',
  }));
  // Asked for from a sheet: the runs of that piece and stage.
  useEffect(() => {
    const asked = wantedFrom(Object.fromEntries(new URLSearchParams(window.location.search)));
    if (Object.keys(asked).length > 0) setWanted(asked);
  }, []);
  const hand = useRunsAtHand();
  const { data, error, isFetching } = useRuns({ ...wanted, ...sort, page, size: PAGE });
  const { data: chosen = [] } = useChosen(ids);
  const change = (next: Wanted) => {
    setWanted(next);
    setPage(0);
    // Another stage has other figures: in order of what it doesn’t have there is none.
    if (next.stage !== wanted.stage && sort.sort?.startsWith('figure.')) setSort({ sort: 'at', order: 'desc' });
  };
  const toggle = (id: string) => setIds((list) => (list.includes(id) ? list.filter((x) => x !== id) : [...list, id].slice(-MOST)));
  const runs = data?.runs ?? [];
  const shown = ids.flatMap((id) => chosen.find((r) => r.id === id) ?? []);
  const since = hand?.since ? new Date(hand.since).toLocaleDateString('en-GB', { day: 'numeric', month: 'long', year: 'numeric' }) : null;
  return (
    <Box sx={{ height: '100vh', minWidth: 1024, display: 'grid', gridTemplateRows: 'auto minmax(0, 1fr)' }}>
      <TopBar
        here="logbook"
        aside={
          hand
            ? `${hand.total} ${hand.total === 1 ? 'run' : 'runs'} of ${hand.pieces.length} ${hand.pieces.length === 1 ? 'piece' : 'pieces'}${since ? ` · since ${since}` : ''}`
            : 'opening …'
        }
      >
        <ToggleButtonGroup value={view.as} onChange={(_, as) => as && setView({ as })} aria-label="how runs are shown">
          <ToggleButton value="table">Table</ToggleButton>
          <ToggleButton value="wall">Pictures</ToggleButton>
        </ToggleButtonGroup>
      </TopBar>
      <Box sx={{ display: 'grid', gridTemplateColumns: '236px minmax(0, 1fr) 250px', minHeight: 0 }}>
        <Box
          component="section"
          aria-label="which runs"
          sx={{ overflowY: 'auto', p: 1.6, borderRight: 1, borderColor: 'divider', bgcolor: 'background.paper' }}
        >
          <WhichRuns wanted={wanted} onChange={change} hand={hand} />
          <LessonsMargin />
        </Box>
        <Box component="main" sx={{ overflowY: 'auto', p: 1.6, bgcolor: 'sheet.plate', minWidth: 0 }}>
          {error && !data ? (
            <Box role="alert" sx={{ color: 'error.main' }}>
              {error.message}
            </Box>
          ) : view.as === 'wall' ? (
            <Wall runs={runs} total={data?.total ?? 0} page={page} size={PAGE} onPage={setPage} chosen={ids} onToggle={toggle} />
          ) : (
            <RunTable
              runs={runs}
              total={data?.total ?? 0}
              loading={isFetching && !data}
              stage={wanted.stage}
              page={page}
              size={PAGE}
              sort={sort}
              onSort={(s) => {
                setSort(s);
                setPage(0);
              }}
              onPage={setPage}
              chosen={ids}
              onChosen={(list) => setIds(list.slice(-MOST))}
            />
          )}
          <Answers chosen={shown} listed={runs} stage={wanted.stage} onOpen={(id) => !ids.includes(id) && toggle(id)} />
        </Box>
        <Box
          component="section"
          aria-label="what was chosen"
          tabIndex={0}
          sx={{ overflowY: 'auto', p: 1.6, borderLeft: 1, borderColor: 'divider', bgcolor: 'background.paper' }}
        >
          <Chosen runs={shown} listed={runs} onClear={() => setIds([])} />
        </Box>
      </Box>
      <Notices />
    </Box>
  );
}
