'use client';

import InputBase from '@mui/material/InputBase';
import type { HTMLAttributes, ReactNode, RefAttributes } from 'react';
import { useDropzone } from 'react-dropzone';

export interface FilePlace {
  /** Of what files are dropped on. */
  zone: HTMLAttributes<HTMLElement> & RefAttributes<HTMLElement>;
  /** Somebody holds files over it. */
  over: boolean;
  /** Opens the system's own choice of files. */
  choose(): void;
  /** To be put anywhere inside; nothing of it is seen. */
  input: ReactNode;
}

/**
 * A place that takes files, dropped on it or chosen. Any kind is handed on, so that what can't be read is told in a sentence.
 *
 * @param accept kinds that the system's choice offers, as in HTML
 */
export function useFiles({
  label,
  accept,
  several = false,
  onFiles,
}: {
  label: string;
  accept: string;
  several?: boolean;
  onFiles(files: File[]): void;
}): FilePlace {
  const { getRootProps, getInputProps, isDragActive, open } = useDropzone({
    noClick: true,
    noKeyboard: true,
    multiple: several,
    onDrop: (files, refused) => {
      // Several at once where one is wanted: the first.
      const all = [...files, ...refused.map((r) => r.file)];
      if (all.length > 0) onFiles(several ? all : all.slice(0, 1));
    },
  });
  const { ref, ...props } = getInputProps() as ReturnType<typeof getInputProps> & RefAttributes<HTMLInputElement>;
  return {
    zone: getRootProps({ role: undefined, tabIndex: undefined }),
    over: isDragActive,
    choose: open,
    input: (
      <InputBase
        inputRef={ref}
        inputProps={{ ...props, accept, 'aria-label': label, tabIndex: -1, style: undefined }}
        sx={{ display: 'none' }}
      />
    ),
  };
}
