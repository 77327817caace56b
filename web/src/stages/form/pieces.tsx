'use client';

import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Dialog from '@mui/material/Dialog';
import { useQuery } from '@tanstack/react-query';
import { useEffect, useState } from 'react';
import type { OtherPiece } from '@/server/import/pieces';
import { get, send } from '@/session/api';
import { useSession } from '@/session/context';
import { sentence } from '@/session/session';
import { Choice } from '@/sheet/fields';

/** The other pieces of the Workshop, as they are now; asked anew whenever something there changes. */
export function useOtherPieces(wanted = true) {
  const { id } = useSession();
  return useQuery({
    queryKey: ['pieces', id],
    queryFn: () => get<OtherPiece[]>(`/api/assets/${id}/pieces`),
    enabled: wanted,
    refetchOnWindowFocus: true,
    staleTime: 2000,
  });
}

/** Brings another piece of the Workshop into the one that is open, with its materials. */
export function PieceDialog({ onClose }: { onClose(): void }) {
  const session = useSession();
  const { data, error: unread } = useOtherPieces();
  const [from, setFrom] = useState('');
  const [kept, setKept] = useState<'linked' | 'frozen'>('linked');
  const [busy, setBusy] = useState(false);
  const [wrong, setWrong] = useState<string | null>(null);
  const pieces = (data ?? []).filter((p) => p.parts > 0);
  useEffect(() => {
    if (from === '' && pieces.length > 0) setFrom(pieces[0].id);
  }, [from, pieces]);
  const name = pieces.find((p) => p.id === from)?.name ?? '';
  const bring = async () => {
    setBusy(true);
    setWrong(null);
    try {
      await session.lane.flushed();
      const answer = { from, frozen: kept === 'frozen' };
      const { parts, notes } = await send<{ parts: string[]; notes: string[] }>('POST', `/api/assets/${session.id}/pieces`, answer);
      await session.refresh();
      if (session.document?.parts.some((p) => p.id === parts[0])) session.select({ part: parts[0], step: null });
      session.notify([`${parts.length === 1 ? 'One part' : `${parts.length} parts`} came in from ${name}.`, ...notes].join(' '));
      onClose();
    } catch (error) {
      setWrong(sentence(error));
      setBusy(false);
    }
  };
  return (
    <Dialog open onClose={busy ? undefined : onClose} aria-labelledby="piece-title">
      <Box sx={{ p: 3, width: 440 }}>
        <Box id="piece-title" component="h2" sx={{ typography: 'h2', mt: 0 }}>
          Bring in another piece
        </Box>
        {data && pieces.length === 0 ? (
          <Box sx={{ color: 'text.secondary' }}>No other piece of the Workshop has parts yet.</Box>
        ) : (
          <>
            <Choice
              label="Piece"
              value={from}
              choices={
                data ? pieces.map((p) => [p.id, `${p.name} · ${p.parts} ${p.parts === 1 ? 'part' : 'parts'}`] as const) : [['', '…']]
              }
              onChange={setFrom}
            />
            <Choice
              label="Kept"
              hint={kept === 'linked' ? 'a newer state can be taken later' : 'stays as it is today'}
              value={kept}
              choices={[
                ['linked', 'linked'],
                ['frozen', 'frozen'],
              ]}
              onChange={setKept}
            />
            <Box className="narrow" sx={{ color: 'text.secondary', fontSize: 12.5, mt: 1 }}>
              Its parts come as they are formed, low and high, with their materials; their recipes stay in {name || 'their piece'}.
            </Box>
          </>
        )}
        {(wrong || unread) && (
          <Box role="alert" sx={{ color: 'error.main', mt: 1 }}>
            {wrong ?? sentence(unread)}
          </Box>
        )}
        <Box sx={{ mt: 2, display: 'flex', gap: 1, justifyContent: 'flex-end' }}>
          <Button variant="outlined" disabled={busy} onClick={onClose}>
            Cancel
          </Button>
          <Button variant="contained" disabled={busy || from === ''} onClick={() => void bring()}>
            {busy ? 'Forming it …' : 'Bring it in'}
          </Button>
        </Box>
      </Box>
    </Dialog>
  );
}
