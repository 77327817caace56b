'use client';

import DarkModeOutlined from '@mui/icons-material/DarkModeOutlined';
import LightModeOutlined from '@mui/icons-material/LightModeOutlined';
import MoreHorizOutlined from '@mui/icons-material/MoreHorizOutlined';
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Dialog from '@mui/material/Dialog';
import IconButton from '@mui/material/IconButton';
import Menu from '@mui/material/Menu';
import MenuItem from '@mui/material/MenuItem';
import { useColorScheme } from '@mui/material/styles';
import { PURPOSES, type Purpose } from '@wellmorph/core/brief/brief';
import { figure, LENGTH_UNITS } from '@wellmorph/core/units/lengths';
import Link from 'next/link';
import { useRouter } from 'next/navigation';
import { useCallback, useEffect, useRef, useState } from 'react';
import type { Card } from '@/server/workshop';
import { type ApiError, get, send, upload } from '@/sheet/api';
import { Choice } from '@/sheet/fields';
import { Bar } from '@/sheet/gauge';
import { StatusMark, statusWords, Wordmark } from '@/sheet/marks';
import { Notices } from '@/sheet/notices';
import { notify } from '@/sheet/state';
import { STATIONS } from '@/sheet/stations';
import { gaugeStatus, type Status } from '@/sheet/status';
import { QueueAndDue } from './queue';

const LIMIT_MB = 200;

