import { setConsoleFunction } from 'three';

/** A warning that the library which draws raises by itself on every page, about its own clock: nothing anybody here could do about. */
const OWN = /THREE\.Clock: This module has been deprecated/;

setConsoleFunction((type: 'log' | 'warn' | 'error', message: string, ...rest: unknown[]) => {
  if (type === 'warn' && OWN.test(message)) return;
  // biome-ignore lint/suspicious/noConsole: what the library has to say otherwise is said
  console[type](message, ...rest);
});
