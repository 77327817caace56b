'use client';
import MoreHorizOutlined from '@mui/icons-material/MoreHorizOutlined';
import Box from '@mui/material/Box';
import IconButton from '@mui/material/IconButton';
import Menu from '@mui/material/Menu';
import MenuItem from '@mui/material/MenuItem';
import { PURPOSES } from '@wellmorph/core/brief/brief';
import { gaugeStatus, reachedStatus, type Status } from '@wellmorph/core/pipeline/status';
import { figure, inUnit, sentenceIn } from '@wellmorph/core/units/lengths';
import { useState } from 'react';
import type { Card } from '@/server/workshop';
import { send } from '@/session/api';
import { useBench } from '@/session/context';
import { sentence } from '@/session/session';
import { STATIONS } from '@/shared/stations';
import { daysInWords } from '@/shared/times';
import { Bar } from '@/sheet/gauge';
import { StatusMark, statusWords } from '@/sheet/marks';
import { PageLink } from '@/sheet/page-link';
import { Written } from '@/sheet/plain';

/** Why there is no picture of a piece yet. */
const notFormed = (c: Card): string =>
  c.forming === 'now'
    ? 'is being formed …'
    : c.forming === 'waits'
      ? 'waits to be formed'
      : c.hasParts
        ? 'not formed yet; open it and it will be'
        : 'the brief is set; nothing is formed yet';

interface CardProps {
  card: Card;
  /** Its page is fetched before it is asked for. */
  ahead: boolean;
  onChanged(): Promise<void>;
  onDelete(): void;
}

