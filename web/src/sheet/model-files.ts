import { FORMATS } from '@wellmorph/core/io/formats';

const dotted = (kinds: readonly string[]): string => kinds.map((k) => `.${k}`).join(',');

/** Models, and what may lie beside them, as the system's choice of files offers them. */
export const MODEL_FILES = dotted([...FORMATS, 'mtl', 'bin', 'png', 'jpg']);
/** The same with files of our own. */
export const MODEL_AND_ASSET_FILES = `${MODEL_FILES},${dotted(['zip', 'json'])}`;

/** Whether a file is by its name of one of some kinds. */
export const isOfKind = (fileName: string, kinds: readonly string[]): boolean =>
  kinds.includes(fileName.toLowerCase().split('.').pop() ?? '');
