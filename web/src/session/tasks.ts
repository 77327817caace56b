import type { AssetDocument } from '@wellmorph/core/pipeline/document';
import type { Bytes } from '@/workers/protocol';
import type { Made, Run, StageTask, Tools } from './run-stage';

/** Forming is also done all the while, for the sheet: then it is shown before it is kept, and may not be kept at all. */
export interface FormTask extends StageTask<'form'> {
  formed(run: Run, tools: Tools): Promise<{ made: Made<'form'> & { whole: boolean }; thumbnail: Bytes | null }>;
  /** The picture for the card of a piece that was formed before; null where it wasn’t. */
  card(document: AssetDocument, tools: Tools): Promise<Bytes | null>;
}
