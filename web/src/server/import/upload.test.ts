import 'reflect-metadata';
import { existsSync, mkdtempSync, readdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join, resolve } from 'node:path';
import { Worker } from 'node:worker_threads';
import { boundsOf } from '@wellmorph/core/mesh/measures';
import { TIN_MTL, tinLow } from '@wellmorph/demo/tin';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { builtWorker } from '../../../test/worker';
import type { Upload } from './limits';
import { parseUpload } from './parse';
import { withUpload } from './upload';

const dir = mkdtempSync(join(tmpdir(), 'wellmorph-upload-'));
process.env.WELLMORPH_DATA = dir;
let code: string;
beforeAll(async () => {
  code = await builtWorker(resolve(import.meta.dirname, 'parse.worker.ts'));
});
afterAll(() => rmSync(dir, { recursive: true, force: true }));

let files = 0;
/** Lies on disk, as an upload does. */
function lying(text: string): string {
  const path = join(dir, `file-${files++}`);
  writeFileSync(path, text);
  return path;
}
const request = (text: string, fileName = 'tin.obj') => ({ fileName, path: lying(text), unit: 'mm' as const, companions: {} });
/** An upload as it is while it is being used, with what its model holds. */
const uploadOf = (sent: Request) => withUpload(sent, async (upload: Upload) => ({ ...upload, text: readFileSync(upload.path, 'utf8') }));
const limits = (milliseconds = 60_000, megabytes = 1000) => ({
  milliseconds,
  reader: () => new Worker(code, { resourceLimits: { maxOldGenerationSizeMb: megabytes } }),
});
/** A thread that never answers, as one would that a hostile file keeps busy. */
const endless = () => new Worker('for (;;) {}', { eval: true });

function form(files: Record<string, string | Uint8Array>, fields: Record<string, string> = {}): Request {
  const f = new FormData();
  for (const [name, content] of Object.entries(files)) f.append('file', new File([content as BlobPart], name));
  for (const [name, value] of Object.entries(fields)) f.append(name, value);
  return new Request('http://127.0.0.1/', { method: 'POST', body: f });
}

describe('reading an upload in a thread of its own', () => {
  it('gives the meshes as they were written', async () => {
    const model = await parseUpload({ ...request(tinLow()), companions: { 'biscuit-tin.mtl': lying(TIN_MTL) } }, limits());
    expect(model.parts.map((p) => p.name)).toEqual(['Body', 'Lid']);
    expect(boundsOf(model.parts[0].mesh).max[1]).toBeCloseTo(80, 9);
    expect(model.materials.length).toBeGreaterThan(0);
  });
  it('takes the unit it is told', async () => {
    const model = await parseUpload({ ...request(tinLow()), unit: 'in' as never }, limits());
    expect(boundsOf(model.parts[0].mesh).max[1]).toBeCloseTo(80 * 25.4, 6);
  });
  it.each([
    ['a face that points nowhere', 'v 0 0 0\nf 1 2 3\n', /Line 2/],
    ['no faces at all', 'v 0 0 0\nv 1 0 0\nv 0 1 0\n', /no face/i],
    ['a position that is no number', 'v 0 0 zero\nv 1 0 0\nv 0 1 0\nf 1 2 3\n', /Line 1/],
  ])('%s is refused in the reader’s own sentence', async (_what, text, words) => {
    await expect(parseUpload(request(text), limits())).rejects.toThrow(words);
  });
  it('a wrong format under a right name is refused', async () => {
    await expect(parseUpload(request('this is no GLB at all', 'tin.glb'), limits())).rejects.toMatchObject({ name: 'InputError' });
  });
  it('is stopped when it takes too long, and says so', async () => {
    const start = Date.now();
    await expect(parseUpload(request(''), { milliseconds: 200, reader: endless })).rejects.toThrow(
      /took longer than 0.2 s .* nothing was stored/,
    );
    expect(Date.now() - start).toBeLessThan(30_000);
  });
  it('is stopped when nobody waits for it any more, under way or before its turn', async () => {
    const stopping = new AbortController();
    const going = parseUpload(request(''), { reader: endless, signal: stopping.signal });
    setTimeout(() => stopping.abort(), 50);
    await expect(going).rejects.toMatchObject({ code: 'import/stopped' });
    const never = () => {
      throw new Error('nothing is begun');
    };
    await expect(parseUpload(request(''), { reader: never, signal: stopping.signal })).rejects.toMatchObject({ code: 'import/stopped' });
    // Both gave their turn back.
    expect((await parseUpload(request(tinLow()), limits())).parts).toHaveLength(2);
  });
  it('a reader that dies for want of memory gives a sentence, and the server stays up', async () => {
    const hungry = () =>
      new Worker('const a = []; for (;;) a.push(new Array(1e5).fill(Math.random()));', {
        eval: true,
        resourceLimits: { maxOldGenerationSizeMb: 32 },
      });
    await expect(parseUpload(request(''), { milliseconds: 60_000, reader: hungry })).rejects.toThrow(
      /needs more memory than one file may take/,
    );
  });
});

