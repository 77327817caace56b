'use client';

import ExpandLessOutlined from '@mui/icons-material/ExpandLessOutlined';
import ExpandMoreOutlined from '@mui/icons-material/ExpandMoreOutlined';
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Dialog from '@mui/material/Dialog';
import IconButton from '@mui/material/IconButton';
import { fieldName } from '@wellmorph/core/pipeline/field-names';
import { compareRuns, type Row } from '@wellmorph/core/plan/compare';
import { useEffect, useState } from 'react';
import type { Trial } from '@/server/db/trials';
import { useLengthUnit, useSession, useSheet } from '@/session/context';
import type { Station } from '@/shared/stations';
import { BakesOver } from './bakes-over';
import { LayoutsOver } from './layouts-over';
import { PageLink } from './page-link';
import { Plain, Written } from './plain';
import { inFigures, shownValue, took } from './trial-words';
import { Wipe } from './wipe';

/** Every attempt at this stage; two chosen ones open the comparison. */
export function Trials({ station }: { station: Station }) {
  const all = useSheet((s) => s.trials);
  const id = useSheet((s) => s.id);
  const mine = all.filter((t) => t.stage === station);
  const [folded, setFolded] = useState(false);
  const [chosen, setChosen] = useState<string[]>([]);
  useEffect(() => setChosen([]), [station]);
  useEffect(() => setFolded(localStorage.getItem('trials-folded') === '1'), []);
  if (station === 'brief') return <Box />;
  const toggle = () => {
    localStorage.setItem('trials-folded', folded ? '0' : '1');
    setFolded(!folded);
  };
  const pair = chosen.map((id) => mine.find((t) => t.id === id)).filter((t) => t !== undefined);
  return (
    <Box
      component="section"
      aria-label="trials"
      sx={{
        borderTop: 1,
        borderColor: 'text.primary',
        display: 'flex',
        gap: 1.5,
        px: 2,
        py: folded ? 0.4 : 1,
        alignItems: 'flex-start',
        minHeight: 36,
      }}
    >
      <Box sx={{ width: folded ? 'auto' : 108, flex: 'none' }}>
        <Box sx={{ display: 'flex', alignItems: 'center' }}>
          <b>Trials</b>
          <IconButton size="small" aria-label={folded ? 'Show trials' : 'Fold trials away'} onClick={toggle}>
            {folded ? <ExpandLessOutlined sx={{ fontSize: 17 }} /> : <ExpandMoreOutlined sx={{ fontSize: 17 }} />}
          </IconButton>
        </Box>
        {!folded && (
          <Box className="narrow" sx={{ fontSize: 12, color: 'text.secondary' }}>
            {mine.length} of this stage
            {chosen.length === 1 && <Box>choose one more to compare</Box>}
            {mine.length > 0 && (
              <PageLink href={`/logbook?asset=${id}&stage=${station}`} style={{ color: 'inherit', display: 'block' }}>
                in the logbook
              </PageLink>
            )}
          </Box>
        )}
      </Box>
      {!folded && (
        <Box sx={{ display: 'flex', gap: 1.2, overflowX: 'auto', flex: 1, minWidth: 0, pb: 0.3 }}>
          {mine.length === 0 && (
            <Box sx={{ color: 'text.secondary', py: 1 }}>
              Nothing tried here yet. Every solve, unwrap, bake, set, shot, picture and archive is kept with its settings and figures.
            </Box>
          )}
          {mine.map((t) => (
            <TrialCard
              key={t.id}
              trial={t}
              chosen={chosen.includes(t.id)}
              onChoose={() => setChosen((c) => (c.includes(t.id) ? c.filter((x) => x !== t.id) : [...c.slice(-1), t.id]))}
            />
          ))}
        </Box>
      )}
      {pair.length === 2 && <Comparison a={pair[0]} b={pair[1]} onClose={() => setChosen([])} />}
    </Box>
  );
}

