'use client';

import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Menu from '@mui/material/Menu';
import MenuItem from '@mui/material/MenuItem';
import { useQuery } from '@tanstack/react-query';
import { useRouter } from 'next/navigation';
import { useState } from 'react';
import type { Card } from '@/server/workshop';
import { get, send } from '@/session/api';
import { useSession } from '@/session/context';
import { sentence } from '@/session/session';
import { useFiles } from '@/sheet/file-input';
import { MODEL_AND_ASSET_FILES } from '@/sheet/model-files';
import { ImportDialog } from '@/workshop/dialogs';
import { addPart } from './parts';
import { MAKERS, StepMenu } from './step-menu';

/** The three ways a piece can begin, for a Form with nothing in it. */
export function Beginnings() {
  const session = useSession();
  const router = useRouter();
  const [making, setMaking] = useState<HTMLElement | null>(null);
  const [copying, setCopying] = useState<HTMLElement | null>(null);
  const [files, setFiles] = useState<File[] | null>(null);
  const place = useFiles({
    label: 'Model file',
    accept: MODEL_AND_ASSET_FILES,
    several: true,
    onFiles: setFiles,
  });
  const { data: cards } = useQuery({ queryKey: ['cards'], queryFn: () => get<Card[]>('/api/assets') });
  const others = cards?.filter((c) => c.hasParts && c.id !== session.id) ?? [];
  const copy = async (id: string) => {
    setCopying(null);
    try {
      const made = await send<{ id: string }>('POST', `/api/assets/${id}/duplicate`, {});
      router.push(`/assets/${made.id}/form`);
    } catch (error) {
      session.notify(sentence(error), 'error');
    }
  };
  return (
    <Box
      {...place.zone}
      sx={{
        position: 'absolute',
        inset: 0,
        display: 'grid',
        placeItems: 'center',
        p: 4,
        outline: place.over ? '2px dashed' : 0,
        outlineColor: 'primary.main',
        outlineOffset: -12,
      }}
    >
      <Box sx={{ maxWidth: 430, fontSize: 14.5, lineHeight: 1.5, color: 'text.secondary' }}>
        <Box sx={{ color: 'text.primary', fontWeight: 660, fontSize: 15.5, mb: 1.5 }}>Nothing is formed yet. Three ways to begin:</Box>
        <Way
          words="From a recipe: parts made of dimensioned steps, low and high from the same figures."
          action={
            <Button variant="contained" onClick={(e) => setMaking(e.currentTarget)}>
              Make the first part
            </Button>
          }
        />
        <Way
          words="From a model that is there: OBJ, GLB, glTF, PLY, STL, STEP or an asset file, chosen or dropped here."
          action={
            <Button variant="outlined" onClick={place.choose}>
              Import a model
            </Button>
          }
        />
        <Way
          words="From another piece of the workshop: a copy that can be changed freely."
          action={
            <Button variant="outlined" disabled={others.length === 0} onClick={(e) => setCopying(e.currentTarget)}>
              Copy a piece
            </Button>
          }
        />
      </Box>
      {place.input}
      <StepMenu
        anchor={making}
        kinds={MAKERS}
        onPick={(kind) => {
          setMaking(null);
          addPart(session, kind);
        }}
        onClose={() => setMaking(null)}
      />
      <Menu open={copying !== null} anchorEl={copying} onClose={() => setCopying(null)}>
        {others.map((c) => (
          <MenuItem key={c.id} onClick={() => void copy(c.id)}>
            {c.name}
          </MenuItem>
        ))}
      </Menu>
      {files && <ImportDialog files={files} onClose={() => setFiles(null)} onDone={(id) => router.push(`/assets/${id}/form`)} />}
    </Box>
  );
}

function Way({ words, action }: { words: string; action: React.ReactNode }) {
  return (
    <Box
      sx={{
        display: 'grid',
        gridTemplateColumns: '1fr 150px',
        gap: 2,
        alignItems: 'center',
        py: 1.2,
        borderTop: 1,
        borderColor: 'divider',
      }}
    >
      <span>{words}</span>
      <Box sx={{ '& > button': { width: '100%' } }}>{action}</Box>
    </Box>
  );
}