/** All assets with their gauges and how they stand. */
export function Workshop() {
  const router = useRouter();
  const [cards, setCards] = useState<Card[] | null>(null);
  const [wrong, setWrong] = useState<string | null>(null);
  const [making, setMaking] = useState(false);
  const [files, setFiles] = useState<File[] | null>(null);
  const [dropping, setDropping] = useState(false);
  const input = useRef<HTMLInputElement>(null);
  const { mode, setMode } = useColorScheme();
  const load = useCallback(async () => {
    try {
      setCards(await get<Card[]>('/api/assets'));
      setWrong(null);
    } catch (error) {
      setWrong((error as Error).message);
    }
  }, []);
  useEffect(() => {
    void load();
  }, [load]);
  const choose = (list: FileList | null) => {
    if (list && list.length > 0) setFiles([...list]);
  };
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
  const over = cards?.filter((c) => Object.values(c.stages).includes('over')).length ?? 0;
  return (
    <Box
      sx={{ minHeight: '100vh', minWidth: 1024 }}
      onDragOver={(e) => {
        e.preventDefault();
        setDropping(true);
      }}
      onDragLeave={(e) => e.currentTarget === e.target && setDropping(false)}
      onDrop={(e) => {
        e.preventDefault();
        setDropping(false);
        choose(e.dataTransfer.files);
      }}
    >
      <Box
        component="header"
        sx={{
          display: 'flex',
          alignItems: 'center',
          gap: 2,
          height: 60,
          px: 2,
          bgcolor: 'background.paper',
          borderBottom: 1,
          borderColor: 'text.primary',
        }}
      >
        <Wordmark />
        <Box sx={{ flex: 1 }}>
          <Box component="h1" sx={{ m: 0, typography: 'h1' }}>
            Workshop
          </Box>
          <Box className="narrow" sx={{ fontSize: 12.5, color: 'text.secondary' }}>
            {cards === null
              ? 'opening …'
              : `${cards.length} ${cards.length === 1 ? 'asset' : 'assets'}${over > 0 ? ` · ${over} with something to mend` : ''}`}
          </Box>
        </Box>
        <IconButton
          size="small"
          aria-label={mode === 'dark' ? 'Paper theme' : 'Night theme'}
          onClick={() => setMode(mode === 'dark' ? 'light' : 'dark')}
        >
          {mode === 'dark' ? <LightModeOutlined fontSize="small" /> : <DarkModeOutlined fontSize="small" />}
        </IconButton>
        <Button variant="outlined" onClick={() => input.current?.click()}>
          Import a model
        </Button>
        <Button variant="contained" onClick={() => setMaking(true)}>
          New asset
        </Button>
        <input
          ref={input}
          type="file"
          hidden
          multiple
          aria-label="Model file"
          accept=".obj,.mtl,.glb,.gltf"
          onChange={(e) => {
            choose(e.target.files);
            e.target.value = '';
          }}
        />
      </Box>
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
            No assets yet. Make one from dimensioned steps, or drop a model here: OBJ with its MTL, GLB or glTF, up to {LIMIT_MB} MB.
            <Box sx={{ mt: 2, display: 'flex', gap: 1, justifyContent: 'center' }}>
              <Button variant="contained" onClick={() => setMaking(true)}>
                New asset
              </Button>
              <Button variant="outlined" onClick={() => input.current?.click()}>
                Import a model
              </Button>
            </Box>
          </Box>
        )}
        <Box sx={{ display: 'grid', gridTemplateColumns: 'repeat(auto-fill, minmax(390px, 1fr))', gap: 2 }}>
          {cards?.map((c) => (
            <AssetCard key={c.id} card={c} onChanged={load} onDelete={() => void remove(c)} />
          ))}
        </Box>
      </Box>
      {dropping && (
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

function AssetCard({ card: c, onChanged, onDelete }: { card: Card; onChanged(): Promise<void>; onDelete(): void }) {
  const [menu, setMenu] = useState<HTMLElement | null>(null);
  const [naming, setNaming] = useState<string | null>(null);
  const href = `/assets/${c.id}/${c.triangles === null ? 'brief' : c.stages.bake !== 'none' ? 'bake' : 'form'}`;
  const rename = async () => {
    const name = naming?.trim();
    setNaming(null);
    if (!name || name === c.name) return;
    try {
      const { version } = await get<{ version: number }>(`/api/assets/${c.id}`);
      await send('POST', `/api/assets/${c.id}/edits`, { baseVersion: version, command: { type: 'rename', name } });
    } catch (error) {
      notify((error as ApiError).message, 'error');
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
      c.density === null ? 'none' : c.density >= c.wantedDensity * 0.98 ? 'ok' : 'near',
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
        component={Link}
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
          <span>nothing formed yet</span>
        )}
      </Box>
      <Box sx={{ p: 1.6, display: 'flex', flexDirection: 'column', minWidth: 0 }}>
        <Box sx={{ display: 'flex', alignItems: 'flex-start', gap: 1 }}>
          <Box sx={{ flex: 1, minWidth: 0 }}>
            {naming === null ? (
              <Box
                component={Link}
                href={href}
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
              <Box
                component="input"
                aria-label="New name"
                autoFocus
                value={naming}
                onChange={(e: React.ChangeEvent<HTMLInputElement>) => setNaming(e.target.value)}
                onBlur={() => void rename()}
                onKeyDown={(e: React.KeyboardEvent) => {
                  if (e.key === 'Enter') void rename();
                  if (e.key === 'Escape') setNaming(null);
                }}
                sx={{
                  font: 'inherit',
                  fontSize: 15,
                  fontWeight: 660,
                  width: '100%',
                  border: 0,
                  borderBottom: 1,
                  borderColor: 'primary.main',
                  bgcolor: 'transparent',
                  color: 'text.primary',
                  outline: 'none',
                }}
              />
            )}
            <Box className="narrow" sx={{ fontSize: 12.5, color: 'text.secondary' }}>
              {c.sizeMm ? `${c.sizeMm.map((x) => figure(x, 0)).join(' × ')} mm · ` : ''}
              {PURPOSES[c.purpose]}
              {days !== null && (days < 0 ? ` · ${-days} days past due` : ` · ${days} days left`)}
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
          {c.worst ? c.worst.message : c.triangles === null ? 'the brief is set; nothing is formed yet' : 'nothing to mend'}
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

function NewAsset({ open, onClose, onMade }: { open: boolean; onClose(): void; onMade(id: string): void }) {
  const [name, setName] = useState('');
  const [purpose, setPurpose] = useState<Purpose>('game');
  const [wrong, setWrong] = useState<string | null>(null);
  const make = async (e: React.FormEvent) => {
    e.preventDefault();
    if (!name.trim()) {
      setWrong('Give it a name first.');
      return;
    }
    try {
      onMade((await send<{ id: string }>('POST', '/api/assets', { name: name.trim(), purpose })).id);
    } catch (error) {
      setWrong((error as Error).message);
    }
  };
  return (
    <Dialog open={open} onClose={onClose} aria-labelledby="new-title">
      <Box component="form" onSubmit={make} sx={{ p: 3, width: 400 }}>
        <Box id="new-title" component="h2" sx={{ typography: 'h2', mt: 0 }}>
          New asset
        </Box>
        <Box sx={{ display: 'flex', alignItems: 'center', justifyContent: 'space-between', minHeight: 34 }}>
          <label htmlFor="new-name">Name</label>
          <Box
            component="input"
            id="new-name"
            autoFocus
            maxLength={120}
            value={name}
            onChange={(e: React.ChangeEvent<HTMLInputElement>) => setName(e.target.value)}
            sx={{
              font: 'inherit',
              width: 230,
              border: 1,
              borderColor: wrong ? 'error.main' : 'divider',
              borderRadius: 1,
              px: 1,
              py: 0.5,
              bgcolor: 'background.paper',
              color: 'text.primary',
            }}
          />
        </Box>
        <Choice
          label="Purpose"
          value={purpose}
          choices={Object.entries(PURPOSES) as [Purpose, string][]}
          onChange={setPurpose}
          hint="sets the first limits; all can be changed"
        />
        {wrong && (
          <Box role="alert" sx={{ color: 'error.main' }}>
            {wrong}
          </Box>
        )}
        <Box sx={{ mt: 2, display: 'flex', gap: 1, justifyContent: 'flex-end' }}>
          <Button variant="outlined" onClick={onClose}>
            Cancel
          </Button>
          <Button variant="contained" type="submit">
            Start with the brief
          </Button>
        </Box>
      </Box>
    </Dialog>
  );
}

function ImportDialog({ files, onClose, onDone }: { files: File[]; onClose(): void; onDone(id: string): void }) {
  const model = files.find((f) => /\.(obj|glb|gltf)$/i.test(f.name));
  const unitless = Boolean(model && /\.obj$/i.test(model.name));
  const [unit, setUnit] = useState('');
  const [licence, setLicence] = useState('');
  const [busy, setBusy] = useState(false);
  const large = files.reduce((n, f) => n + f.size, 0) > LIMIT_MB * 1e6;
  const [wrong, setWrong] = useState<string | null>(
    !model
      ? `“${files[0].name}” is not a kind of file that can be read here; OBJ, GLB and glTF can.`
      : large
        ? `That is more than ${LIMIT_MB} MB.`
        : null,
  );
  const run = async (e: React.FormEvent) => {
    e.preventDefault();
    if (unitless && !unit) {
      setWrong('An OBJ doesn’t say its unit; choose it first.');
      return;
    }
    setBusy(true);
    setWrong(null);
    const form = new FormData();
    for (const f of files) form.append('file', f);
    form.append('unit', unit);
    form.append('licence', licence);
    try {
      const { id, notes } = await upload<{ id: string; notes: string[] }>('/api/import', form);
      for (const n of notes) notify(n);
      onDone(id);
    } catch (error) {
      setWrong((error as Error).message);
      setBusy(false);
    }
  };
  return (
    <Dialog open onClose={busy ? undefined : onClose} aria-labelledby="import-title">
      <Box component="form" onSubmit={run} sx={{ p: 3, width: 440 }}>
        <Box id="import-title" component="h2" sx={{ typography: 'h2', mt: 0 }}>
          Import a model
        </Box>
        {files.map((f) => (
          <Box key={f.name} sx={{ display: 'flex', justifyContent: 'space-between', py: 0.4, borderBottom: 1, borderColor: 'sheet.faint' }}>
            <span>{f.name}</span>
            <span className="mono">{figure(f.size / 1e6, 2)} MB</span>
          </Box>
        ))}
        {unitless && (
          <Choice
            label="One unit is"
            hint={`an OBJ doesn’t say · up to ${LIMIT_MB} MB`}
            value={unit}
            choices={[['', 'choose …'], ...LENGTH_UNITS.map((u) => [u, u] as const)]}
            onChange={setUnit}
          />
        )}
        {!unitless && model && (
          <Box className="narrow" sx={{ color: 'text.secondary', fontSize: 12.5, mt: 1 }}>
            glTF is in metres; it is read as that. Files up to {LIMIT_MB} MB.
          </Box>
        )}
        <Box sx={{ display: 'flex', alignItems: 'center', justifyContent: 'space-between', minHeight: 34 }}>
          <label htmlFor="licence">Source and licence</label>
          <Box
            component="input"
            id="licence"
            maxLength={300}
            placeholder="own work, CC0 …"
            value={licence}
            onChange={(e: React.ChangeEvent<HTMLInputElement>) => setLicence(e.target.value)}
            sx={{
              font: 'inherit',
              width: 220,
              border: 1,
              borderColor: 'divider',
              borderRadius: 1,
              px: 1,
              py: 0.5,
              bgcolor: 'background.paper',
              color: 'text.primary',
            }}
          />
        </Box>
        {wrong && (
          <Box role="alert" sx={{ color: 'error.main', mt: 1 }}>
            {wrong}
          </Box>
        )}
        <Box sx={{ mt: 2, display: 'flex', gap: 1, justifyContent: 'flex-end' }}>
          <Button variant="outlined" onClick={onClose} disabled={busy}>
            Cancel
          </Button>
          <Button variant="contained" type="submit" disabled={busy || !model || large}>
            {busy ? 'Reading …' : 'Import'}
          </Button>
        </Box>
      </Box>
    </Dialog>
  );
}
