import type { Task } from '@wellmorph/core/task';
import type { Bytes, Kind, Work } from './protocol';

/** What a worker does for each kind of work; stateless between requests. */
export type Handlers = { [K in Kind]: (ask: Work[K]['ask'], task: Task, held: unknown) => Work[K]['answer'] | Promise<Work[K]['answer']> };

export const bytes = (b: Uint8Array): Bytes => (b.buffer instanceof ArrayBuffer ? (b as Bytes) : new Uint8Array(b));
