import { QUIET, type Task } from '@wellmorph/core/task';
import type { Values } from './options';

/** What a command came to. */
export interface Outcome {
  json: unknown;
  text: string;
  /** A finding of severity error or an exceeded limit. */
  failed: boolean;
}

/** Progress on standard error: one line, rewritten on a terminal, at whole tenths elsewhere. */
export function stderrTask({ quiet }: Values): Task {
  if (quiet) return QUIET;
  let tenth = -1;
  return {
    cancelled: () => false,
    progress(share, words) {
      const now = Math.floor(share * 10);
      if (now === tenth) return;
      tenth = now;
      process.stderr.write(
        process.stderr.isTTY
          ? `\r\x1b[K${Math.round(share * 100)} % ${words ?? ''}${share >= 1 ? '\n' : ''}`
          : `${Math.round(share * 100)} % ${words ?? ''}\n`,
      );
    },
  };
}
