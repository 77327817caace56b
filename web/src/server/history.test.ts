import 'reflect-metadata';
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { random } from '@wellmorph/core/maths/random';
import { stormLantern } from '@wellmorph/demo/lantern';
import { afterAll, describe, expect, it } from 'vitest';
import { EVERY } from '../../../core/test/commands';

const dir = mkdtempSync(join(tmpdir(), 'wellmorph-history-'));
process.env.WELLMORPH_DATA = dir;
const { assetState, createAsset, editAsset, stepHistory } = await import('./db/assets');
const { closeDatabase } = await import('./db/client');
const { checkedCommand } = await import('./requests/command');

afterAll(async () => {
  await closeDatabase();
  rmSync(dir, { recursive: true, force: true });
});

const lantern = stormLantern();

describe('every kind of change', () => {
  it.each(EVERY.map((c) => [c.type, c] as const))('%s passes its own check unchanged', async (_type, command) => {
    expect(await checkedCommand(JSON.parse(JSON.stringify(command)))).toEqual(JSON.parse(JSON.stringify(command)));
  });
  it('is stored, and the whole row of them taken back one by one, with the database closed and opened in between', async () => {
    const id = await createAsset(lantern);
    const seen = [(await assetState(id)).document];
    let version = 1;
    for (const command of EVERY) {
      version = (await editAsset(id, version, await checkedCommand(JSON.parse(JSON.stringify(command))))).version;
      seen.push((await assetState(id)).document);
    }
    await closeDatabase();
    const opened = await assetState(id);
    expect(opened.version).toBe(version);
    expect(opened.document).toEqual(seen[seen.length - 1]);
    expect(opened.history).toHaveLength(EVERY.length);
    for (let i = EVERY.length - 1; i >= 0; i--) {
      version = (await stepHistory(id, version, 'undo')).version;
      expect((await assetState(id)).document).toEqual(seen[i]);
    }
    await closeDatabase();
    for (let i = 1; i < seen.length; i++) {
      version = (await stepHistory(id, version, 'redo')).version;
      expect((await assetState(id)).document).toEqual(seen[i]);
    }
  });
  it('a random walk of changes, takings-back and bringings-back never loses its way', async () => {
    const id = await createAsset(lantern);
    const next = random(77);
    let version = 1;
    // What a person would expect: a stack with a place in it.
    const stack = [(await assetState(id)).document];
    let at = 0;
    for (let i = 0; i < 60; i++) {
      const what = next();
      if (what < 0.3 && at > 0) {
        version = (await stepHistory(id, version, 'undo')).version;
        at--;
      } else if (what < 0.5 && at < stack.length - 1) {
        version = (await stepHistory(id, version, 'redo')).version;
        at++;
      } else {
        version = (await editAsset(id, version, { type: 'part.set', part: 'font', patch: { weight: 0.1 + Math.round(next() * 100) / 50 } }))
          .version;
        stack.length = at + 1;
        stack.push((await assetState(id)).document);
        at++;
      }
      expect((await assetState(id)).document).toEqual(stack[at]);
    }
    expect(version).toBe(61);
  });
});
