'use client';

import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import { useState } from 'react';
import { useSession, useSheet } from '@/session/context';
import { useFiles } from '@/sheet/file-input';
import { Fold } from './fold';
import { bringPhoto } from './photo-bring';

/** Photographs of the piece: brought, opened to be drawn over, removed. */
export function PhotoList({ chosen, onChoose }: { chosen: string | null; onChoose(photo: string | null): void }) {
  const session = useSession();
  const photos = useSheet((s) => s.document?.photos) ?? [];
  const [open, setOpen] = useState(false);
  const files = useFiles({
    label: 'Photograph file',
    accept: 'image/jpeg,image/png',
    several: true,
    onFiles: async (list) => {
      setOpen(true);
      for (const file of list) {
        const id = await bringPhoto(session, file);
        if (id) onChoose(id);
      }
    },
  });
  return (
    <Box {...files.zone} sx={{ outline: files.over ? '2px dashed' : 0, outlineColor: 'primary.main', outlineOffset: -2 }}>
      <Fold
        title="Photographs"
        about={photos.length === 0 ? 'none' : `${photos.length}`}
        open={open || chosen !== null}
        onOpen={setOpen}
        actions={
          <>
            <Button sx={{ minWidth: 0, px: 0.8, minHeight: 24 }} onClick={files.choose}>
              + photograph
            </Button>
            {files.input}
          </>
        }
      >
        {photos.length === 0 && (
          <Box sx={{ fontSize: 12.5, color: 'text.secondary', pb: 0.6 }}>
            A photograph with edges that run along its axes says which lens took it and from where; the piece can be built in it, and it can
            be laid on the piece.
          </Box>
        )}
        {photos.map((p) => (
          <Box
            key={p.id}
            sx={{ display: 'flex', alignItems: 'center', gap: 0.5, fontSize: 12.5, borderTop: 1, borderColor: 'sheet.line', py: 0.3 }}
          >
            <Box sx={{ flex: 1, minWidth: 0, overflow: 'hidden', textOverflow: 'ellipsis', whiteSpace: 'nowrap' }}>{p.name}</Box>
            <Button
              sx={{ minHeight: 24 }}
              aria-pressed={chosen === p.id}
              aria-label={`${chosen === p.id ? 'Close' : 'Open'} ${p.name}`}
              onClick={() => onChoose(chosen === p.id ? null : p.id)}
            >
              {chosen === p.id ? 'Close' : 'Open'}
            </Button>
            <Button
              sx={{ minWidth: 0, px: 0.5, minHeight: 22 }}
              aria-label={`Remove ${p.name}`}
              onClick={() => {
                if (chosen === p.id) onChoose(null);
                session.dispatch({ type: 'photo.remove', photo: p.id });
              }}
            >
              ×
            </Button>
          </Box>
        ))}
      </Fold>
    </Box>
  );
}
