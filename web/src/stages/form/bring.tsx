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
  const done = async () => {
    const name = files?.[0].name ?? '';
    setFiles(null);
    const before = new Set(session.document?.parts.map((p) => p.id));
    await session.refresh();
    const fresh = session.document?.parts.filter((p) => !before.has(p.id)) ?? [];
    // News of it may have come first; the parts are there either way.
    if (fresh.length === 0) return;
    session.select({ part: fresh[0].id, step: null });
    session.notify(`${fresh.length === 1 ? 'One part' : `${fresh.length} parts`} came in from ${name}.`);
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
            onDone={() => void done()}
          />
        )}
      </>
    ),
  };
}

/** The view, where files are dropped to become parts. */
export function Bringing({ place, children }: { place: FilePlace; children: ReactNode }) {
  return (
    <Box
      {...place.zone}
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
