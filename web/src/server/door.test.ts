import 'reflect-metadata';
import { mkdtempSync, readdirSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join, resolve } from 'node:path';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';

const dir = mkdtempSync(join(tmpdir(), 'wellmorph-door-'));
process.env.WELLMORPH_DATA = dir;

const { createAsset } = await import('./db/assets');
const { closeDatabase, database } = await import('./db/client');
const { smallPiece } = await import('../../test/pieces');
const { proxy, config } = await import('../proxy');
const { NextRequest } = await import('next/server');
const { sql } = await import('drizzle-orm');

type Params = Record<string, string>;
type Handler = (request: Request, context: { params: Promise<Params> }) => Promise<Response>;
const API = resolve(import.meta.dirname, '../app/api');
const METHODS = ['GET', 'POST', 'PUT', 'PATCH', 'DELETE'] as const;
const ORIGIN = 'http://127.0.0.1:4310';

/** Every handler there is, found where the framework finds them: a new one is tested without being named here. */
const doors: { path: string; method: string; handler: Handler }[] = [];
for (const file of readdirSync(API, { recursive: true, encoding: 'utf8' }).filter((f) => f.endsWith('route.ts'))) {
  const module = (await import(join(API, file))) as Record<string, unknown>;
  for (const method of METHODS)
    if (module[method]) doors.push({ path: `/api/${file.replace(/\/?route\.ts$/, '')}`, method, handler: module[method] as Handler });
}
const writing = doors.filter((d) => d.method !== 'GET');
/** Those that read files of any kind, and what is not JSON of a shape in particular. */
const TAKES_FILES = ['/api/import', '/api/assets/[id]/high', '/api/assets/[id]/parts', '/api/blobs'];
const TAKES_NOTHING = ['/api/assets/[id]/duplicate'];

/** A body each of them would take, were there such an asset. */
const once = { baseVersion: 1, clientId: 'somebody-1', seq: 0 };
const WHOLE: Record<string, object> = {
  '/api/assets/[id]': { deleted: true },
  '/api/assets/[id]/edits': { ...once, command: { type: 'rename', name: 'Ghost' } },
  '/api/assets/[id]/history': { ...once, direction: 'undo' },
  '/api/assets/[id]/pair': { ...once, part: 'cup', high: null },
  '/api/assets/[id]/jobs': { baseVersion: 1 },
  '/api/assets/[id]/trials': { stage: 'form', title: 'T', settings: {}, figures: {}, milliseconds: 1 },
  '/api/assets/[id]/trials/[trial]': { verdict: 'kept' },
  '/api/assets/[id]/trials/[trial]/take': once,
  '/api/assets/[id]/snags': { words: 'Soften the edge', minutes: 20 },
  '/api/assets/[id]/states': { name: 'Before the handles', baseVersion: 1 },
  '/api/assets/[id]/states/[state]': { forget: true },
  '/api/assets/[id]/states/[state]/take': once,
  '/api/assets/[id]/sweeps': { baseVersion: 1, axes: [{ key: 'aperture', values: [8] }] },
  '/api/runs/[run]/use': { ...once, asset: 'cup' },
  '/api/lessons/[lesson]': { removed: true },
  '/api/snags/[snag]': { done: true },
};

let asset = '';
const nowhere = '0123456789abcdef0123456789abcdef0123456789abcdef0123456789abcdef';

