import { isMainThread } from 'node:worker_threads';

/** The bench itself, or one of the threads it starts from the same file. */
if (isMainThread) await (await import('./table')).table();
else (await import('./thread')).thread();
