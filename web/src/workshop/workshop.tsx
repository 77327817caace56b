'use client';

import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Typography from '@mui/material/Typography';
import { useQuery, useQueryClient } from '@tanstack/react-query';
import { figure } from '@wellmorph/core/units/lengths';
import { useRouter } from 'next/navigation';
import { useEffect, useMemo, useState } from 'react';
import { afterFirstLook } from '@/plates/first-look';
import { Piece } from '@/plates/plate';
import { warmDrawing } from '@/plates/warm';
import type { StoredSizes } from '@/server/blobs/collect';
import type { Card } from '@/server/workshop';
import { get, send } from '@/session/api';
import { askAgain } from '@/session/ask-again';
import { useBench } from '@/session/context';
import { Choice } from '@/sheet/fields';
import { useFiles } from '@/sheet/file-input';
import { useKept } from '@/sheet/kept';
import { MODEL_AND_ASSET_FILES } from '@/sheet/model-files';
import { Notices } from '@/sheet/notices';
import { SheetPage } from '@/sheet/page';
import { Written } from '@/sheet/plain';
import { TopBar } from '@/sheet/top-bar';
import { isTyping, toSearch } from '@/sheet/typing';
import { AssetCard } from './card';
import { ImportDialog, LIMIT_MB, NewAsset } from './dialogs';
import { ORDERS, type Order, ordered, orderFrom, SHOWN } from './order';
import { QueueAndDue } from './queue';

/** All assets with their gauges and how they stand. */
export function Workshop() {
  const router = useRouter();
  const queries = useQueryClient();
  const { data: cards = null, error } = useQuery({ queryKey: ['cards'], queryFn: () => get<Card[]>('/api/assets') });
  const wrong = error && !cards ? error.message : null;
  const [making, setMaking] = useState(false);
  const [files, setFiles] = useState<File[] | null>(null);
  const load = () => askAgain(queries, 'cards');
  const place = useFiles({ label: 'Model file', accept: MODEL_AND_ASSET_FILES, several: true, onFiles: setFiles });
  const [search, setSearch] = useState('');
  const [chosen, setChosen] = useKept('wellmorph-order', orderFrom);
  const order = useMemo((): Order => ({ search, by: chosen.by, show: chosen.show }), [search, chosen]);
  const setOrder = ({ search: words, ...rest }: Order) => {
    setSearch(words);
    setChosen(rest);
  };
  const shown = useMemo(() => ordered(cards ?? [], order), [cards, order]);
  const remove = async (card: Card) => {
    await send('PATCH', `/api/assets/${card.id}`, { deleted: true });
    await load();
    setUndo(card);
  };
  const [undo, setUndo] = useState<Card | null>(null);
  useEffect(() => {
    if (!undo) return;
    const timer = setTimeout(() => setUndo(null), 12_000);
    return () => clearTimeout(timer);
  }, [undo]);
  const restore = async (card: Card) => {
    await send('PATCH', `/api/assets/${card.id}`, { deleted: false });
    setUndo(null);
    await load();
  };
  const bench = useBench();
  const there = cards !== null;
  // What opening a piece needs is fetched while somebody looks for one.
  useEffect(
    () =>
      there
        ? afterFirstLook(() => {
            bench.pool.warm();
            warmDrawing();
            // Where it can’t be fetched now, it is when it is wanted.
            SheetPage.warm()
              .then(Piece.warm)
              .catch(() => {});
          })
        : undefined,
    [there, bench],
  );
  const over = cards?.filter((c) => Object.values(c.stages).includes('over')).length ?? 0;
  return (
    <Box {...place.zone} sx={{ minHeight: '100vh', minWidth: 1024, outline: 'none' }}>
      <TopBar
        here="workshop"
        aside={
          cards === null
            ? 'opening …'
            : `${cards.length} ${cards.length === 1 ? 'asset' : 'assets'}${over > 0 ? ` · ${over} with something to mend` : ''}`
        }
      >
        <Button variant="outlined" onClick={place.choose} disabled={!cards}>
          Import a model
        </Button>
        <Button variant="contained" disabled={!cards} onClick={() => setMaking(true)}>
          New asset
        </Button>
        {place.input}
      </TopBar>
      {cards && <QueueAndDue cards={cards} />}
      <Box component="main" sx={{ p: 2.5 }}>
        {wrong && (
          <Box role="alert" sx={{ color: 'error.main', mb: 2 }}>
            {wrong}{' '}
            <Button variant="outlined" onClick={() => void load()}>
              Try again
            </Button>
          </Box>
        )}
        {cards?.length === 0 && (
          <Box sx={{ maxWidth: 460, mx: 'auto', mt: 12, textAlign: 'center', color: 'text.secondary', fontSize: 15 }}>
            No assets yet. Make one from dimensioned steps, or drop a model here: OBJ with its MTL, GLB or glTF, or an asset file, up to{' '}
            {LIMIT_MB} MB.
            <Box sx={{ mt: 2, display: 'flex', gap: 1, justifyContent: 'center' }}>
              <Button variant="contained" onClick={() => setMaking(true)}>
                New asset
              </Button>
              <Button variant="outlined" onClick={place.choose}>
                Import a model
              </Button>
            </Box>
          </Box>
        )}
        {cards && cards.length > 0 && <Finder order={order} onOrder={setOrder} shown={shown.length} of={cards.length} />}
        <Box sx={{ display: 'grid', gridTemplateColumns: 'repeat(auto-fill, minmax(390px, 1fr))', gap: 2 }}>
          {shown.map((c, i) => (
            <AssetCard key={c.id} card={c} ahead={i === 0} onChanged={load} onDelete={() => void remove(c)} />
          ))}
        </Box>
        {cards && cards.length > 0 && <StoreLine />}
      </Box>
      {place.over && (
        <Box
          sx={{
            position: 'fixed',
            inset: 12,
            border: 2,
            borderStyle: 'dashed',
            borderColor: 'primary.main',
            bgcolor: 'sheet.tint',
            opacity: 0.94,
            display: 'grid',
            placeItems: 'center',
            zIndex: 1300,
            pointerEvents: 'none',
            fontSize: 18,
            fontWeight: 600,
          }}
        >
          Drop the model here
        </Box>
      )}
      {undo && (
        <Box
          role="status"
          sx={{
            position: 'fixed',
            bottom: 20,
            left: '50%',
            transform: 'translateX(-50%)',
            bgcolor: 'background.paper',
            border: 1,
            borderColor: 'text.primary',
            borderRadius: 1,
            px: 2,
            py: 1,
            display: 'flex',
            gap: 2,
            alignItems: 'center',
          }}
        >
          “{undo.name}” was deleted.{' '}
          <Button variant="outlined" onClick={() => void restore(undo)}>
            Bring it back
          </Button>
        </Box>
      )}
      <NewAsset open={making} onClose={() => setMaking(false)} onMade={(id) => router.push(`/assets/${id}/brief`)} />
      {files && <ImportDialog files={files} onClose={() => setFiles(null)} onDone={(id) => router.push(`/assets/${id}/form`)} />}
      <Notices />
    </Box>
  );
}

