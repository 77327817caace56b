'use client';

import Box from '@mui/material/Box';
import TablePagination from '@mui/material/TablePagination';
import type { LoggedRun } from '@/server/db/runs';
import { Plain } from '@/sheet/plain';
import { inFigures } from '@/sheet/trial-words';

/** The runs as a wall of pictures. */
export function Wall({
  runs,
  total,
  page,
  size,
  onPage,
  chosen,
  onToggle,
}: {
  runs: readonly LoggedRun[];
  total: number;
  page: number;
  size: number;
  onPage(page: number): void;
  chosen: readonly string[];
  onToggle(id: string): void;
}) {
  if (runs.length === 0) return <Box sx={{ color: 'text.secondary', p: 2 }}>No run is like that.</Box>;
  return (
    <Box component="section" aria-label="runs">
      <Box sx={{ display: 'grid', gridTemplateColumns: 'repeat(auto-fill, minmax(132px, 1fr))', gap: 1 }}>
        {runs.map((r) => (
          <Plain
            key={r.id}
            aria-pressed={chosen.includes(r.id)}
            onClick={() => onToggle(r.id)}
            sx={{
              display: 'block',
              bgcolor: 'background.paper',
              border: 1,
              borderColor: chosen.includes(r.id) ? 'primary.main' : 'divider',
              outline: chosen.includes(r.id) ? '1px solid' : 'none',
              outlineColor: 'primary.main',
              opacity: r.verdict === 'dropped' ? 0.6 : 1,
              p: 0.8,
            }}
          >
            <Box sx={{ height: 104, display: 'grid', placeItems: 'center', bgcolor: 'sheet.paper' }}>
              {(r.thumbnail ?? r.piecePicture) ? (
                <Box
                  component="img"
                  loading="lazy"
                  src={`/api/blobs/${r.thumbnail ?? r.piecePicture}`}
                  alt=""
                  title={r.thumbnail ? undefined : 'The run kept no picture; this is the piece as it is now.'}
                  sx={{ maxWidth: '100%', height: 104, objectFit: 'contain', opacity: r.thumbnail ? 1 : 0.4 }}
                />
              ) : (
                <Box sx={{ color: 'text.secondary', fontSize: 12 }}>no picture</Box>
              )}
            </Box>
            <Box className="narrow" sx={{ fontSize: 12, mt: 0.4, whiteSpace: 'nowrap', overflow: 'hidden', textOverflow: 'ellipsis' }}>
              <b className="mono">{r.number}</b> {r.asset}
            </Box>
            <Box
              className="narrow"
              sx={{ fontSize: 11.5, color: 'text.secondary', whiteSpace: 'nowrap', overflow: 'hidden', textOverflow: 'ellipsis' }}
            >
              {inFigures(r, 'mm', 1) || r.title}
            </Box>
          </Plain>
        ))}
      </Box>
      <TablePagination
        component="div"
        count={total}
        page={page}
        rowsPerPage={size}
        rowsPerPageOptions={[size]}
        onPageChange={(_, p) => onPage(p)}
      />
    </Box>
  );
}
