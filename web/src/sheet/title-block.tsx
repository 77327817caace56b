'use client';

import CloseOutlined from '@mui/icons-material/CloseOutlined';
import DarkModeOutlined from '@mui/icons-material/DarkModeOutlined';
import HistoryOutlined from '@mui/icons-material/HistoryOutlined';
import LightModeOutlined from '@mui/icons-material/LightModeOutlined';
import RedoOutlined from '@mui/icons-material/RedoOutlined';
import UndoOutlined from '@mui/icons-material/UndoOutlined';
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Chip from '@mui/material/Chip';
import IconButton from '@mui/material/IconButton';
import List from '@mui/material/List';
import ListItem from '@mui/material/ListItem';
import ListItemText from '@mui/material/ListItemText';
import Popover from '@mui/material/Popover';
import { useColorScheme } from '@mui/material/styles';
import Tooltip from '@mui/material/Tooltip';
import { adviseBrief } from '@wellmorph/core/brief/advice';
import { PURPOSES } from '@wellmorph/core/brief/brief';
import { inWords } from '@wellmorph/core/pipeline/commands/index';
import { textureMemoryMB } from '@wellmorph/core/pipeline/delivered';
import { variantName } from '@wellmorph/core/pipeline/variants';
import { figure, inUnit } from '@wellmorph/core/units/lengths';
import { memo, useState } from 'react';
import { useLengths, useSession, useSheet } from '@/session/context';
import { isFresh } from '@/session/state';
import { daysInWords } from '@/shared/times';
import { Gauge } from './gauge';
import { Wordmark } from './marks';
import { NamedStates } from './named-states';
import { PageLink } from './page-link';
import { Plain, Written } from './plain';

const DAY = 86_400_000;
const thin = (n: number, d = 0) => figure(n, d);

export function TitleBlock() {
  const document = useSheet((s) => s.document);
  const form = useSheet((s) => s.form);
  const layout = useSheet((s) => s.unwrap);
  const saving = useSheet((s) => s.saving);
  if (!document) return <Box sx={{ height: 60, borderBottom: 1, borderColor: 'text.primary' }} />;
  const { brief } = document;
  const advice = adviseBrief(brief);
  const size = form && form.ledger.triangles > 0 ? form.ledger.sizeMm : brief.sizeMm;
  const density = isFresh(document, layout, 'unwrap') ? (layout?.figures.density ?? null) : null;
  const wanted = advice.wanted.densityPxPerCm;
  const triangles = form?.ledger.triangles ?? null;
  const memory = textureMemoryMB(document);
  const days = brief.deadline ? Math.ceil((Date.parse(brief.deadline) - Date.now()) / DAY) : null;
  return (
    <Box
      component="header"
      sx={{ display: 'flex', alignItems: 'center', gap: 2, height: 60, px: 2, borderBottom: 1, borderColor: 'text.primary' }}
    >
      <PageLink href="/" aria-label="Back to the workshop" style={{ display: 'flex' }}>
        <Wordmark />
      </PageLink>
      <Box sx={{ minWidth: 0, flex: 1 }}>
        <Box sx={{ display: 'flex', alignItems: 'center', gap: 1, minWidth: 0 }}>
          <Title name={document.name} />
          <LookedAtAs />
        </Box>
        <Box
          className="narrow"
          sx={{ fontSize: 12.5, color: 'text.secondary', whiteSpace: 'nowrap', overflow: 'hidden', textOverflow: 'ellipsis' }}
        >
          {inUnit(size, brief.unit, 0)} · {PURPOSES[brief.purpose]} · closest view {inUnit(brief.closestMm, brief.unit, 0)} ·{' '}
          {document.parts.length} {document.parts.length === 1 ? 'part' : 'parts'} ·{' '}
          <span role="status">{saving === 'saved' ? 'saved' : saving === 'saving' ? 'saving …' : 'not saved yet, trying again'}</span>
        </Box>
      </Box>
      <Box sx={{ display: 'flex', gap: 2.4 }}>
        <Gauge
          label="Triangles"
          value={triangles}
          limit={brief.limits.triangles}
          words={[triangles === null ? '–' : thin(triangles), `of ${thin(brief.limits.triangles)}`]}
          aside={triangles === null ? '' : `${thin((100 * triangles) / brief.limits.triangles)} %`}
        />
        <Gauge
          label="Texel density"
          value={density}
          limit={wanted}
          higherIsBetter
          words={[density === null ? '–' : thin(density, 1), `px/cm, wanted ${thin(wanted, 1)}`]}
          aside={density === null ? '' : `${density >= wanted ? '+' : '−'}${thin(Math.abs(100 * (density / wanted - 1)))} %`}
        />
        <Box sx={{ display: { xs: 'none', lg: 'block' } }}>
          <Gauge
            label="Texture memory"
            value={memory}
            limit={brief.limits.memoryMB}
            words={[thin(memory, 1), `of ${thin(brief.limits.memoryMB)} MB`]}
            aside={`${thin((100 * memory) / brief.limits.memoryMB)} %`}
          />
        </Box>
        <Box sx={{ display: { xs: 'none', lg: 'block' }, width: 96 }}>
          <Box className="narrow" sx={{ fontSize: 11.5, color: 'text.secondary', lineHeight: 1.3 }}>
            Deadline
          </Box>
          <Box sx={{ fontSize: 13.5, whiteSpace: 'nowrap', color: days !== null && days < 0 ? 'error.main' : 'text.primary' }}>
            {days === null ? (
              <span>none set</span>
            ) : days < 0 ? (
              <b>{daysInWords(-days)} past</b>
            ) : (
              <>
                <b>{days}</b>{' '}
                <Box component="span" className="narrow" sx={{ color: 'text.secondary', fontSize: 12.5 }}>
                  days left
                </Box>
              </>
            )}
          </Box>
        </Box>
      </Box>
      <Refused />
      <Tools />
    </Box>
  );
}

