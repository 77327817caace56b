import { randomUUID } from 'node:crypto';
import { createWriteStream } from 'node:fs';
import { mkdir, rm } from 'node:fs/promises';
import { join } from 'node:path';
import { Readable } from 'node:stream';
import { pipeline } from 'node:stream/promises';
import type { ReadableStream as NodeStream } from 'node:stream/web';
import { FORMATS, READ_WORDS } from '@wellmorph/core/io/read';
import { isAssetFile } from '@wellmorph/core/pipeline/asset-file';
import busboy from 'busboy';
import { dataDir } from '../paths';
import { RequestError } from '../requests/route';
import { LARGEST_UPLOAD, type Upload } from './limits';

/** Files that one upload may hold: a model, and what lies beside it. */
const MOST_FILES = 20;

const upOf = (said: string | null): Upload['up'] => (said === 'y' || said === 'z' ? said : null);

const tooLarge = () =>
  new RequestError(413, 'request/large', `That is more than the ${LARGEST_UPLOAD / 1e6} MB that can be taken; nothing was stored.`);

/**
 * Takes a multipart upload: one model or asset file, and the MTL that may lie beside it. It goes to disk as it comes, never whole into
 * memory, and is gone again when `use` has ended.
 *
 * @throws RequestError in one sentence
 */
export async function withUpload<T>(request: Request, use: (upload: Upload) => Promise<T>): Promise<T> {
  const type = request.headers.get('content-type') ?? '';
  if (!type.startsWith('multipart/form-data') || !request.body) throw new RequestError(400, 'upload/form', 'Send the file as a form.');
  if (Number(request.headers.get('content-length') ?? 0) > LARGEST_UPLOAD + 100_000) throw tooLarge();
  const folder = join(/* turbopackIgnore: true */ dataDir(), 'uploads', randomUUID());
  await mkdir(folder, { recursive: true });
  try {
    const upload = await receive(request.body as unknown as NodeStream, type, folder);
    return await use({ ...upload, signal: request.signal });
  } finally {
    await rm(folder, { recursive: true, force: true });
  }
}

async function receive(body: NodeStream, type: string, folder: string): Promise<Upload> {
  const files: { name: string; path: string }[] = [];
  const fields = new Map<string, string>();
  const writing: Promise<void>[] = [];
  let whole = false;
  let over = false;
  const parser = busboy({
    headers: { 'content-type': type },
    defParamCharset: 'utf8',
    limits: { files: MOST_FILES, fileSize: LARGEST_UPLOAD, fields: 10, fieldSize: 2000 },
  });
  parser.on('file', (field, stream, { filename }) => {
    if (field !== 'file' || !filename) {
      stream.resume();
      return;
    }
    const path = join(/* turbopackIgnore: true */ folder, String(files.length));
    files.push({ name: filename, path });
    stream.on('limit', () => {
      over = true;
    });
    writing.push(pipeline(stream, createWriteStream(path)));
  });
  parser.on('field', (name, value) => fields.set(name, value));
  parser.on('close', () => {
    whole = true;
  });
  try {
    await pipeline(Readable.fromWeb(body), parser);
    await Promise.all(writing);
  } catch (error) {
    await Promise.allSettled(writing);
    if ((error as NodeJS.ErrnoException).code === 'ENOSPC')
      throw new RequestError(507, 'blob/full', 'The disk is full; nothing was stored.');
    throw new RequestError(400, 'upload/form', 'The upload broke off; nothing was stored.');
  }
  if (!whole) throw new RequestError(400, 'upload/form', 'The upload broke off; nothing was stored.');
  if (over) throw tooLarge();
  const isRead = (name: string) => (FORMATS as readonly string[]).includes(name.toLowerCase().split('.').pop() ?? '') || isAssetFile(name);
  const model = files.find((f) => isRead(f.name));
  if (!model)
    throw new RequestError(
      400,
      'upload/none',
      files.length > 0
        ? `“${files[0].name}” is not a kind of file that can be read here; ${READ_WORDS} and asset files can.`
        : 'No file was sent.',
    );
  const text = (name: string) => fields.get(name)?.trim().slice(0, 300) || null;
  return {
    fileName: model.name.slice(0, 200),
    path: model.path,
    unit: text('unit'),
    licence: text('licence') ?? '',
    up: upOf(text('up')),
    replaces: text('replaces'),
    sure: text('sure') === 'yes',
    companions: Object.fromEntries(files.filter((f) => f !== model).map((f) => [f.name, f.path])),
  };
}