interface Knock {
  id?: string;
  body?: BodyInit;
  headers?: Record<string, string>;
}
function knock({ path, method, handler }: (typeof doors)[number], { id = asset, body, headers = {} }: Knock): Promise<Response> {
  const params: Params = {};
  for (const [, name] of path.matchAll(/\[(\w+)\]/g)) params[name] = name === 'id' ? id : nowhere;
  const url = new URL(
    path.replace(/\[(\w+)\]/g, (_, name) => params[name]),
    ORIGIN,
  );
  const init = { method, body, headers: { host: url.host, ...headers } };
  return handler(new Request(url, init), { params: Promise.resolve(params) });
}
async function refused(answer: Response): Promise<{ code: string; message: string }> {
  const said = (await answer.json()) as { code: string; message: string };
  expect(said.code).toMatch(/^[\w-]+\/[\w-]+$/);
  // One sentence: it ends once, begins as one does, and holds nothing of the machine’s insides.
  expect(said.message).toMatch(/^\p{Lu}[^\n]*\.$/u);
  expect(said.message.match(/[.!?](?=\s+\p{Lu})/gu)).toBeNull();
  expect(said.message).not.toMatch(/undefined|\[object|Error:|\bat \//);
  return said;
}
/** Everything stored, as one line a table. */
async function everything(): Promise<string[]> {
  const db = await database();
  const tables = await db.execute<{ t: string }>(
    sql`select table_name as t from information_schema.tables where table_schema = 'public' order by 1`,
  );
  const of = async ({ t }: { t: string }) => {
    const { rows } = await db.execute(
      sql`select count(*) as n, md5(string_agg(x::text, '|' order by x::text)) as sum from ${sql.identifier(t)} x`,
    );
    return `${t} ${JSON.stringify(rows[0])}`;
  };
  return Promise.all(tables.rows.map(of));
}

let before: string[];
beforeAll(async () => {
  asset = await createAsset(smallPiece('Door', 1));
  before = await everything();
});
afterAll(async () => {
  await closeDatabase();
  rmSync(dir, { recursive: true, force: true });
});

describe('whatever comes to a route', () => {
  it('there are routes that read and routes that write', () => {
    expect(doors.length).toBeGreaterThan(20);
    expect(writing.length).toBeGreaterThan(12);
  });
  it.each(doors)('$method $path: under another name, or from a page elsewhere, is refused', async (door) => {
    const body = door.method === 'GET' ? undefined : '{}';
    for (const headers of [
      { host: 'bench.example' },
      { host: '127.0.0.1.example:4310' },
      { origin: 'http://page.example' },
      { origin: 'null' },
      { 'sec-fetch-site': 'cross-site' },
    ] as Record<string, string>[]) {
      const answer = await knock(door, { body, headers });
      expect([headers, answer.status]).toEqual([headers, 403]);
      expect((await refused(answer)).code).toMatch(/^request\/(host|origin)$/);
    }
  });
  it.each(writing.filter((d) => !TAKES_NOTHING.includes(d.path)))('$method $path: what has no sense gets one sentence', async (door) => {
    const files = TAKES_FILES.includes(door.path);
    const bodies = [
      '',
      '{',
      '{}',
      '[]',
      'null',
      '"a"',
      '{"baseVersion":"1"}',
      '{"__proto__":{"x":1}}',
      'x'.repeat(9_000_000),
      '\u0000\ud800',
    ];
    for (const body of bodies) {
      const answer = await knock(door, { body, headers: { 'content-type': 'application/json' } });
      expect(answer.status).toBeGreaterThanOrEqual(400);
      expect([body.slice(0, 20), answer.status >= 500]).toEqual([body.slice(0, 20), false]);
      const { code } = await refused(answer);
      if (!files && body.length > 8_000_000) expect([answer.status, code]).toEqual([413, 'request/large']);
    }
  });
  it.each(doors.filter((d) => d.path.includes('[id]')))(
    '$method $path: of an asset that isn’t there is 4xx, in a sentence',
    async (door) => {
      for (const id of [nowhere, '00000000-0000-4000-8000-000000000000', '..', "' or 1=1 --", 'ü'.repeat(300)]) {
        const body = door.method === 'GET' ? undefined : JSON.stringify(WHOLE[door.path] ?? {});
        const answer = await knock(door, { id, body });
        expect(answer.status).toBeGreaterThanOrEqual(400);
        expect([id, answer.status >= 500]).toEqual([id, false]);
        const { code } = await refused(answer);
        if (WHOLE[door.path]) expect([door.path, code]).toEqual([door.path, expect.stringMatching(/missing$/)]);
      }
    },
  );
  it.each(writing.filter((d) => WHOLE[d.path]))(
    '$method $path: characters that are no text are refused wherever they stand',
    async (door) => {
      for (const bad of ['\\u0000', 'a\\ud800b', '\\udc00']) {
        const whole = JSON.stringify(WHOLE[door.path]);
        for (const body of [
          whole.replace(/^\{/, `{"also":"${bad}",`),
          whole.replace(/^\{/, `{"${bad}":1,`),
          whole.replace(/^\{/, `{"x":["${bad}"],`),
        ]) {
          const answer = await knock(door, { body });
          expect([body, answer.status, (await refused(answer)).code]).toEqual([body, 400, 'request/text']);
        }
      }
    },
  );
  it('text of any script is taken as it is', async () => {
    const made = doors.find((d) => d.path === '/api/assets' && d.method === 'POST') as (typeof doors)[number];
    const name = 'Λάμπα 灯 🏮 é “x”';
    const answer = await knock(made, { body: JSON.stringify({ name, purpose: 'game' }) });
    const { id } = (await answer.json()) as { id: string };
    const { assetState, setDeleted } = await import('./db/assets');
    expect((await assetState(id)).document.name).toBe(name);
    await setDeleted(id, true);
    before = await everything();
  });
  it('and none of it changed anything', async () => {
    expect(await everything()).toEqual(before);
  });
});

describe('the policy of a page', () => {
  const policyOf = (answer: Response) =>
    new Map(
      (answer.headers.get('content-security-policy') ?? '').split('; ').map((d): [string, string] => {
        const [name, ...rest] = d.split(' ');
        return [name, rest.join(' ')];
      }),
    );
  const visit = () => proxy(new NextRequest(`${ORIGIN}/`));

  it('has a nonce of its own each time, which the page’s own scripts are told', () => {
    const answers = [visit(), visit(), visit()];
    const nonces = answers.map((a) => /'nonce-([^']+)'/.exec(policyOf(a).get('script-src') ?? '')?.[1]);
    expect(new Set(nonces).size).toBe(3);
    for (const [i, a] of answers.entries()) {
      // 128 bits and more, as the standard asks (W3C CSP 3, §7.1).
      expect(Buffer.from(nonces[i] as string, 'base64').length).toBeGreaterThanOrEqual(16);
      expect(a.headers.get('x-middleware-request-x-nonce')).toBe(nonces[i]);
    }
  });
  it('runs WebAssembly, but never text, nor anything from elsewhere', () => {
    const policy = policyOf(visit());
    const scripts = (policy.get('script-src') as string).split(' ');
    expect(scripts).toContain("'wasm-unsafe-eval'");
    for (const never of ["'unsafe-eval'", "'unsafe-inline'", '*', 'http:', 'https:', 'data:', 'blob:'])
      expect(scripts).not.toContain(never);
    expect(policy.get('style-src')).not.toContain('unsafe-inline');
    expect([...policy.values()].join(' ')).not.toMatch(/https?:|\*/);
    expect(['object-src', 'base-uri', 'frame-ancestors'].map((d) => policy.get(d))).toEqual(["'none'", "'none'", "'none'"]);
  });
  it('is given to pages; routes and built files don’t need one', () => {
    const given = new RegExp(`^${config.matcher[0]}$`);
    for (const page of ['/', '/assets/abc', '/compare']) expect(given.test(page)).toBe(true);
    for (const other of ['/api/assets', '/_next/static/x.js', '/icon.svg']) expect(given.test(other)).toBe(false);
  });
});