/** Which variant the piece is looked at as, on every sheet, and the way back. */
function LookedAtAs() {
  const session = useSession();
  const variant = useSheet((s) => s.document && variantName(s.document));
  if (!variant) return null;
  return (
    <Chip
      size="small"
      color="primary"
      label={`as ${variant}`}
      onDelete={() => session.showVariant(null)}
      deleteIcon={<CloseOutlined titleAccess="Look at the piece itself" />}
      sx={{ maxWidth: 220, flex: 'none' }}
    />
  );
}

function Title({ name }: { name: string }) {
  const session = useSession();
  const [draft, setDraft] = useState<string | null>(null);
  if (draft === null)
    return (
      <Box
        component="h1"
        sx={{ m: 0, typography: 'h1', fontSize: 20, lineHeight: 1.25, whiteSpace: 'nowrap', overflow: 'hidden', textOverflow: 'ellipsis' }}
      >
        <Plain title="Rename" onClick={() => setDraft(name)} sx={{ display: 'inline', cursor: 'text', whiteSpace: 'inherit' }}>
          {name}
        </Plain>
      </Box>
    );
  const done = (keep: boolean) => {
    if (keep && draft.trim() && draft.trim() !== name) session.dispatch({ type: 'rename', name: draft });
    setDraft(null);
  };
  return (
    <Written
      line
      inputProps={{ 'aria-label': 'Name' }}
      autoFocus
      value={draft}
      onChange={(e) => setDraft(e.target.value)}
      onBlur={() => done(true)}
      onKeyDown={(e) => {
        if (e.key === 'Enter') done(true);
        if (e.key === 'Escape') done(false);
      }}
      sx={{ fontSize: 20, fontWeight: 680, width: 260 }}
    />
  );
}

