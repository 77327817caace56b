import type { Bytes } from '@/workers/protocol';
import type { Made, Run, StageTask, Tools } from './run-stage';

/** Forming is also done all the while, for the sheet: then it is shown before it is kept, and may not be kept at all. */
export interface FormTask extends StageTask<'form'> {
  formed(run: Run, tools: Tools): Promise<{ made: Made<'form'> & { whole: boolean }; thumbnail: Bytes | null }>;
}
