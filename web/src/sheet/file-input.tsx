'use client';

import InputBase from '@mui/material/InputBase';
import type { Ref } from 'react';

/** What a button opens the system's own choice of files with; nothing of it is seen. */
export function FileInput({
  ref,
  label,
  accept,
  several,
  onFiles,
}: {
  ref: Ref<HTMLInputElement>;
  label: string;
  accept: string;
  several?: boolean;
  onFiles(files: File[]): void;
}) {
  return (
    <InputBase
      type="file"
      inputRef={ref}
      inputProps={{ accept, multiple: several, 'aria-label': label, tabIndex: -1 }}
      onChange={(e) => {
        const input = e.target as HTMLInputElement;
        const files = [...(input.files ?? [])];
        // The same file can be chosen again.
        input.value = '';
        if (files.length > 0) onFiles(files);
      }}
      sx={{ display: 'none' }}
    />
  );
}