function TrialCard({ trial: t, chosen, onChoose }: { trial: Trial; chosen: boolean; onChoose(): void }) {
  const session = useSession();
  const unit = useLengthUnit();
  const small = { fontSize: 12 } as const;
  const verdict = (v: string) => void session.judgeTrial(t.id, { verdict: t.verdict === v ? 'open' : v });
  return (
    <Box
      sx={{
        display: 'flex',
        width: 232,
        flex: 'none',
        border: 1,
        borderColor: chosen || t.verdict === 'kept' ? 'primary.main' : 'divider',
        borderRadius: 1,
        overflow: 'hidden',
        outline: chosen ? '1px solid' : 'none',
        outlineColor: 'primary.main',
        opacity: t.verdict === 'dropped' ? 0.6 : 1,
      }}
    >
      <Plain
        aria-pressed={chosen}
        aria-label={`Choose ${t.title} to compare`}
        onClick={onChoose}
        sx={{ width: 58, flex: 'none', bgcolor: 'sheet.paper', justifyContent: 'center', '&:focus-visible': { outlineOffset: -2 } }}
      >
        {t.thumbnail && (
          <Box component="img" src={`/api/blobs/${t.thumbnail}`} alt="" sx={{ width: 54, height: 62, objectFit: 'contain' }} />
        )}
      </Plain>
      <Box sx={{ p: 0.8, minWidth: 0, flex: 1 }}>
        <Box sx={{ fontWeight: 640, fontSize: 12.5, whiteSpace: 'nowrap', overflow: 'hidden', textOverflow: 'ellipsis' }} title={t.title}>
          {t.title}
        </Box>
        <Box
          className="narrow"
          sx={{ fontSize: 11.5, color: 'text.secondary', whiteSpace: 'nowrap', overflow: 'hidden', textOverflow: 'ellipsis' }}
        >
          {inFigures(t, unit)}
        </Box>
        <Box sx={{ display: 'flex', gap: 1.2, mt: 0.3, alignItems: 'baseline' }}>
          <Plain
            aria-pressed={t.verdict === 'kept'}
            onClick={() => verdict('kept')}
            sx={{ ...small, color: t.verdict === 'kept' ? 'primary.main' : 'text.secondary', fontWeight: t.verdict === 'kept' ? 680 : 450 }}
          >
            {t.verdict === 'kept' ? 'kept' : 'keep'}
          </Plain>
          <Plain
            aria-pressed={t.verdict === 'dropped'}
            onClick={() => verdict('dropped')}
            sx={{ ...small, color: 'text.secondary', fontWeight: t.verdict === 'dropped' ? 680 : 450 }}
          >
            {t.verdict === 'dropped' ? 'dropped' : 'drop'}
          </Plain>
          {t.canTake && (
            <Plain
              title="Set everything as it was for this one; undo brings back what is set now"
              onClick={() => void session.takeTrial(t)}
              sx={{ ...small, color: 'text.secondary' }}
            >
              take up
            </Plain>
          )}
          <Note trial={t} />
        </Box>
      </Box>
    </Box>
  );
}

function Note({ trial: t }: { trial: Trial }) {
  const session = useSession();
  const [text, setText] = useState<string | null>(null);
  const done = () => {
    if (text !== null && text !== t.note) void session.judgeTrial(t.id, { note: text });
    setText(null);
  };
  return (
    <Written
      line
      placeholder="note"
      value={text ?? t.note}
      title={t.note}
      inputProps={{ 'aria-label': 'Note', maxLength: 500 }}
      onChange={(e) => setText(e.target.value)}
      onBlur={done}
      onKeyDown={(e) => e.key === 'Enter' && done()}
      sx={{ flex: 1, minWidth: 0, fontSize: 12, borderBottomStyle: 'dotted' }}
    />
  );
}

function Comparison({ a, b, onClose }: { a: Trial; b: Trial; onClose(): void }) {
  const unit = useLengthUnit();
  const { settings, figures, sentence } = compareRuns([a, b]);
  const row = (label: string, x: string, y: string) => (
    <Box key={label} sx={{ display: 'contents' }}>
      <Box>{label}</Box>
      <Box className="mono" sx={{ textAlign: 'right' }}>
        {x}
      </Box>
      <Box className="mono" sx={{ textAlign: 'right' }}>
        {y}
      </Box>
    </Box>
  );
  const rows = (list: readonly Row[]) => list.map(([k, x, y]) => row(fieldName(k), shownValue(k, x, unit), shownValue(k, y, unit)));
  const pictures = (a.stage === 'render' || a.stage === 'surface') && a.thumbnail && b.thumbnail ? [a.thumbnail, b.thumbnail] : null;
  return (
    <Dialog open onClose={onClose} aria-labelledby="compare-title" maxWidth={pictures || a.stage === 'bake' ? 'lg' : 'sm'} fullWidth>
      <Box sx={{ p: 3 }}>
        <Box id="compare-title" component="h2" sx={{ typography: 'h2', mt: 0 }}>
          {a.title} against {b.title}
        </Box>
        {pictures && <Wipe left={`/api/blobs/${pictures[0]}`} right={`/api/blobs/${pictures[1]}`} names={[a.title, b.title]} />}
        {a.stage === 'unwrap' && <LayoutsOver a={a} b={b} />}
        {a.stage === 'bake' && <BakesOver a={a} b={b} />}
        <Box sx={{ mb: 2, color: settings.length > 1 ? 'warning.main' : 'text.primary' }}>{sentence}</Box>
        <Box sx={{ display: 'grid', gridTemplateColumns: '1fr auto auto', columnGap: 3, rowGap: 0.5 }}>
          {rows(settings)}
          <Box sx={{ gridColumn: '1 / -1', borderTop: 1, borderColor: 'divider', my: 0.5 }} />
          {rows(figures)}
          {row('took', took(a), took(b))}
        </Box>
        <Box sx={{ mt: 2, textAlign: 'right' }}>
          <Button variant="contained" onClick={onClose}>
            Close
          </Button>
        </Box>
      </Box>
    </Dialog>
  );
}
