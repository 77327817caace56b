import { useCallback, useEffect, useRef, useState } from 'react';

/** What of a file the browser hands out where it lets a page look at one again. */
interface FileHandle {
  name: string;
  getFile(): Promise<File>;
}
type Picker = (options: { multiple: false }) => Promise<FileHandle[]>;
const picker = (): Picker | undefined =>
  typeof window === 'undefined' ? undefined : (window as unknown as { showOpenFilePicker?: Picker }).showOpenFilePicker;

/** How often a watched file is looked at, ms: what is saved is seen within a second. */
const EVERY_MS = 600;

/**
 * A file that is looked at again and again while it is painted on elsewhere: handed on whenever it was saved.
 *
 * @returns what it is called; how to begin, where the browser can, and to end
 */
export function useWatchedFile(onSaved: (file: File) => Promise<void>): { name: string | null; watch: (() => void) | null; stop(): void } {
  const [handle, setHandle] = useState<FileHandle | null>(null);
  const saved = useRef(onSaved);
  saved.current = onSaved;
  useEffect(() => {
    if (!handle) return;
    let gone = false;
    let last = 0;
    let timer: ReturnType<typeof setTimeout> | undefined;
    const look = async () => {
      try {
        const file = await handle.getFile();
        if (gone) return;
        if (file.lastModified !== last && file.size > 0) {
          last = file.lastModified;
          await saved.current(file);
        }
      } catch {
        // It was moved or taken away, or may not be read any more.
        if (!gone) setHandle(null);
        return;
      }
      // One look after the other: what takes long isn’t asked for twice.
      if (!gone) timer = setTimeout(() => void look(), EVERY_MS);
    };
    void look();
    return () => {
      gone = true;
      clearTimeout(timer);
    };
  }, [handle]);
  const choose = useCallback(() => {
    void picker()?.({ multiple: false }).then(
      ([chosen]) => setHandle(chosen),
      // Nothing was chosen.
      () => undefined,
    );
  }, []);
  return { name: handle?.name ?? null, watch: picker() ? choose : null, stop: () => setHandle(null) };
}