describe('the form of an upload', () => {
  it('one model with what lies beside it, its unit and its licence', async () => {
    const upload = await uploadOf(form({ 'tin.obj': tinLow(), 'biscuit-tin.mtl': TIN_MTL }, { unit: 'cm', licence: '  made here ' }));
    expect(upload.fileName).toBe('tin.obj');
    expect(upload.unit).toBe('cm');
    expect(upload.licence).toBe('made here');
    expect(Object.keys(upload.companions)).toEqual(['biscuit-tin.mtl']);
    expect(upload.text).toBe(tinLow());
  });
  it('names are no longer than a database wants, and an empty field is none', async () => {
    const upload = await uploadOf(form({ [`${'x'.repeat(400)}.obj`.slice(-300)]: 'v 0 0 0' }, { unit: ' ' }));
    expect(upload.fileName.length).toBeLessThanOrEqual(200);
    expect(upload.unit).toBeNull();
  });
  it('a kind of file that is not read here is named', async () => {
    await expect(uploadOf(form({ 'tin.xyz': 'x' }))).rejects.toThrow(/“tin.xyz” is not a kind of file/);
    await expect(uploadOf(form({}, { unit: 'mm' }))).rejects.toThrow(/No file was sent/);
  });
  it('a body that is no form, or only half of one, is refused', async () => {
    await expect(uploadOf(new Request('http://127.0.0.1/', { method: 'POST', body: 'x' }))).rejects.toThrow(/Send the file as a form/);
    const cut = new Request('http://127.0.0.1/', {
      method: 'POST',
      headers: { 'content-type': 'multipart/form-data; boundary=abc' },
      body: '--abc\r\nContent-Disposition: form-data; name="file"; filename="tin.obj"\r\n\r\nv 0 0',
    });
    await expect(uploadOf(cut)).rejects.toThrow(/broke off; nothing was stored|No file was sent/);
  });
  it('lies on disk while it is used, and nothing of it is left afterwards, whatever happens', async () => {
    let path = '';
    await withUpload(form({ 'tin.obj': tinLow() }), async (upload) => {
      path = upload.path;
      expect(existsSync(path)).toBe(true);
    });
    expect(existsSync(path)).toBe(false);
    await expect(
      withUpload(form({ 'tin.obj': tinLow() }), async () => {
        throw new Error('it can’t be used');
      }),
    ).rejects.toThrow(/can’t be used/);
    expect(readdirSync(join(dir, 'uploads'))).toEqual([]);
  });
  it('at most two are read at once; the others wait their turn', async () => {
    let [now, most] = [0, 0];
    const counted = () => {
      now++;
      most = Math.max(most, now);
      const w = new Worker(
        "setTimeout(() => require('node:worker_threads').parentPort.postMessage({ ok: false, code: 'x', message: 'read' }), 120)",
        { eval: true },
      );
      w.once('message', () => now--);
      return w;
    };
    const all = Array.from({ length: 6 }, () => parseUpload(request(''), { milliseconds: 60_000, reader: counted }));
    for (const done of await Promise.allSettled(all)) expect(done).toMatchObject({ status: 'rejected', reason: { message: 'read' } });
    expect(most).toBe(2);
  });
});
