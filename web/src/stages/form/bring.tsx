'use client';

import Box from '@mui/material/Box';
import { type ReactNode, useState } from 'react';
import { useSession } from '@/session/context';
import { type FilePlace, useFiles } from '@/sheet/file-input';
import { ImportDialog } from '@/workshop/dialogs';

/** How models are brought into the piece that is open: dropped on its view, or chosen. */
export function useBringing(): FilePlace {
  const session = useSession();
  const [files, setFiles] = useState<File[] | null>(null);
  const place = useFiles({
    label: 'Model to bring in',
    accept: '.obj,.mtl,.glb,.gltf,.bin,.png,.jpg,.ply,.stl',
    several: true,
    onFiles: setFiles,
  });
  const done = async (parts: string[]) => {
    const name = files?.[0].name ?? '';
    setFiles(null);
    // News of it may have come first: they are there either way. What was taken back since is told, but can't be looked at.
    await session.refresh();
    if (session.document?.parts.some((p) => p.id === parts[0])) session.select({ part: parts[0], step: null });
    session.notify(`${parts.length === 1 ? 'One part' : `${parts.length} parts`} came in from ${name}.`);
  };
  return {
    ...place,
    input: (
      <>
        {place.input}
        {files && (
          <ImportDialog
            files={files}
            into={{ id: session.id, before: () => session.lane.flushed() }}
            onClose={() => setFiles(null)}
            onDone={(_, parts) => void done(parts)}
          />
        )}
      </>
    ),
  };
}

/** The view, where files are dropped to become parts; an empty one has ways of its own to begin, and a place for files among them. */
export function Bringing({ place, empty, children }: { place: FilePlace; empty: boolean; children: ReactNode }) {
  return (
    <Box
      {...(empty ? {} : place.zone)}
      sx={{
        position: 'absolute',
        inset: 0,
        outline: place.over ? '2px dashed' : 0,
        outlineColor: 'primary.main',
        outlineOffset: -12,
      }}
    >
      {children}
      {place.input}
    </Box>
  );
}