/** Changes that somebody else was quicker with: nothing of them is lost until it is said so. */
function Refused() {
  const session = useSession();
  const refused = useSheet((s) => s.refused);
  const [anchor, setAnchor] = useState<HTMLElement | null>(null);
  if (refused.length === 0) return null;
  return (
    <>
      <Button color="error" variant="outlined" onClick={(e) => setAnchor(e.currentTarget)}>
        {refused.length} not stored
      </Button>
      <Popover
        open={anchor !== null}
        anchorEl={anchor}
        onClose={() => setAnchor(null)}
        anchorOrigin={{ vertical: 'bottom', horizontal: 'right' }}
        transformOrigin={{ vertical: 'top', horizontal: 'right' }}
      >
        <List dense sx={{ width: 400, maxHeight: 380, overflowY: 'auto' }} aria-label="changes that were not stored">
          {refused.map((r) => (
            <ListItem key={`${r.clientId}/${r.seq}`} sx={{ gap: 1 }}>
              <ListItemText
                primary={r.wish.kind === 'edit' && session.document ? inWords(r.wish.command, session.document) : 'a change'}
                secondary={r.why}
              />
              <Button onClick={() => session.retryRefused(r)}>Do it now</Button>
              <Button onClick={() => session.lane.forget(r)}>Drop</Button>
            </ListItem>
          ))}
        </List>
      </Popover>
    </>
  );
}

const Tools = memo(function Tools() {
  const session = useSession();
  const { mode, setMode } = useColorScheme();
  const [anchor, setAnchor] = useState<HTMLElement | null>(null);
  const history = useSheet((s) => s.history);
  const { say } = useLengths();
  const open = (e: React.MouseEvent<HTMLElement>) => {
    setAnchor(e.currentTarget);
    void session.readHistory();
  };
  return (
    <Box sx={{ display: 'flex', color: 'text.secondary' }}>
      <Tooltip title="Undo (Ctrl+Z)">
        <IconButton size="small" aria-label="Undo" onClick={() => void session.stepHistory('undo')}>
          <UndoOutlined fontSize="small" />
        </IconButton>
      </Tooltip>
      <Tooltip title="Redo (Ctrl+Shift+Z)">
        <IconButton size="small" aria-label="Redo" onClick={() => void session.stepHistory('redo')}>
          <RedoOutlined fontSize="small" />
        </IconButton>
      </Tooltip>
      <Tooltip title="History">
        <IconButton size="small" aria-label="History" onClick={open}>
          <HistoryOutlined fontSize="small" />
        </IconButton>
      </Tooltip>
      <Tooltip title={mode === 'dark' ? 'Paper' : 'Night'}>
        <IconButton
          size="small"
          aria-label={mode === 'dark' ? 'Paper theme' : 'Night theme'}
          onClick={() => setMode(mode === 'dark' ? 'light' : 'dark')}
        >
          {mode === 'dark' ? <LightModeOutlined fontSize="small" /> : <DarkModeOutlined fontSize="small" />}
        </IconButton>
      </Tooltip>
      <Popover
        open={anchor !== null}
        anchorEl={anchor}
        onClose={() => setAnchor(null)}
        anchorOrigin={{ vertical: 'bottom', horizontal: 'right' }}
        transformOrigin={{ vertical: 'top', horizontal: 'right' }}
      >
        <Box sx={{ width: 320, maxHeight: 380, overflowY: 'auto', p: 1.5, border: 1, borderColor: 'divider' }}>
          {anchor && <NamedStates />}
          <Box component="h3" sx={{ m: 0, mb: 1, fontSize: 13.5 }}>
            What was changed
          </Box>
          {history.length === 0 && <Box sx={{ color: 'text.secondary' }}>Nothing yet.</Box>}
          {[...history]
            .reverse()
            .slice(0, 60)
            .map((h) => (
              <Box
                key={h.id}
                sx={{
                  display: 'flex',
                  justifyContent: 'space-between',
                  gap: 1,
                  py: 0.4,
                  borderTop: 1,
                  borderColor: 'sheet.faint',
                  color: h.undone ? 'text.secondary' : 'text.primary',
                  textDecoration: h.undone ? 'line-through' : 'none',
                }}
              >
                <span>
                  {h.words}
                  {h.advice && (
                    <Box component="span" className="narrow" sx={{ display: 'block', fontSize: 12, color: 'text.secondary' }}>
                      as advised: {say(h.advice)}
                    </Box>
                  )}
                </span>
                <Box component="span" className="narrow" sx={{ color: 'text.secondary', whiteSpace: 'nowrap' }}>
                  {new Date(h.at).toLocaleTimeString([], { hour: '2-digit', minute: '2-digit' })}
                </Box>
              </Box>
            ))}
        </Box>
      </Popover>
    </Box>
  );
});
