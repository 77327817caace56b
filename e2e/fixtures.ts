import { type ChildProcess, spawn } from 'node:child_process';
import { cpSync, mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join, resolve } from 'node:path';
import { test as base } from '@playwright/test';

const ROOT = resolve(import.meta.dirname, '..');

/** A server on a copy of the prepared data, for one file of tests. */
class Server {
  private child: ChildProcess | null = null;
  private data = '';
  private file = '';

  constructor(private readonly port: number) {}

  get url(): string {
    return `http://127.0.0.1:${this.port}`;
  }

  async for(file: string): Promise<void> {
    if (this.file === file) return;
    await this.stop();
    this.file = file;
    this.data = mkdtempSync(join(tmpdir(), 'wellmorph-e2e-'));
    cpSync(process.env.E2E_DATA as string, this.data, { recursive: true });
    rmSync(join(this.data, 'owner.json'), { force: true });
    await this.begin();
  }

  /** Ends it as a power cut would, and starts it again on what it left. */
  async killed(): Promise<void> {
    const { child } = this;
    if (!child) return;
    const ended = new Promise((r) => child.once('exit', r));
    child.kill('SIGKILL');
    await ended;
    await this.begin();
  }

  private async begin(): Promise<void> {
    this.child = spawn(
      process.execPath,
      [join(ROOT, 'node_modules/next/dist/bin/next'), 'start', '-H', '127.0.0.1', '-p', String(this.port)],
      { cwd: join(ROOT, 'web'), stdio: ['ignore', 'ignore', 'inherit'], env: { ...process.env, WELLMORPH_DATA: this.data } },
    );
    for (let i = 0; i < 900; i++) {
      try {
        if ((await fetch(`${this.url}/api/assets`)).ok) return;
      } catch {
        // Not there yet.
      }
      await new Promise((r) => setTimeout(r, 100));
    }
    throw new Error('the server for the browser tests did not start');
  }

  async stop(): Promise<void> {
    const { child } = this;
    if (!child) return;
    const ended = new Promise((r) => child.once('exit', r));
    child.kill('SIGTERM');
    await ended;
    this.child = null;
    rmSync(this.data, { recursive: true, force: true });
  }
}

/** Tests of one file share a server and its data; no other file sees what they do. */
export const test = base.extend<{ ready: undefined }, { server: Server }>({
  server: [
    // biome-ignore lint/correctness/noEmptyPattern: the runner reads what a fixture depends on from here
    async ({}, use, { parallelIndex }) => {
      const server = new Server(Number(process.env.E2E_PORT ?? 4399) + parallelIndex);
      await use(server);
      await server.stop();
    },
    { scope: 'worker' },
  ],
  baseURL: async ({ server }, use) => use(server.url),
  ready: [
    async ({ server }, use, info) => {
      await server.for(info.file);
      await use(undefined);
    },
    { auto: true },
  ],
});
export { type Browser, expect, type Locator, type Page } from '@playwright/test';