/** What is looked for among the cards, and how they are ordered; and for who is new here, what to press. */
function Finder({ order, onOrder, shown, of }: { order: Order; onOrder(o: Order): void; shown: number; of: number }) {
  useEffect(() => {
    const onKey = (e: KeyboardEvent) => {
      if (e.key === '/' && !isTyping(e.target) && toSearch()) e.preventDefault();
    };
    window.addEventListener('keydown', onKey);
    return () => window.removeEventListener('keydown', onKey);
  }, []);
  return (
    <Box sx={{ display: 'flex', alignItems: 'center', gap: 2, mb: 1.6 }}>
      <Box className="narrow" sx={{ flex: 1, minWidth: 0, fontSize: 13, color: 'text.secondary' }}>
        {shown === of
          ? 'Press a piece to work on it, “New asset” to begin one, or drop a model anywhere on this page.'
          : shown === 0
            ? 'No asset is like that.'
            : `${shown} of ${of}`}
      </Box>
      <Written
        inputProps={{ 'data-search': '', 'aria-label': 'Search assets', maxLength: 120 }}
        placeholder="search  /"
        value={order.search}
        onChange={(e) => onOrder({ ...order, search: e.target.value })}
        onKeyDown={(e) => e.key === 'Escape' && onOrder({ ...order, search: '' })}
        sx={{ width: 170 }}
      />
      <Choice
        label="Show"
        value={order.show}
        choices={Object.entries(SHOWN) as [Order['show'], string][]}
        onChange={(show) => onOrder({ ...order, show })}
      />
      <Choice
        label="Order"
        value={order.by}
        choices={Object.entries(ORDERS) as [Order['by'], string][]}
        onChange={(by) => onOrder({ ...order, by })}
      />
    </Box>
  );
}

/** How much is stored for all of it, and how much of that will go by itself. */
function StoreLine() {
  const { data } = useQuery({ queryKey: ['store'], queryFn: () => get<StoredSizes>('/api/store'), refetchOnMount: 'always' });
  if (!data) return null;
  const mb = (n: number) => `${figure(n / 1e6, 1)} MB`;
  return (
    <Typography component="footer" variant="body2" color="text.secondary" sx={{ mt: 2.5 }}>
      {mb(data.bytes)} stored in {figure(data.files, 0)} files, {figure(data.results, 0)} results.{' '}
      {data.idleBytes > 0
        ? `${mb(data.idleBytes)} of it belongs to no state that undo or a trial can come back to, and goes a day after it was last used.`
        : 'All of it belongs to a state that undo or a trial can come back to.'}
    </Typography>
  );
}
