'use client';

import Box from '@mui/material/Box';
import { type ReactNode, useState } from 'react';
import { useSession } from '@/session/context';
import { type FilePlace, useFiles } from '@/sheet/file-input';
import { MODEL_FILES } from '@/sheet/model-files';
import { ImportDialog } from '@/workshop/dialogs';

/**
 * How models are brought into the piece that is open: dropped, or chosen.
 *
 * @param replaces the older file whose parts a newer one is put in place of
 */
export function useBringing(replaces?: string): FilePlace {
  const session = useSession();
  const [files, setFiles] = useState<File[] | null>(null);
  const place = useFiles({
    label: replaces ? `Newer file for ${replaces}` : 'Model to bring in',
    accept: MODEL_FILES,
    several: true,
    onFiles: setFiles,
  });
  const done = async (parts: string[]) => {
    const name = files?.[0].name ?? '';
    setFiles(null);
    // News of it may have come first: they are there either way. What was taken back since is told, but can't be looked at.
    await session.refresh();
    if (session.document?.parts.some((p) => p.id === parts[0])) session.select({ part: parts[0], step: null });
    const count = parts.length === 1 ? 'One part' : `${parts.length} parts`;
    session.notify(replaces ? `${name} took the place of ${replaces}.` : `${count} came in from ${name}.`);
  };
  return {
    ...place,
    input: (
      <>
        {place.input}
        {files && (
          <ImportDialog
            files={files}
            into={{ id: session.id, before: () => session.lane.flushed(), replaces }}
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