export function AssetCard({ card: c, ahead, onChanged, onDelete }: CardProps) {
  const bench = useBench();
  const [menu, setMenu] = useState<HTMLElement | null>(null);
  const [naming, setNaming] = useState<string | null>(null);
  const href = `/assets/${c.id}/${!c.hasParts ? 'brief' : c.stages.bake !== 'none' ? 'bake' : 'form'}`;
  const rename = async () => {
    const name = naming?.trim();
    setNaming(null);
    if (!name || name === c.name) return;
    try {
      const outcome = await bench.change(c.id, { type: 'rename', name });
      if (!outcome.done) bench.notify(outcome.why, 'error');
    } catch (error) {
      bench.notify(sentence(error), 'error');
    }
    await onChanged();
  };
  const duplicate = async () => {
    setMenu(null);
    await send('POST', `/api/assets/${c.id}/duplicate`, {});
    await onChanged();
  };
  const days = c.deadline ? Math.ceil((Date.parse(c.deadline) - Date.now()) / 86_400_000) : null;
  const rows: [string, number | null, number, string, Status][] = [
    [
      'triangles',
      c.triangles,
      c.triangleLimit,
      c.triangles === null ? '–' : figure(c.triangles, 0),
      c.triangles === null ? 'none' : gaugeStatus(c.triangles, c.triangleLimit),
    ],
    [
      'density',
      c.density,
      c.wantedDensity,
      c.density === null ? '–' : figure(c.density, 1),
      c.density === null ? 'none' : reachedStatus(c.density, c.wantedDensity),
    ],
    ['memory', c.memoryMB, c.memoryLimit, `${figure(c.memoryMB, 1)} MB`, gaugeStatus(c.memoryMB, c.memoryLimit)],
  ];
  const stages: Status[] = STATIONS.map((s) => c.stages[s.id]);
  return (
    <Box
      component="article"
      aria-label={c.name}
      sx={{
        display: 'grid',
        gridTemplateColumns: '138px 1fr',
        bgcolor: 'background.paper',
        border: 1,
        borderColor: 'divider',
        borderRadius: 1,
        minHeight: 200,
        position: 'relative',
        '&:hover': { borderColor: 'text.secondary' },
      }}
    >
      <Box
        component={PageLink}
        href={href}
        tabIndex={-1}
        aria-hidden
        sx={{
          bgcolor: 'sheet.paper',
          display: 'grid',
          placeItems: 'center',
          borderRight: 1,
          borderColor: 'sheet.faint',
          color: 'text.secondary',
          textDecoration: 'none',
          fontSize: 12,
          textAlign: 'center',
          p: 1,
        }}
      >
        {c.thumbnail ? (
          <Box component="img" src={`/api/blobs/${c.thumbnail}`} alt="" sx={{ width: 124, height: 168, objectFit: 'contain' }} />
        ) : (
          <span>{notFormed(c)}</span>
        )}
      </Box>
      <Box sx={{ p: 1.6, display: 'flex', flexDirection: 'column', minWidth: 0 }}>
        <Box sx={{ display: 'flex', alignItems: 'flex-start', gap: 1 }}>
          <Box sx={{ flex: 1, minWidth: 0 }}>
            {naming === null ? (
              <Box
                component={PageLink}
                href={href}
                ahead={ahead}
                sx={{
                  typography: 'h2',
                  color: 'text.primary',
                  textDecoration: 'none',
                  display: 'block',
                  whiteSpace: 'nowrap',
                  overflow: 'hidden',
                  textOverflow: 'ellipsis',
                  '&::after': { content: '""' },
                  '&:focus-visible': { outline: '2px solid', outlineColor: 'primary.main' },
                }}
              >
                {c.name}
              </Box>
            ) : (
              <Written
                line
                fullWidth
                inputProps={{ 'aria-label': 'New name' }}
                autoFocus
                value={naming}
                onChange={(e) => setNaming(e.target.value)}
                onBlur={() => void rename()}
                onKeyDown={(e) => {
                  if (e.key === 'Enter') void rename();
                  if (e.key === 'Escape') setNaming(null);
                }}
                sx={{ fontSize: 15, fontWeight: 660 }}
              />
            )}
            <Box className="narrow" sx={{ fontSize: 12.5, color: 'text.secondary' }}>
              {c.sizeMm && <div>{inUnit(c.sizeMm, c.unit, 0)}</div>}
              {PURPOSES[c.purpose]}
              {days !== null && (days < 0 ? ` · ${daysInWords(-days)} past due` : ` · ${daysInWords(Math.max(0, days))} left`)}
            </Box>
          </Box>
          <IconButton size="small" aria-label={`More for ${c.name}`} onClick={(e) => setMenu(e.currentTarget)}>
            <MoreHorizOutlined sx={{ fontSize: 18 }} />
          </IconButton>
          <Menu open={menu !== null} anchorEl={menu} disableRestoreFocus onClose={() => setMenu(null)}>
            <MenuItem
              onClick={() => {
                setMenu(null);
                setNaming(c.name);
              }}
            >
              Rename
            </MenuItem>
            <MenuItem onClick={() => void duplicate()}>Duplicate</MenuItem>
            <MenuItem
              onClick={() => {
                setMenu(null);
                onDelete();
              }}
            >
              Delete
            </MenuItem>
          </Menu>
        </Box>
        <Box sx={{ mt: 1 }}>
          {rows.map(([label, value, limit, words, status]) => (
            <Box key={label} sx={{ display: 'grid', gridTemplateColumns: '64px 1fr 76px', alignItems: 'center', gap: 1, fontSize: 12.5 }}>
              <Box className="narrow">{label}</Box>
              <Bar value={value} limit={limit} status={status} height={4} />
              <Box className="mono" sx={{ textAlign: 'right', fontSize: 12.5 }}>
                {words}
              </Box>
            </Box>
          ))}
        </Box>
        <Box
          className="narrow"
          sx={{
            fontSize: 12,
            mt: 0.8,
            color: c.worst?.severity === 'error' ? 'error.main' : 'text.secondary',
            display: '-webkit-box',
            WebkitLineClamp: 2,
            WebkitBoxOrient: 'vertical',
            overflow: 'hidden',
            minHeight: 17,
          }}
        >
          {c.worst ? sentenceIn(c.worst.message, c.unit) : c.triangles === null ? notFormed(c) : 'nothing to mend'}
        </Box>
        <Box sx={{ mt: 'auto', pt: 1, display: 'flex', alignItems: 'center' }}>
          {stages.map((s, i) => (
            <Box
              key={STATIONS[i].id}
              sx={{ display: 'flex', alignItems: 'center', flex: i === 0 ? 'none' : 1 }}
              title={`${STATIONS[i].name}: ${statusWords(s)}`}
            >
              {i > 0 && <Box sx={{ flex: 1, borderTop: 1, borderColor: 'divider', mx: 0.4 }} />}
              <StatusMark status={s} size={13} />
            </Box>
          ))}
        </Box>
      </Box>
    </Box>
  );
}
