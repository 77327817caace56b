import { type ChildProcess, spawn } from 'node:child_process';
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join, resolve } from 'node:path';
import { expect, test } from '@playwright/test';
import { tinLow } from '../demo/src/tin';

const ROOT = resolve(import.meta.dirname, '..');
// Clear of the servers that other files of tests have beside it.
const PORT = Number(process.env.E2E_PORT ?? 4399) + 20;
const BASE = `http://127.0.0.1:${PORT}`;

function start(data: string): ChildProcess {
  return spawn(process.execPath, [join(ROOT, 'node_modules/next/dist/bin/next'), 'start', '-H', '127.0.0.1', '-p', String(PORT)], {
    cwd: join(ROOT, 'web'),
    stdio: ['ignore', 'ignore', 'pipe'],
    env: { ...process.env, WELLMORPH_DATA: data },
  });
}
async function answers(): Promise<void> {
  for (let i = 0; i < 900; i++) {
    try {
      if ((await fetch(`${BASE}/api/assets`)).ok) return;
    } catch {
      // Not there yet.
    }
    await new Promise((r) => setTimeout(r, 200));
  }
  throw new Error('the server did not come back');
}
const post = (path: string, body: unknown) =>
  fetch(`${BASE}${path}`, { method: 'POST', headers: { 'content-type': 'application/json' }, body: JSON.stringify(body) });

test('a server killed at any moment, over and over, has lost nothing it said was saved', async () => {
  const data = mkdtempSync(join(tmpdir(), 'wellmorph-kill-'));
  let server = start(data);
  try {
    await answers();
    const { id } = (await (await post('/api/assets', { name: 'Kept', purpose: 'game' })).json()) as { id: string };
    let version = 1;
    let name = 'Kept';
    let seq = 0;
    const rename = (next: string, at: number) =>
      post(`/api/assets/${id}/edits`, {
        baseVersion: version,
        clientId: 'a-page-of-ours',
        seq: at,
        command: { type: 'rename', name: next },
      });
    const blobs: { hash: string; bytes: number }[] = [];
    const imported: string[] = [];
    for (let round = 0; round < 4; round++) {
      let running = true;
      let asked = '';
      const edits = (async () => {
        for (let n = 0; running; n++) {
          asked = `Kept ${round}.${n}`;
          const response = await rename(asked, seq);
          if (!response.ok) break;
          version = ((await response.json()) as { version: number }).version;
          name = asked;
          seq++;
        }
      })().catch(() => undefined);
      const uploads = (async () => {
        for (let n = 0; running; n++) {
          const bytes = new Uint8Array(40_000 + n).fill(round * 16 + n);
          const response = await fetch(`${BASE}/api/blobs?kind=png`, { method: 'POST', body: bytes });
          if (!response.ok) break;
          blobs.push({ hash: ((await response.json()) as { hash: string }).hash, bytes: bytes.length });
          const form = new FormData();
          form.append('file', new Blob([tinLow()]), `tin-${round}-${n}.obj`);
          form.append('unit', 'mm');
          const made = await fetch(`${BASE}/api/import`, { method: 'POST', body: form });
          if (!made.ok) break;
          imported.push(((await made.json()) as { id: string }).id);
        }
      })().catch(() => undefined);
      await new Promise((r) => setTimeout(r, 500 + 450 * round));
      // On a busy machine an import takes longer; one at least has to have been answered for in the end.
      for (const end = Date.now() + 60_000; round === 3 && imported.length === 0 && Date.now() < end; )
        await new Promise((r) => setTimeout(r, 50));
      server.kill('SIGKILL');
      running = false;
      await Promise.all([edits, uploads]);
      await new Promise((r) => (server.exitCode === null && server.signalCode === null ? server.once('exit', r) : r(null)));
      server = start(data);
      await answers();
      const state = (await (await fetch(`${BASE}/api/assets/${id}`)).json()) as { version: number; document: { name: string } };
      // One more may have been stored than was answered; never one fewer.
      expect(state.version).toBeGreaterThanOrEqual(version);
      expect(state.version).toBeLessThanOrEqual(version + 1);
      if (state.version === version) expect(state.document.name).toBe(name);
      // The one whose answer was lost is asked again as it was: done once, whether it had been done or not.
      for (let twice = 0; twice < 2; twice++) {
        const again = await rename(asked, seq);
        expect(again.ok).toBe(true);
        expect(((await again.json()) as { version: number }).version).toBe(version + 1);
      }
      seq++;
      version += 1;
      name = asked;
      for (const b of blobs) expect((await (await fetch(`${BASE}/api/blobs/${b.hash}`)).arrayBuffer()).byteLength).toBe(b.bytes);
      for (const asset of imported) {
        const { document } = (await (await fetch(`${BASE}/api/assets/${asset}`)).json()) as {
          document: { parts: { shape: { low: { blob: string } } }[] };
        };
        for (const p of document.parts) expect((await fetch(`${BASE}/api/blobs/${p.shape.low.blob}`)).ok).toBe(true);
      }
    }
    expect(version).toBeGreaterThan(4);
    expect(imported.length).toBeGreaterThan(0);

    // A second server on the same data is refused with a sentence and leaves the first alone.
    const second = spawn(
      process.execPath,
      [join(ROOT, 'node_modules/next/dist/bin/next'), 'start', '-H', '127.0.0.1', '-p', String(PORT + 1)],
      { cwd: join(ROOT, 'web'), stdio: ['ignore', 'ignore', 'pipe'], env: { ...process.env, WELLMORPH_DATA: data } },
    );
    let said = '';
    second.stderr?.on('data', (d: Buffer) => {
      said += d.toString();
    });
    await expect.poll(() => second.exitCode, { timeout: 90_000 }).not.toBeNull();
    expect(said).toMatch(/already open in another Wellmorph \(process \d+\)/);
    expect((await fetch(`${BASE}/api/assets`)).ok).toBe(true);
  } finally {
    server.kill('SIGTERM');
    await new Promise((r) => (server.exitCode === null && server.signalCode === null ? server.once('exit', r) : r(null)));
    rmSync(data, { recursive: true, force: true });
  }
});
